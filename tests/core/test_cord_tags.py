"""What lenses say of cords: the same numbers as the engine's, and nothing through other lenses."""

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.drawing.loom.cord_tags import cord_tags
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.drawing.shapes import Text
from knotplan.core.power.budget import pin_current
from knotplan.core.quantity.written import show
from knotplan.examples import example


def tags(lens: str) -> tuple[object, list[str]]:
    report = analyse(example("harbour-light", shipped()), shipped())
    bench = lay_out(report.circuit)
    return report, [s.text for s in cord_tags(report, bench, lens, LIGHT) if isinstance(s, Text)]


def test_cords_carry_the_engines_numbers() -> None:
    report, said = tags("load")
    pins = report.points.pins  # type: ignore[attr-defined]
    for contact in ("board.p11", "lens-driver.out1"):
        assert show(pin_current(pins[contact])[1], "A", 2) in said
    assert "29 mA" in said  # the horn, over the relay's contact
    report, said = tags("volts")
    lamp = report.points.volts[report.circuit.nets.of("lamp.anode")]  # type: ignore[attr-defined]
    assert show(max(r.typ for r in lamp if r.case.moment == "running"), "V") in said


def test_other_lenses_leave_cords_alone() -> None:
    assert all(tags(lens)[1] == [] for lens in ("fit", "power-on", "sharing"))
