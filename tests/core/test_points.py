"""Operating points of plans, against hand calculation and brentq."""

import math

import pytest
from scipy.optimize import brentq

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.corners import corner_signs
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.led import lit
from knotplan.core.engine.operating_points import operating_points
from knotplan.core.engine.readings import pin_volts
from knotplan.core.engine.solver.junction import fit
from knotplan.core.engine.solver.network import Samples, SolveError, Topology
from knotplan.core.engine.solver.newton import solve
from knotplan.core.plan.beads import PullDown, PullUp, SeriesResistor
from tests.conftest import lay, look_at


def led_plan(ohm: float = 270.0, tolerance: float = 0.05):
    return lay(
        "bowline-40",
        {"lamp": "led"},
        {"lamp.anode": "p11", "lamp.cathode": "p17"},
        {"lamp.anode": [SeriesResistor(ohm, tolerance)]},
    )


def loop_current(volts: float, ohms: float, shift: float) -> float:
    """Kirchhoff's voltage law solved by SciPy: source, resistances, one red junction."""
    law = fit(((0.001, 1.75), (0.02, 2.0)))
    total = ohms + law.rs_ohm
    return brentq(
        lambda i: volts - i * total - law.n_vt * math.log1p(i / law.is_a) - shift,
        0,
        volts / total,
        xtol=1e-16,
    )


def test_led_current_at_centre_and_corners() -> None:
    """Bowline's pin: 3.2/3.3/3.4 V behind 62/42/28 ohm; red LED +-0.15 V; 270 ohm 5 %."""
    reading = lit(look_at(led_plan()).points.junctions[of_part("lamp", "junction")])
    assert reading.typ == pytest.approx(loop_current(3.3, 42 + 270, 0), rel=1e-3)
    assert reading.min == pytest.approx(loop_current(3.2, 62 + 270 * 1.05, 0.15), rel=2e-2)
    assert reading.max == pytest.approx(loop_current(3.4, 28 + 270 * 0.95, -0.15), rel=2e-2)


def test_led_is_dark_when_its_pin_is_low_and_at_power_on() -> None:
    dark = [
        r
        for r in look_at(led_plan()).points.junctions[of_part("lamp", "junction")]
        if r.case.pin("board.p11") != "high"
    ]
    assert len(dark) == 2
    assert max(r.max for r in dark) < 1e-9


def test_button_levels_with_the_pins_own_pull() -> None:
    plan = lay(
        "bowline-40",
        {"door": "push-button"},
        {"door.contact": "p12", "door.common": "p28"},
        pulls={"door.contact": "up"},
    )
    levels = {
        r.case.contact("door", "contact"): r
        for r in pin_volts(Circuit(plan, Catalog()), look_at(plan).points, "board.p12")
        if r.case.moment == "running"
    }
    assert levels["closed"].max < 0.01
    assert levels["open"].min > 3.0


def test_pull_beads_and_divider_by_hand() -> None:
    """10 k up to 3.3 V and 4.7 k down: 3.3 * 4.7 / 14.7 = 1.055 V, pulled a little by the pin's leak."""
    plan = lay(
        "bowline-40",
        {"door": "push-button"},
        {"door.contact": "p12", "door.common": "p28"},
        {"door.contact": [PullUp(10e3, rail="board.p2"), PullDown(4700)]},
    )
    opened = [
        r
        for r in pin_volts(Circuit(plan, Catalog()), look_at(plan).points, "board.p12")
        if r.case.moment == "running" and r.case.contact("door", "contact") == "open"
    ]
    assert opened[0].typ == pytest.approx(3.3 * 4.7 / 14.7, rel=5e-3)


@pytest.mark.parametrize(("position", "share"), [("0", 0.001), ("0.5", 0.5), ("1", 0.999)])
def test_knob_is_a_divider_of_its_supply(position: str, share: float) -> None:
    plan = lay("clove-22", {"dial": "knob"}, {"dial.top": "w3", "dial.wiper": "w4", "dial.bottom": "w2"})
    found = [
        r
        for r in look_at(plan).points.volts["board.w4"]
        if r.case.moment == "running" and r.case.contact("dial", "track") == position
    ]
    assert found[0].typ == pytest.approx(5.0 * share, rel=6e-3)


def test_fitted_pull_up_counts() -> None:
    """L31 has 1.8 k to 3.3 V: pressed, the switch carries 3.3 / 1800 A (and the pin's leak)."""
    plan = lay("bowline-40", {"door": "push-button"}, {"door.contact": "p14", "door.common": "p17"})
    pressed = [
        r
        for r in look_at(plan).points.bars[of_part("door", "contact")]
        if r.case.contact("door", "contact") == "closed"
    ]
    assert pressed[0].typ == pytest.approx(3.3 / 1800, rel=1e-2)


def test_corners_bound_everything_between() -> None:
    signs = corner_signs(3)
    assert signs.shape == (3, 9)
    assert (signs[:, 0] == 0).all()
    assert corner_signs(12).shape == (12, 1 + 2 + 24)


def test_clusters_that_differ_by_names_only_are_solved_once(monkeypatch: pytest.MonkeyPatch) -> None:
    solved = []

    def counted(topology: Topology, samples: Samples) -> object:
        solved.append(samples.fixed_v.shape[1])
        return solve(topology, samples)

    monkeypatch.setattr("knotplan.core.engine.records.solve", counted)
    one = {"a": "led"}, {"a.anode": "p11", "a.cathode": "p17"}, {"a.anode": [SeriesResistor(330)]}
    parts, ties, beads = one
    ties, beads = {**ties, "b.anode": "p15", "b.cathode": "p17"}, {**beads, "b.anode": beads["a.anode"]}
    two = {**parts, "b": "led"}, ties, beads
    samples = []
    for parts, ties, beads in (one, two):
        solved.clear()
        points = operating_points(Circuit(lay("bowline-40", parts, ties, beads), shipped()))
        assert all(len(points.junctions[of_part(p, "junction")]) > 1 for p in parts)
        samples.append(sum(solved))
    assert samples[0] == samples[1]


def test_what_does_not_settle_is_named_as_the_plan_calls_it(monkeypatch) -> None:
    """The sample that the solver names, found again among clusters, cases and corners."""

    def fails(topology: object, samples: Samples) -> object:
        raise SolveError(0, samples.fixed_v.shape[1] - 1)

    monkeypatch.setattr("knotplan.core.engine.records.solve", fails)
    plan = lay(
        "bowline-40",
        {"a": "led", "b": "led"},
        {"a.anode": "p11", "a.cathode": "p17", "b.anode": "p15", "b.cathode": "p17"},
        {"a.anode": [SeriesResistor(330)], "b.anode": [SeriesResistor(470)]},
    )
    with pytest.raises(SolveError, match=r"the node '.*' \(power-on: .*board.p15 .*\)"):
        operating_points(Circuit(plan, shipped()))
