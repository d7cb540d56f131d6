"""Whatever a maker has on the bench, half done or nonsense, is analysed: no
exception, no failed rule, no lost number."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.buses.assign import Conflict, assign
from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.picture import picture
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.drawing.loom.view import Selection, look
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.engine.decided import decided
from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError
from knotplan.core.finders.in_plan import proposals
from knotplan.core.match.fit import fits
from knotplan.core.plan import edits
from knotplan.core.plan.beads import (
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
    SeriesResistor,
    Zener,
)
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.power.alone import usb_alone
from knotplan.core.text.buses import overview
from knotplan.core.text.program import constants
from knotplan.core.text.timing import describe
from knotplan.core.timing.lanes import lanes
from knotplan.exchange.exports.parts_list import parts_csv
from knotplan.exchange.exports.sheet import html
from tests.conftest import lay, look_at

CATALOG = shipped()


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    """Up to five parts with any parameters, tied to anything at all, with any beads and pulls."""
    plan = Plan(draw(st.sampled_from(CATALOG.board_ids())), turned=draw(st.sampled_from([0, 90, 180, 270])))
    for k in range(draw(st.integers(0, 5))):
        kind = draw(st.sampled_from(CATALOG.part_ids()))
        choices = {
            n: draw(st.sampled_from(p.choices)) for n, p in CATALOG.kind(kind).params.items() if p.choices
        }
        plan = edits.add_part(plan, kind, f"p{k}", choices)
    circuit = Circuit(plan, CATALOG)
    leads = circuit.contacts.leads()
    anything = [*leads, *(f"board.{p}" for p in (*circuit.board.pins, *circuit.board.sockets))]
    for _ in range(draw(st.integers(0, 10)) if leads else 0):
        try:
            plan = edits.tie(
                plan, draw(st.sampled_from(leads)), draw(st.sampled_from(anything)), extra=draw(st.booleans())
            )
        except EditError:
            continue
    supply = next(f"board.{p}" for p, pin in circuit.board.pins.items() if pin.kind == "supply")
    for tie in plan.ties:
        ohm = draw(st.floats(1.0, 1e6))
        rail = draw(st.sampled_from([supply, *anything]))
        kinds = [
            SeriesResistor(ohm),
            PullUp(ohm, rail=rail),
            PullDown(ohm),
            Capacitor(1e-6),
            Fuse(1.0),
            Clamp(rail),
            Zener(3.9),
            Diode(draw(st.sampled_from(["lead", "pin"]))),
            LevelShifter("mosfet", rail, supply),
            LevelShifter("buffer", supply, rail),
        ]
        for bead in draw(st.lists(st.sampled_from(kinds), max_size=2)):
            plan = edits.add_bead(plan, tie.id, bead)
        plan = edits.set_pull(plan, tie.id, draw(st.sampled_from(["none", "up", "down"])))
        plan = edits.lay_cord(plan, tie.id, draw(st.sampled_from(["", "ribbon", "twisted", "shielded"])))
        plan = edits.set_hertz(plan, tie.id, draw(st.sampled_from([0.0, 0.5, 50.0, 1e3, 1e8])))
        plan = edits.set_cord(plan, tie.id, draw(st.sampled_from([0.0, 0.01, 100.0])))
    for part in plan.parts:
        for what in draw(st.lists(st.sampled_from(ASKED), max_size=2)):
            plan = edits.set_program_setting(
                plan,
                part.id,
                what,
                draw(st.sampled_from([1e-9, 0.5, 1.0, 1e6, "half", "backwards", "FF 1", ""])),
            )
    for unit in draw(
        st.lists(st.sampled_from(["board.i2c:0", "board.i2c:1", "board.spi:0", "board.spi:1"]), max_size=2)
    ):
        plan = edits.set_clock(plan, unit, draw(st.sampled_from([1.0, 1e5, 4e5, 1e9])))
    return plan


ASKED = (
    "at",
    "duty",
    "law",
    "levels",
    "mode",
    "rpm",
    "way",
    "ramp",
    "microsteps",
    "refresh",
    "text",
    "words",
    "on_s",
    "off_s",
    "low_s",
    "high_s",
    "to_low",
    "baud",
    "nonsense",
)


@pytest.mark.slow
@given(plans())
@settings(max_examples=150, deadline=None)
def test_any_plan_is_analysed_drawn_and_handed_over(plan: Plan) -> None:
    report = analyse(plan, CATALOG)
    assert not [f.message for f in report.findings if f.rule in ("rule-failed", "engine-failed")]
    for readings in report.points.volts.values():
        assert all(math.isfinite(r.min) and r.min <= r.typ + 1e-9 and r.typ <= r.max + 1e-9 for r in readings)
    assert all(math.isfinite(b.worst_a) and b.usual_a <= b.worst_a + 1e-9 for b in report.budgets)
    for lead in report.circuit.contacts.leads():
        assert all(f.reason for f in fits(report.circuit, lead))
    picture(report, lay_out(report.circuit), look(report, "load", Selection()), LIGHT)
    for lane in lanes(report.circuit):
        assert lane.wave.seen(0.0, 1.0, 1e-3).count >= 1 and lane.about
    for part in report.circuit.parts:
        assert all(len(row) == len(t.heads) for t in describe(report, part).tables for row in t.rows)
    assert all(e.title for e in overview(report)) and all(k.name.isidentifier() for k in constants(report))
    assigned = assign(report.circuit, [p for p in report.circuit.parts if report.circuit.parts[p].facts.i2c])
    assert isinstance(assigned, Conflict) == bool(getattr(assigned, "parts", ()))
    for root in report.power:
        for node in root.walk():
            below = sum(n.drawn.peaks_a for n in node.children)
            assert not node.children or math.isclose(node.total.peaks_a, below, rel_tol=1e-6, abs_tol=1e-9)
    usb_alone(report.circuit, report.power, CATALOG)
    for tie in plan.ties:
        assert all(
            d.least < d.most and d.case.moment == "running"
            for d in decided(report.circuit, report.points, tie)
        )
        for asked in proposals(report.circuit, report.points, tie):
            try:
                found = BY_ID[asked.finder](asked.values, asked.origins)
            except FinderError as error:
                assert "missing" not in str(error)
                continue
            made = asked.remedy(found)
            assert made is None or made.apply(plan) != plan
    assert plan.title in html(report) and parts_csv(report)


@pytest.mark.slow
@given(plans())
@settings(max_examples=40, deadline=None)
def test_any_remedy_can_be_made(plan: Plan) -> None:
    """It changes the plan, and what it leaves is analysed without failing; that it settles its finding
    where that is all that is wrong is shown for each rule in test_rules."""
    kept = AnalysisCache()
    for finding in analyse(plan, CATALOG, kept=kept).findings:
        for remedy in finding.remedies[:2]:
            after = remedy.apply(plan)
            assert after != plan, remedy.title
            failed = [
                f
                for f in analyse(after, CATALOG, kept=kept).findings
                if f.rule in ("rule-failed", "engine-failed")
            ]
            assert not failed, (remedy.title, failed[0].message)


@pytest.mark.parametrize("board", CATALOG.board_ids())
@pytest.mark.parametrize("part", CATALOG.part_ids())
def test_each_part_alone_and_untied(board: str, part: str) -> None:
    """What stands on the bench right after it was added."""
    rules = {f.rule for f in look_at(lay(board, {"one": part}, {})).findings}
    assert rules <= {"lead-untied", "board-unfed"}


def test_an_engine_that_fails_is_a_finding_at_stop_and_nothing_is_lost(monkeypatch, caplog) -> None:
    def fails(*_: object) -> None:
        raise ArithmeticError("on purpose")

    monkeypatch.setattr("knotplan.core.engine.records.solve", fails)
    report = look_at(lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p11"}))
    assert report.findings[0].rule == "engine-failed" and "on purpose" in report.findings[0].message
    assert "lead-untied" in [f.rule for f in report.findings], "what needs no numbers is still checked"
    assert [r.getMessage() for r in caplog.records] == ["the engine failed"] and caplog.records[0].exc_info
    caplog.clear()
