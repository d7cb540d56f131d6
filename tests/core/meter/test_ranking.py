"""From readings to faults: what agrees, what is ruled out, what to measure next."""

import math
from functools import cache

import pytest
from tools.measure_faults import FIRST, trials

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.checks import checks, meanings, told_apart
from knotplan.core.meter.expected import OPEN, Expected
from knotplan.core.meter.faults import WEIGHTS, faults
from knotplan.core.meter.points import Point
from knotplan.core.meter.ranking import Ranking, likelihood
from knotplan.core.meter.table import Meter, Table
from knotplan.core.plan.wired import Reading
from knotplan.examples import SCENES, example

SMALL = [s for s in SCENES if s != "organ-shutters"]


@cache
def table_of(scene: str) -> Table:
    found = Meter(Circuit(example(scene, shipped()), shipped())).table()
    return found


def test_every_kind_of_fault_is_in_the_tables() -> None:
    kinds = {f.kind for scene in SMALL for f in table_of(scene).faults}
    assert kinds >= set(WEIGHTS) - {"supply exchanged", "bead turned"}


def test_two_supplies_exchanged_and_a_diode_turned_are_faults(catalog: Catalog) -> None:
    from knotplan.core.plan import edits
    from knotplan.core.plan.beads import Diode

    plan = edits.add_part(example("kite-winder", catalog), "brick-5v", "Second")
    tie = plan.tie_of("left-driver.vmot")
    assert tie is not None
    plan = edits.add_bead(plan, tie.id, Diode("lead"))
    kinds = {f.kind for f in faults(Circuit(plan, catalog))}
    assert {"supply exchanged", "bead turned"} <= kinds


@pytest.mark.parametrize("scene", SMALL)
def test_what_no_meter_sees_is_a_missing_capacitor_alone(scene: str) -> None:
    table = table_of(scene)
    unseen = [f for f, readings in zip(table.faults, table.readings, strict=True) if not readings]
    assert all(f.kind == "bead missing" and "F" in f.title for f in unseen), [f.title for f in unseen]


def test_an_open_cord_is_found_by_its_own_reading() -> None:
    ranking = Ranking(table_of("harbour-light"))
    answer = ranking.answer([Reading("ohms:lamp.anode:board.p7", None, "open")], ["lamp"])
    assert answer.ranked and not answer.as_planned and not answer.nothing_explains
    titles = [f.title for r in answer.ranked[:3] for f in r.faults]
    assert any("Lamp · anode: cord open" in t or "Lamp · anode: one hole further" in t for t in titles)
    assert answer.next is not None and answer.next.gain > 0
    told = Reading(answer.next.point.id, 0.2)
    after = ranking.answer([Reading("ohms:lamp.anode:board.p7", None, "open"), told], ["lamp"])
    assert after.left <= answer.left


def test_words_count_like_numbers() -> None:
    ranking = Ranking(table_of("harbour-light"))
    no = ranking.answer([Reading("ohms:lamp.anode:board.p7", None, "no")])
    assert no.ranked[0].faults[0].ties == ("lamp.anode",) and not no.as_planned
    ok = ranking.answer([Reading("ohms:lamp.anode:board.p7", None, "ok")])
    assert ok.as_planned
    gone = {f.title for r in no.ranked for f in r.faults} & {f.title for r in ok.ranked for f in r.faults}
    assert all("joined" in t or "tenfold" not in t for t in gone)


def test_nothing_single_explains_two_broken_cords() -> None:
    ranking = Ranking(table_of("harbour-light"))
    both = [
        Reading("ohms:lamp.anode:board.p7", None, "open"),
        Reading("ohms:flag.signal:board.p18", None, "open"),
    ]
    answer = ranking.answer(both)
    assert answer.nothing_explains and answer.next is None


def test_without_readings_the_likeliest_is_a_slip() -> None:
    answer = Ranking(table_of("harbour-light")).answer([])
    assert answer.as_planned and answer.next is not None
    assert answer.ranked[0].faults[0].kind == "one hole further"
    assert sum(r.share for r in answer.ranked) == pytest.approx(1.0)


def test_what_does_not_work_comes_first() -> None:
    ranking = Ranking(table_of("harbour-light"))
    for part in ("lamp", "flag", "air"):
        assert part in ranking.answer([], [part]).ranked[0].faults[0].parts


def test_unknown_points_are_left_alone() -> None:
    answer = Ranking(table_of("badge-wall")).answer([Reading("ohms:nobody.here:board.p1", 3.0)])
    assert answer.as_planned and answer.ranked


@pytest.mark.parametrize("scene", SMALL)
def test_planted_faults_are_found_in_five_readings(scene: str) -> None:
    """A sample of each scene's faults; all of them: python -m tools.measure_faults."""
    found = list(trials(scene, "complaint", step=5))
    assert not [t.fault.title for t in found if t.place < 0], "the true fault is never ruled out"
    assert sum(t.place < FIRST for t in found) / len(found) > 0.93


@pytest.mark.parametrize("scene", SMALL)
def test_checks_find_what_can_be_found_and_are_worth_it(scene: str) -> None:
    table = table_of(scene)
    chosen = checks(table)
    assert all(c.finds or c.needed for c in chosen)
    found = [f for c in chosen for f in c.finds]
    assert len(found) == len(set(map(id, found))), "each fault is found by the first check that finds it"
    could = {
        id(f)
        for f, readings in zip(table.faults, table.readings, strict=True)
        if any(told_apart(p, e, table.planned[p]) for p, e in readings.items())
    }
    assert {id(f) for f in found} == could
    stages = [c.point.stage for c in chosen]
    assert stages == sorted(stages, key=lambda s: (s != "", list(dict.fromkeys(stages)).index(s)))
    assert all(c.point.range == "ohms" for c in chosen if c.needed)


def test_a_check_tells_what_a_wrong_reading_means() -> None:
    table = table_of("harbour-light")
    point = next(p for p in table.points if p.id == "ohms:lamp.anode:board.p7")
    said = [m.fault.title for m in meanings(table, point)]
    assert said[0].startswith("Lamp · anode: one hole further") and "Lamp · anode: cord open" in said
    assert "Lamp · anode: 180 Ω ten times too much" in said


def test_likelihoods_are_what_they_say() -> None:
    volts, ohms = Point("volts", "a", stage="s"), Point("ohms", "a", "b")
    expected = Expected(3.0, 3.3, 3.6)

    def of(point: Point, e: Expected, value: float | None, says: str = "") -> float:
        return likelihood(point, e, Reading(point.id, value, says), e)  # type: ignore[arg-type]

    assert of(volts, expected, 3.3) > 0 and of(volts, expected, 3.63) > 0
    assert of(volts, expected, 3.7) == of(volts, expected, 2.9) == 0
    assert of(volts, Expected(3.2, 3.3, 3.4), 3.3) > of(volts, expected, 3.3), "what is narrow says more"
    assert of(ohms, OPEN, None, "open") == 1 and of(ohms, OPEN, 180.0) == 0
    assert of(ohms, Expected(10.0, math.inf, math.inf), 180.0) > 0
    assert of(ohms, Expected(100.0, 180.0, 200.0), None, "open") == 0
    assert of(volts, expected, None, "ok") == 1 and of(volts, expected, None, "no") == 0


def test_progress_is_told_and_ends_with_the_table(catalog: Catalog) -> None:
    first, *shares, table = Meter(Circuit(example("badge-wall", catalog), catalog)).worked_out()
    assert isinstance(first, Table) and not first.whole and not first.faults
    assert first.points and all(p.range == "ohms" for p in first.points)
    assert isinstance(table, Table) and table.whole and len(shares) > 20
    assert all(table.planned[p] == first.planned[p] for p in first.points)
    told = [s for s in shares if isinstance(s, float)]
    assert told == sorted(told) and len(told) == len(shares) and told[0] == 0.0 and 0.9 < told[-1] < 1.0
