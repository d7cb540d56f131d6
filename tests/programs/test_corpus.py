"""The corpus: programs that agree raise nothing, and what is planted is found."""

from collections import Counter
from itertools import combinations

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.bringup.program.compare import compared
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.editing import edited
from knotplan.exchange.source import dialect_file
from knotplan.exchange.source.languages import trees
from tests.programs.corpus import (
    PIN,
    Program,
    beside,
    circuit,
    differing,
    differing_in,
    is_found,
    mutants,
    programs,
)
from tests.programs.own_dialects import own_dialects

RIGHT = list(programs())
BESIDE = [(one, other) for one, other in combinations(RIGHT, 2) if one.scene == other.scene]


def test_the_corpus_is_as_large_as_it_says() -> None:
    assert len(RIGHT) >= 60
    assert len({p.style for p in RIGHT}) >= 20
    languages = {name.rpartition(".")[2] for p in RIGHT for name in p.files}
    assert languages >= {"py", "c", "h", "cpp", "dts"}


@pytest.mark.parametrize("program", RIGHT, ids=lambda p: p.title)
def test_a_program_that_agrees_raises_nothing(program: Program) -> None:
    assert not [(d.kind, d.title) for d in differing(program)]


def test_what_is_planted_is_found() -> None:
    wrong = list(mutants())
    assert len(wrong) >= 120
    missed: Counter[str] = Counter()
    for p in wrong:
        found = differing(p)
        missed[p.title] += not is_found(p, found)
        assert all(d.remedies or d.look or (d.spot and d.spot.line) for d in found), "it leads somewhere"
    assert sum(missed.values()) <= 0.05 * len(wrong), missed


def test_two_programs_in_one_folder_do_not_disturb_each_other() -> None:
    """They call functions and constants alike, and mean their own."""
    cried = [
        (one.title, other.title, d.title)
        for one, other in BESIDE
        for d in differing_in(one.scene, beside(one, other), one.facts.scheme)
    ]
    assert len(BESIDE) > 400 and cried == []


def test_what_is_planted_in_one_of_two_programs_is_found_in_it() -> None:
    """Only what a line of it says: beside a right program nothing is missing."""
    pins = [m for m in mutants() if set(m.kinds) & set(PIN) and m.wrong != "one pin for two"]
    wrong = pins[::9]
    missed = []
    for m in wrong:
        other = next(p for p in RIGHT if p.scene == m.scene and p.style is not m.style)
        found = differing_in(m.scene, beside(m, other), m.facts.scheme)
        if not is_found(m, [d for d in found if d.spot and d.spot.source.startswith("a/")]):
            missed.append(m.title)
    assert len(wrong) > 20 and len(missed) <= 0.05 * len(wrong), missed


def test_the_plan_can_follow_a_pin_and_then_agrees() -> None:
    """Whatever pin is offered to be taken over: afterwards nothing of that tie differs."""
    catalog, offered = shipped(), 0
    for m in [m for m in mutants() if m.wrong in ("off by one", "a pin that the plan does not use")][::3]:
        for d in differing(m):
            for remedy in d.remedies if d.kind in PIN else ():
                after = Circuit(edited(circuit(m.scene).plan, catalog, remedy.apply), catalog)
                dialects = (*dialect_file.shipped(), *own_dialects())
                again = compared(after, trees(m.files.items()), dialects, m.facts.scheme).differences
                wrong = [
                    x.title for x in again if x.kind in PIN and d.look[0] in x.look and x.gravity == "differs"
                ]
                assert not wrong, (m.title, remedy.title)
                offered += 1
    assert offered > 10
