"""The corpus: programs that agree raise nothing, and what is planted is found."""

from collections import Counter
from itertools import combinations

import pytest

from tests.programs.corpus import PIN, Program, beside, differing, differing_in, is_found, mutants, programs

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
