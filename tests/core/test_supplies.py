"""Supplies: which end of a wire asks, what may feed a board, and what must never be joined."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core import edits
from knotplan.core.analysis import analyse
from knotplan.core.direction import all_consumers_first, consumer_first
from knotplan.core.plan import Plan
from knotplan.core.report import Report

CATALOG = shipped()


def bench(board: str, *parts: str, **ties: str) -> Plan:
    """A plan of parts, each named as its kind, and ties: `flag__power="brick_5v.plus"`."""
    plan = Plan(board)
    for part in parts:
        plan = edits.add_part(plan, part, part)
    for lead, to in ties.items():
        plan = edits.tie(plan, lead.replace("__", ".").replace("_", "-"), to)
    return plan


def rules(plan: Plan) -> dict[str, str]:
    return {f.rule: f.severity for f in analyse(plan, CATALOG).findings}


def budget(report: Report, name: str) -> tuple[float, float]:
    found = next(b for b in report.budgets if b.id == name)
    return found.worst_a, found.limit_a


def test_a_wire_is_told_from_its_consumer_s_end() -> None:
    plan = bench("bowline-40", "brick-5v", "micro-servo")
    ask = ("brick-5v.plus", "micro-servo.power")
    assert consumer_first(plan, CATALOG, *ask) == consumer_first(plan, CATALOG, *ask[::-1]) == ask[::-1]
    assert consumer_first(plan, CATALOG, "brick-5v.zero", "board.p5") == ("brick-5v.zero", "board.p5")
    turned = all_consumers_first(edits.tie(plan, *ask), CATALOG)
    assert [(t.lead, t.to) for t in turned.ties] == [ask[::-1]]
    assert all_consumers_first(turned, CATALOG) is turned


def test_a_board_fed_over_its_pin_is_counted_on_that_supply_and_said() -> None:
    plan = bench("bowline-40", "brick-5v", brick_5v__plus="board.p1", brick_5v__zero="board.p5")
    report = analyse(plan, CATALOG)
    assert {f.rule: (f.severity, f.title) for f in report.findings} == {
        "supplies-joined": ("care", "Board fed past its socket")}  # fmt: skip
    own = CATALOG.board("bowline-40").rails["5v"].own_worst_a
    assert budget(report, "brick-5v") == pytest.approx((own, 3.0))


@pytest.mark.parametrize(("to", "rule"), [
    ("board.p2", "supplies-joined"), ("board.p1", "supplies-joined"), ("board.p10", "short-circuit"),
    ("board.p11", "need-unmet"), ("brick-5v.zero", "short-circuit"),
])  # fmt: skip
def test_a_supply_s_live_end_never_goes_unremarked(to: str, rule: str) -> None:
    plan = bench("bowline-40", "usb-brick", "brick-5v", usb_brick__plug="board.usb", brick_5v__zero="board.p5",
                 brick_5v__plus=to)  # fmt: skip
    assert rules(plan)[rule] == "stop"


def test_a_short_circuit_through_a_part_s_lead_is_found_and_undone_by_its_remedy() -> None:
    plan = bench("bowline-40", "usb-brick", "micro-servo", usb_brick__plug="board.usb", micro_servo__signal="board.p18",
                 micro_servo__power="board.p1", micro_servo__ground="board.p5")  # fmt: skip
    shorted = edits.tie(plan, "micro-servo.power", "board.p10", extra=True)
    found = next(f for f in analyse(shorted, CATALOG).findings if f.rule == "short-circuit")
    assert "5 V rail" in found.message
    assert {r.apply(shorted) == plan for r in found.remedies} == {True, False}  # either tie may go
    assert all("short-circuit" not in rules(r.apply(shorted)) for r in found.remedies)


def test_a_plug_goes_where_its_voltage_belongs() -> None:
    plan = bench("clove-22", "usb-brick", usb_brick__plug="board.barrel")
    found = next(f for f in analyse(plan, CATALOG).findings if f.rule == "need-unmet")
    assert "takes 7 – 12 V, this gives 4.75 – 5.25 V" in found.message
    assert [r.title for r in found.remedies] == ["Move to USB socket"]


def test_two_servos_stall_together() -> None:
    """4.75 V - 0.12 Ohm * 1.3 A = 4.594 V, below the 4.63 V at which the board resets; one alone stays above."""
    ties = {"usb_brick__plug": "board.usb", "micro_servo__power": "board.p1", "micro_servo__ground": "board.p5",
            "micro_servo__signal": "board.p18"}  # fmt: skip
    one = bench("bowline-40", "usb-brick", "micro-servo", **ties)
    assert rules(one)["jerky-load-on-board"] == "care"
    two = bench("bowline-40", "usb-brick", "micro-servo", "micro-servo", **ties, micro_servo_2__power="board.p3",
                micro_servo_2__ground="board.p10", micro_servo_2__signal="board.p24")  # fmt: skip
    found = [f for f in analyse(two, CATALOG).findings if f.rule == "jerky-load-on-board"]
    assert [f.severity for f in found] == ["stop", "stop"]
    assert found[0].numbers[-1].value == pytest.approx(4.75 - 0.12 * 1.3, abs=1e-4)  # signals draw a little too


def test_what_this_board_cannot_do_at_all_is_said() -> None:
    found = next(f for f in analyse(bench("bowline-40", "knob"), CATALOG).findings if f.subjects == ("knob.wiper",))
    assert found.message == "knob · wiper has to be tied. Nothing on Bowline 40 offers what it needs (analogue input)."
