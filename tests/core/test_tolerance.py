"""Specimens by chance, against numerical integration and against the corners, which are computed apart."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import dblquad

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.clusters import clusters
from knotplan.core.engine.corners import MOST_CORNERS
from knotplan.core.engine.decided import decided
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.led import lit
from knotplan.core.engine.operating_points import operating_points
from knotplan.core.engine.tolerance import Spread, of_junction, of_net
from knotplan.core.plan.beads import PullDown, SeriesResistor
from knotplan.examples import example
from tests.conftest import lay, look_at


def lamp(ohm: float = 270.0, tolerance: float = 0.1):
    return lay(
        "bowline-40",
        {"lamp": ("led", {})},
        {"lamp.anode": "p11", "lamp.cathode": "p17"},
        {"lamp.anode": [SeriesResistor(ohm, tolerance)]},
    )


@given(st.floats(47.0, 10e3), st.sampled_from([0.01, 0.05, 0.2]))
@settings(max_examples=15, deadline=None)
def test_corners_bound_the_specimens(ohm: float, tolerance: float) -> None:
    circuit = Circuit(lamp(ohm, tolerance), shipped())
    readings = operating_points(circuit).junctions[of_part("lamp", "junction")]
    best = lit(readings)
    assert best is not None
    found = of_junction(circuit, of_part("lamp", "junction"), best.case, 2000)
    assert found is not None
    assert found.values.min() >= best.min * (1 - 1e-9) and found.values.max() <= best.max * (1 + 1e-9)
    assert float(np.median(found.values)) == pytest.approx(best.typ, rel=0.03)
    assert found.values.max() - found.values.min() > 0.4 * (
        best.max - best.min
    )  # it is no narrower than chance makes it


def test_mean_of_a_divider_against_an_integral() -> None:
    """V R2/(R1 + R2) over two resistors, each evenly spread by 20 %, integrated by QUADPACK; the pin's
    leakage and the supply's spread do not move the mean."""
    plan = lay(
        "bowline-40",
        {"button": ("push-button", {})},
        {"button.contact": "p11", "button.common": "p1"},
        {"button.contact": [SeriesResistor(1000.0, 0.2), PullDown(2200.0, 0.2)]},
    )
    circuit = Circuit(plan, shipped())
    net = circuit.nets.of("board.p11")
    case = next(
        r.case
        for r in operating_points(circuit).volts[net]
        if r.case.contact("button", "contact") == "closed"
    )
    found = of_net(circuit, net, case)
    assert found is not None
    area = 400.0 * 880.0
    supply = circuit.supplies.origins[circuit.nets.of("board.p1")].volts
    mean = 0.25 * (supply.min + 2 * supply.typ + supply.max)  # two halves, each evenly spread
    expected = mean * dblquad(lambda b, a: b / (a + b), 800, 1200, 1760, 2640)[0] / area
    assert float(found.values.mean()) == pytest.approx(expected, rel=2e-3)


def test_histogram_counts_every_specimen_even_when_all_are_alike() -> None:
    for values in (np.full(50, 0.005), np.linspace(-1, 1, 50), np.zeros(50)):
        edges, counts = Spread(None, values).histogram(10)  # type: ignore[arg-type]
        assert counts.sum() == 50 and len(edges) == 11 and (np.diff(edges) > 0).all()


def test_shares_and_middles() -> None:
    spread = Spread(None, np.arange(1.0, 101.0))  # type: ignore[arg-type]
    assert spread.share(1, 50) == 0.5
    assert spread.within(0.9) == pytest.approx((5.95, 95.05))


def test_what_is_not_there_has_no_specimens() -> None:
    circuit = Circuit(lamp(), shipped())
    case = operating_points(circuit).junctions[of_part("lamp", "junction")][0].case
    assert of_junction(circuit, of_part("lamp", "other"), case) is None
    assert of_net(circuit, "nowhere", case) is None


def test_what_a_range_decides() -> None:
    report = look_at(
        lay(
            "bowline-40",
            {"lamp": ("led", {}), "bell": ("relay-module", {}), "door": ("push-button", {})},
            {
                "lamp.anode": "p11",
                "lamp.cathode": "p17",
                "bell.vcc": "p2",
                "bell.gnd": "p17",
                "bell.in1": "p12",
                "door.contact": "p13",
                "door.common": "p17",
            },
            {"lamp.anode": [SeriesResistor(270.0)]},
            {"door.contact": "up"},
        )
    )
    c = report.circuit

    def of(lead: str) -> dict[str, tuple[float, float]]:
        tie = c.ties.of(lead)
        assert tie is not None
        return {d.what: (d.least, d.most) for d in decided(c, report.points, tie)}

    led = shipped().part("led", {}).elements["junction"]
    assert of("lamp.anode") == {"LED current": (led.visible_a, led.most_a)}
    driver = c.hardware.driver("board.p13")
    assert of("door.contact") == {
        "Level when high": (driver.input_high_v, float("inf")),
        "Level when low": (float("-inf"), driver.input_low_v),
    }


@pytest.mark.parametrize(
    "scene",
    [
        "harbour-light",
        "mist-bench",
        "kite-winder",
        "seed-drawers",
        "badge-wall",
        "rules/switch-half-open.bad",
        "rules/switch-half-open.good",
    ],
)
def test_corners_bound_the_specimens_of_every_net(scene: str) -> None:
    """Junctions, pins, transistors between off and saturation: no specimen
    lies beyond the corners of its net."""
    circuit = Circuit(example(scene, shipped()), shipped())
    points = operating_points(circuit)
    looked = 0
    for cluster in clusters(circuit):
        assert len(cluster.varying) <= MOST_CORNERS, "a net of a scene that is not looked at whole"
        for net in cluster.nodes[:3]:
            r = max(points.volts[net], key=lambda x: x.max - x.min)
            found = of_net(circuit, net, r.case, 400)
            assert found is not None
            slack = 1e-6 + 1e-6 * abs(r.max)
            assert r.min - slack <= found.values.min() and found.values.max() <= r.max + slack, (net, r.case)
            looked += 1
    assert looked >= 3
