"""A frequency that is missed matters where it is a tone or a frame, not where only the mean counts."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from tests.conftest import lay, look_at

COARSE = next(
    (p, job)
    for p, pin in shipped().board("clove-22").pins.items()
    for job in pin.jobs("pwm")
    if shipped().board("clove-22").peripherals[job.unit].counter.bits == 8
)


@pytest.mark.parametrize(("asked", "severity"), [(None, "note"), (20e3, "care")])
def test_a_motor_s_frequency_is_a_note_until_somebody_asks_for_one(
    asked: float | None, severity: str
) -> None:
    pin = COARSE[0]
    plan = lay("clove-22", {"hub": "motor-bridge"}, {"hub.ain1": pin})
    if asked is not None:
        plan = edits.set_hertz(plan, "hub.ain1", asked)
    (found,) = [f for f in look_at(plan).findings if f.rule == "pulse-off"]
    assert found.severity == severity
