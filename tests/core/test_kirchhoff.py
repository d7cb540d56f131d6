"""Kirchhoff's current law at each node of the tree of supplies, and the engine and the tree about the same
currents and voltages."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.check.report import Report
from knotplan.core.engine.solver.junction import fit
from knotplan.core.plan.beads import DIODES, Bead, Diode, SeriesResistor
from knotplan.core.power.node import Node
from tests.conftest import examples, lay, look_at
from tests.kirchhoff import assert_currents_add_up

LOADS = ("micro-servo", "standard-servo", "oled-display", "pixel-ring", "relay", "fan", "pump", "echo-ranger")
SUPPLIES = ("brick-5v", "brick-12v", "cell-pack", "single-cell")


def leads_of(kind: str) -> tuple[str, str]:
    """(fed lead, the other one) of a part that draws something."""
    part = shipped().part(kind, {})
    for e in part.elements.values():
        if type(e).__name__ in ("Load", "Coil", "Motor") and e.a in part.leads:
            return e.a, e.b
    raise AssertionError(kind)


def find(report: Report, part: str) -> Node | None:
    return next(
        (n for root in report.power for n in root.walk() if n.part == part and n.kind == "load"), None
    )


BEADS = st.lists(
    st.one_of(
        st.floats(-3, 2).map(lambda k: SeriesResistor(10**k, 0.0)),
        st.sampled_from(["silicon", "schottky"]).map(lambda style: Diode("lead", style)),  # type: ignore[arg-type]
    ),
    min_size=1,
    max_size=2,
)


@given(st.sampled_from(LOADS), st.sampled_from(SUPPLIES), BEADS)
@settings(max_examples=examples(60), deadline=None)
def test_a_load_behind_beads_draws_in_the_tree_what_the_engine_says(
    kind: str, supply: str, beads: list[Bead]
) -> None:
    """The current of the tree is that of the engine, and what arrives is the supply less what source, cords
    and beads lose at that current; the diodes by their own laws."""
    plus, other = leads_of(kind)
    source = shipped().part(supply, {}).source
    assert source is not None
    plan = lay(
        "bowline-40",
        {"it": kind, "from": supply},
        {f"from.{source.minus}": "p5", f"it.{plus}": f"from.{source.plus}", f"it.{other}": "p39"},
        {f"it.{plus}": beads},
    )
    report = look_at(plan)
    assert_currents_add_up(report)
    load = find(report, "it")
    if load is None:
        return  # less than a microampere
    amps = load.total.usual_a
    net = report.circuit.nets.of(f"it.{plus}")
    at_lead = max(r.typ for r in report.points.volts[net] if r.case.moment == "running")
    lost = sum(
        b.ohm * amps if isinstance(b, SeriesResistor) else fit(DIODES[b.style]).voltage(amps)
        for b in beads
        if isinstance(b, SeriesResistor | Diode)
    )
    assert at_lead == pytest.approx(source.volts.typ - lost, abs=2e-3)
    root = next(r for r in report.power if r.id == "from")
    assert root.total.usual_a == pytest.approx(amps, rel=1e-6)
