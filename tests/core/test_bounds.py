"""Numbers of a plan outside their ranges: each is refused with its value, its range and its unit."""

from collections.abc import Callable

import pytest

from knotplan.core.plan.beads import Bead, Capacitor, Fuse, PullUp, SeriesResistor, Zener
from knotplan.core.plan.document import Activity, BusClock, Plan, Tie


def cord(**of: float) -> Tie:
    return Tie("a.b", "a.b", "board.p1", **of)


@pytest.mark.parametrize(
    ("make", "message"),
    [
        (
            lambda: SeriesResistor(0),
            "a resistor of 0 Ω is not possible; .* above 0 Ω and at most 1 GΩ",
        ),
        (lambda: PullUp(-5), "a resistor of -5 Ω is not possible"),
        (lambda: SeriesResistor(1e3, 1.0), "a tolerance of 100 % is not possible; .* below 100 %"),
        (lambda: SeriesResistor(1e3, 0.05, 0), "a rating of 0 W is not possible; .* at most 10 kW"),
        (lambda: Capacitor(2), "a capacitor of 2 F is not possible; .* at most 1 F"),
        (lambda: Capacitor(1e-6, -1), "a rating of -1 V is not possible; .* at most 1 kV"),
        (lambda: Fuse(100.001), "a fuse of 100.001 A is not possible; .* at most 100 A"),
        (lambda: Zener(0.5), "a zener diode of 500 mV is not possible; it has to be at least 1 V"),
        (lambda: cord(length_m=-1), "a cord of -1 m is not possible; it has to be at least 0 m"),
        (lambda: cord(mm2=51), "a cord of 51 mm² is not possible; .* at most 50 mm²"),
        (lambda: cord(hertz=2e8), "a frequency of 200 MHz is not possible; .* at most 100 MHz"),
        (lambda: BusClock("board.i2c:1", 0), "a bus clock of 0 Hz is not possible; .* at most 1 GHz"),
        (lambda: Activity("a", "A", lasts_s=0), "a length of 0 s is not possible"),
        (lambda: Activity("a", "A", starts_s=-1), "a start of -1 s is not possible"),
        (lambda: Activity("a", "A", every_s=4e7), "a time between two of 40000000 s is not possible"),
        (lambda: Plan("bowline-40", cycle_s=0), "a cycle of 0 s is not possible"),
    ],
)
def test_a_number_outside_its_range_is_refused_with_the_range(
    make: Callable[[], Bead | Tie | BusClock | Activity | Plan], message: str
) -> None:
    with pytest.raises(ValueError, match=message):
        make()
