"""Suggestions: against exhaustive search on small plans, by properties on random
ones, and what is said when none is."""

import random
from itertools import combinations, pairwise, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.optimize import Bounds, LinearConstraint, milp

from knotplan.catalog.load import shipped
from knotplan.core.check.automatic_fixes import mend
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan, split
from knotplan.core.suggest import suggestion
from knotplan.core.suggest.asked import loosened
from knotplan.core.suggest.exact import best, best_answer
from knotplan.core.suggest.options import Option, Task
from knotplan.core.suggest.programme import lines_of, programme, runs_of
from knotplan.core.suggest.quick import quick
from knotplan.core.suggest.solver import GAP, PROVEN, matrix_of, solved, stated
from knotplan.core.suggest.suggestion import Ready, first_answer, made, prepare
from tests.conftest import lay, look_at

CATALOG = shipped()


def ready_for(
    board: str, parts: dict[str, str | tuple[str, dict]], ties: dict[str, str] | None = None
) -> Ready:
    return prepare(lay(board, {"usb": "usb-brick", **parts}, ties or {}), CATALOG)


# --- an exhaustive search, written for this test alone -----------------------------------------------


def apart(a: Option, b: Option) -> bool:
    """Whether two options cannot stand together, by the rules as people say them."""
    if a.contact == b.contact and (a.alone or b.alone or a.shared != b.shared):
        return True
    if a.timer and a.timer == b.timer and (a.hertz != b.hertz or a.channel == b.channel):
        return True
    return bool(a.remap and b.remap) and a.remap[0] == b.remap[0] and a.remap[1] != b.remap[1]


def allowed(options: list[Option], task: Task) -> bool:
    """Whether all these options can stand together."""
    if any(apart(a, b) for a, b in combinations(options, 2)):
        return False
    by_part: dict[tuple[str, str], set] = {}
    for o in options:
        if o.buses:
            kind = o.buses[0].unit.kind
            key = (split(o.lead)[0], kind)
            by_part[key] = by_part.get(key, set(o.buses)) & set(o.buses)
    if not all(by_part.values()):
        return False
    for pool, (channels, further) in task.pools.items():
        users = [o for o in options if o.pool == pool]
        if len(users) > channels or len({o.hertz for o in users} - task.pool_hertz[pool]) > further:
            return False
    return True


def value(options: list[Option], circuit: Circuit) -> float:
    """Costs, a price for each line of a bus, and what a part's consecutive leads on neighbouring contacts
    save: every way to cut a part's leads into runs of one direction is tried."""
    total = sum(o.cost for o in options) + 3.0 * len({(o.contact, o.shared) for o in options if o.shared})
    beside = {}
    for line in lines_of(circuit):
        for a, b in pairwise(line):
            beside[a, b], beside[b, a] = 1.5, 1.4
    by_part: dict[str, list[Option]] = {}
    for o in options:
        if o.alone:
            by_part.setdefault(split(o.lead)[0], []).append(o)
    for own in by_part.values():
        steps = [beside.get((a.contact, b.contact), 0.0) for a, b in pairwise(own)]
        best_saved = 0.0
        for keep in product((0, 1), repeat=len(steps)):
            kept = [(s if k else 0.0) for s, k in zip(steps, keep, strict=True)]
            if all(
                not (x and y) or x == y for x, y in pairwise(kept)
            ):  # two neighbouring steps of one run: one direction
                best_saved = max(best_saved, sum(kept))
        total -= best_saved
    return total


def exhaustive(ready: Ready) -> float | None:
    task = ready.task
    found = None
    for choice in product(*(task.of(lead) for lead in task.leads)):
        if allowed(list(choice), task):
            worth = value(list(choice), ready.circuit)
            found = worth if found is None else min(found, worth)
    return found


DIMMED = ("led", {"dimmed": "yes"})
SMALL: dict[str, tuple[str, dict]] = {
    "two lamps and a servo": ("bowline-40", {"A": DIMMED, "B": DIMMED, "F": "micro-servo"}),
    "a servo between frequencies": ("clove-22", {"F": "micro-servo", "A": DIMMED}),
    "two devices on a bus": ("bowline-40", {"T": "i2c-thermometer", "E": "eeprom", "F": "micro-servo"}),
    "a bus among instances": ("splice-24", {"T": "i2c-thermometer"}),
    "knobs": ("clove-22", {"K": "knob", "L": "knob", "J": "joystick"}),
    "groups of pins": ("reef-48", {"P": "positioning-receiver"}),
}


@pytest.mark.parametrize("name", SMALL)
def test_the_best_answer_is_that_of_an_exhaustive_search(name: str) -> None:
    board, parts = SMALL[name]
    ready = ready_for(board, {**parts, "Brick": "brick-5v"})
    size = 1
    for lead in ready.task.leads:
        size *= len(ready.task.of(lead))
    assert 1 < size < 300_000, size
    pick, proven = best(ready)
    assert proven and pick is not None
    chosen = [ready.task.options[pick[lead]] for lead in ready.task.leads]
    assert allowed(chosen, ready.task)
    assert value(chosen, ready.circuit) == pytest.approx(exhaustive(ready), abs=1e-5)


@pytest.mark.parametrize("servos", [2, 3])
def test_what_cannot_be_met_has_no_answer_by_any_of_the_three(servos: int) -> None:
    """Bowline's two pulse pairs give two frequencies; three are wanted."""
    parts = {f"F{k}": "micro-servo" for k in range(servos)}
    fan = ("fan", {"style": "12 V, four wires"})
    ready = ready_for("bowline-40", {**parts, "A": DIMMED, "M": fan, "Brick": "brick-5v", "Big": "brick-12v"})
    options = {lead: [o for o in ready.task.of(lead) if o.timer] for lead in ready.task.leads}
    task = Task(
        ready.task.leads,
        [o for many in options.values() for o in many],
        ready.task.hertz,
        ready.task.pools,
        ready.task.pool_hertz,
        ready.task.remaps,
    )
    strict = replace(ready, task=task)
    assert exhaustive(strict) is None
    assert best(strict) == (None, True)
    said = first_answer(strict, CATALOG)
    assert said.ties == () and said.conflict is not None
    leads = said.conflict.leads
    assert exhaustive(replace(ready, task=task.only(leads))) is None
    for lead in leads:  # and it is the smallest: without any one of them the rest can be had
        assert exhaustive(replace(ready, task=task.only([x for x in leads if x != lead]))) is not None
    assert set(said.conflict.leads) <= {*(f"f{k}.signal" for k in range(servos)), "a.anode", "m.speed"}
    assert any("PWM hub" in free for free in said.conflict.frees)


def test_that_no_answer_came_at_once_is_no_conflict() -> None:
    """Six outputs at two frequencies, a servo and a bus on four timers: the quick search gives up on it."""
    parts = {
        "A": "rgb-led",
        "Clock": "clock",
        "Fan": ("fan", {"style": "12 V, four wires"}),
        "Flag": "micro-servo",
        "B": "rgb-led",
        "Five": "brick-5v",
        "Twelve": "brick-12v",
    }
    ready = ready_for("clove-60", parts)
    assert quick(ready.task) is None
    said = first_answer(ready, CATALOG)
    assert said.conflict is None and {t.lead for t in said.ties} >= set(ready.task.leads)


def test_many_parts_on_buses_do_not_multiply_the_time() -> None:
    """Twenty devices on either of two buses are a million ways; that a receiver too
    many finds no UART is said at once."""
    parts: dict[str, str | tuple[str, dict]] = {f"T{k}": "i2c-thermometer" for k in range(20)}
    parts |= {f"P{k}": "positioning-receiver" for k in range(7)}
    said = first_answer(ready_for("capstan-34", parts), CATALOG)
    assert said.conflict is not None and all(lead.startswith("p") for lead in said.conflict.leads)


def test_of_a_task_that_is_too_large_a_good_answer_is_enough(monkeypatch) -> None:
    ready = ready_for("clove-22", {"Flag": "micro-servo", "Dial": "knob", "Brick": "brick-5v"})
    assert ready.provable and best_answer(ready, CATALOG).proven
    monkeypatch.setattr(suggestion, "MOST_OPTIONS", len(ready.task.options) - 1)
    said = best_answer(ready, CATALOG)
    assert (
        not ready.provable
        and not said.proven
        and {"flag.signal", "dial.wiper"} <= {t.lead for t in said.ties}
    )


def test_a_search_that_ran_out_of_time_claims_nothing() -> None:
    said = made(ready_for("bowline-40", {"Dial": "knob"}), CATALOG, None, proven=False)
    assert said.ties == () and said.conflict is not None and said.conflict.leads == ()
    assert "no proof" in said.conflict.words


# --- properties --------------------------------------------------------------------------------------


@st.composite
def benches(draw: st.DrawFn) -> Plan:
    """A board with a brick and up to seven parts of all kinds, nothing tied."""
    plan = lay(
        draw(st.sampled_from(CATALOG.board_ids())),
        {"Feed": "usb-brick", "Five": "brick-5v", "Twelve": "brick-12v"},
        {},
    )
    for k in range(draw(st.integers(1, 7))):
        offer = draw(
            st.sampled_from([o for o in CATALOG.offers() if CATALOG.part(o.part, o.params).source is None])
        )
        plan = edits.add_part(plan, offer.part, f"p{k}", offer.params)
    return plan


@given(benches())
@settings(max_examples=30, deadline=None)
def test_any_suggestion_meets_every_need_and_uses_nothing_twice(plan: Plan) -> None:
    ready = prepare(plan, CATALOG)
    said = first_answer(ready, CATALOG)
    assert said == first_answer(prepare(plan, CATALOG), CATALOG), "the same question has one answer"
    if said.conflict is not None:
        assert said.ties == () and said.conflict.words and said.conflict.leads
        return
    after = Circuit(said.remedy().apply(plan), CATALOG)
    rules = {f.rule for f in look_at(after.plan).findings}
    assert not rules & {
        "pin-shared",
        "timer-shared",
        "bus-mixed",
        "remap-mixed",
        "pool-over",
        "need-unmet",
        "lead-untied",
    }
    for tie in said.ties:
        assert fit(after, tie.lead, tie.contact).grade < Grade.IMPOSSIBLE, tie
        assert tie.reason


@given(benches())
@settings(max_examples=15, deadline=None)
def test_the_proven_answer_is_never_worse_than_the_first(plan: Plan) -> None:
    ready = prepare(plan, CATALOG)
    first, last = first_answer(ready, CATALOG), best_answer(ready, CATALOG, 20.0)
    if first.conflict is None:
        assert last.conflict is None and last.proven
        assert all(not t.next_contact or (t.next_costs >= 0 and t.next_reason) for t in last.ties)
        task = ready.task
        by_lead = [{t.lead: t.contact for t in s.ties} for s in (first, last)]
        worth = [
            value(
                [
                    min((o for o in task.of(x) if o.contact == ties[x]), key=lambda o: o.cost)
                    for x in task.leads
                ],
                ready.circuit,
            )
            for ties in by_lead
        ]
        assert worth[1] <= worth[0] + GAP * abs(worth[0]) + 1e-5  # proven to that


# --- what a maker sees ---------------------------------------------------------------------------------


def test_fixed_ties_stay_and_loose_ones_may_move() -> None:
    parts = {"usb": "usb-brick", "Lamp": ("led", {"dimmed": "yes"})}
    plan = lay("bowline-40", parts, {"lamp.anode": "p40", "lamp.cathode": "p5"})
    assert first_answer(prepare(plan, CATALOG), CATALOG).ties[0].lead == "usb.plug", (
        "what is tied is not asked about"
    )
    anew = prepare(loosened(plan, CATALOG), CATALOG)
    moved = next(t for t in first_answer(anew, CATALOG).ties if t.lead == "lamp.anode")
    assert moved.contact != "board.p40", "the console's pin is given up for a free one"
    kept = loosened(edits.fix_tie(plan, "lamp.anode", True), CATALOG)
    assert kept.tie("lamp.anode").to == "board.p40"
    said = loosened(edits.set_hertz(plan, "lamp.anode", 440.0), CATALOG)
    assert said.tie("lamp.anode").hertz == 440.0, "what was said of its pulses is not lost"


def test_loads_go_to_hubs_in_their_order_and_call_for_the_inputs_behind() -> None:
    ready = ready_for("clove-22", {"Lens": "geared-stepper", "Driver": "coil-driver", "Brick": "brick-5v"})
    said = first_answer(ready, CATALOG)
    ties = {t.lead: t.contact for t in said.ties}
    assert [ties[f"lens.{c}"] for c in ("blue", "pink", "yellow", "orange")] == [
        f"driver.out{k}" for k in (1, 2, 3, 4)
    ]
    assert {f"driver.in{k}" for k in (1, 2, 3, 4)} <= set(ties) and "driver.in5" not in ties
    # and in a run on the board: neighbours in the order of the leads
    best_ties = {t.lead: t.contact for t in best_answer(ready, CATALOG).ties}
    pins = [best_ties[f"driver.in{k}"] for k in (1, 2, 3, 4)]
    assert any(pins == line[k : k + 4] for line in lines_of(ready.circuit) for k in range(len(line)))


def test_a_lead_that_nothing_can_take_is_named_with_what_would_help() -> None:
    said = first_answer(ready_for("bowline-40", {"Dial": "knob"}), CATALOG)
    assert said.ties == () and said.conflict is not None
    assert said.conflict.leads == ("dial.wiper",) and "analogue input" in said.conflict.words
    assert any("ADC" in free for free in said.conflict.frees)


def test_too_many_for_the_pins_names_only_those_that_compete() -> None:
    """Clove 22 has seven analogue pins; eight knobs want one, and a button does not."""
    parts = {f"K{k}": "knob" for k in range(8)} | {"Door": "push-button"}
    said = first_answer(ready_for("clove-22", parts), CATALOG)
    assert said.conflict is not None and len(said.conflict.leads) == 8
    assert all(x.endswith(".wiper") for x in said.conflict.leads)
    assert "8 leads for 7 contacts" in said.conflict.words


def test_what_cannot_be_fed_is_said_before_anything_else() -> None:
    said = first_answer(ready_for("bowline-40", {"Latch": "solenoid"}), CATALOG)
    assert (
        said.conflict is not None
        and "latch.plus" in said.conflict.leads
        and "no supply" in said.conflict.words
    )


@pytest.mark.parametrize(
    "part",
    [
        "micro-servo",
        "push-button",
        "positioning-receiver",
        "eeprom",
        "pressure-sensor",
        "encoder",
        "motion-sensor",
        "spi-flash",
        "i2c-thermometer",
    ],
)
@pytest.mark.parametrize("board", CATALOG.board_ids())
def test_a_part_that_wants_nothing_beside_it_is_right_as_suggested(board: str, part: str) -> None:
    ready = ready_for(board, {"One": part, "Brick": "brick-5v"})
    said = first_answer(ready, CATALOG)
    if said.conflict is None:
        report = look_at(said.remedy().apply(ready.plan))
        # parts of 3.3 V on pins of 5 V want a level shifter, which the finding then offers
        levels = ("lead-over-voltage", "input-level")
        left = [f for f in report.findings if f.severity == "stop" and not (f.rule in levels and f.remedies)]
        assert [f.message for f in left] == []


def test_a_load_that_nothing_switches_is_no_good_answer_and_never_mended_so() -> None:
    plan = lay("bowline-40", {"usb": "usb-brick", "Latch": "solenoid"}, {"usb.plug": "board.usb"})
    straight = fit(Circuit(plan, CATALOG), "latch.minus", "board.p5")
    assert straight.grade == Grade.POSSIBLE and "nothing switches it" in straight.reason
    mended = mend(look_at(plan), CATALOG)
    assert mended.remedy is None or all(t.lead != "latch.minus" for t in mended.remedy.apply(plan).ties)
    # with its other end on a relay's contact, ground is where it belongs
    high = lay(
        "bowline-40",
        {"usb": "usb-brick", "Big": "brick-12v", "Latch": "solenoid", "Bell": "relay-module"},
        {"usb.plug": "board.usb", "big.zero": "p5", "bell.com1": "big.plus", "latch.plus": "bell.no1"},
    )
    assert fit(Circuit(high, CATALOG), "latch.minus", "board.p5").grade == Grade.GOOD


# --- parts alike, windows, groups --------------------------------------------------------------------


def least_cost(task: Task, lines: list[list[str]]) -> float | None:
    """Of a task as one programme of every lead and every run, solved at once: the way that takes longest, and
    knows nothing of parts alike, windows or groups."""
    p = programme(task, runs_of(lines, task))
    found = milp(
        p.cost,
        integrality=np.ones(len(p.cost)),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(matrix_of(p), p.low, p.high),
        options={"mip_rel_gap": 1e-6},
    )
    return float(found.fun) if found.status == PROVEN else None


KINDS: tuple[tuple[str, dict[str, str | float]], ...] = (
    ("led", {"dimmed": "yes"}),
    ("led", {}),
    ("micro-servo", {}),
    ("push-button", {}),
    ("knob", {}),
    ("encoder", {}),
    ("joystick", {}),
    ("i2c-thermometer", {}),
    ("keypad", {}),
)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(8))
def test_parts_alike_windows_and_groups_lose_nothing(seed: int) -> None:
    r = random.Random(seed)
    plan = edits.add_part(Plan(r.choice(["clove-60", "bowline-40", "clove-22"])), "plug-brick", "Feed")
    plan = edits.add_part(plan, "brick-5v", "Brick")
    for part, params in r.choices(KINDS, k=r.randint(3, 9)):
        plan = edits.add_part(plan, part, part, params)
    ready = prepare(plan, CATALOG)
    task, lines = ready.task, lines_of(ready.circuit)
    question = stated(task, lines)
    status, x = solved(question.model)
    least = least_cost(task, lines)
    assert (status == PROVEN) == (least is not None)
    if least is None:
        return
    assert float(question.model.cost @ x) == pytest.approx(least, rel=2 * GAP)
    pick = question.pick(x)
    assert pick.keys() == set(task.leads)
    # what was given out to each part keeps every row, and costs as much
    chosen = Task(
        task.leads,
        [task.options[pick[x]] for x in task.leads],
        task.hertz,
        task.pools,
        task.pool_hertz,
        task.remaps,
    )
    assert least_cost(chosen, lines) == pytest.approx(least, rel=2 * GAP)
