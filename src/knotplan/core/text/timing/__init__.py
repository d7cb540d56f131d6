"""What there is to say of a part's timing, each number beside what it is compared with."""

from knotplan.core.check.report import Report
from knotplan.core.text.timing.measured import mapping_of, of_captures, of_grids, of_sensors, sensor_text
from knotplan.core.text.timing.piece import Description, Sentence, Table
from knotplan.core.text.timing.pulses import of_pulses, steps_of
from knotplan.core.text.timing.servos import of_servos
from knotplan.core.text.timing.steppers import of_steppers
from knotplan.core.text.timing.switched import of_pixels, of_relays

__all__ = ["Description", "Sentence", "Table", "describe", "mapping_of", "sensor_text", "steps_of"]


def describe(report: Report, part_id: str) -> Description:
    """Everything about one part."""
    c = report.circuit
    pieces = [
        *of_pulses(c, part_id),
        *of_servos(report, part_id),
        *of_steppers(report, part_id),
        *of_relays(c, part_id),
        *of_pixels(report, part_id),
        *of_sensors(c, part_id),
        *of_captures(c, part_id),
        *of_grids(c, part_id),
    ]
    return Description(
        tuple(x for x in pieces if not isinstance(x, Table)), tuple(x for x in pieces if isinstance(x, Table))
    )
