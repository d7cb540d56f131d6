"""The corpus: programs that agree raise nothing, and what is planted is found."""

from collections import Counter

import pytest

from tests.programs.corpus import Program, differing, is_found, mutants, programs

RIGHT = list(programs())


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
    missed = Counter(p.title for p in wrong if not is_found(p, differing(p)))
    assert sum(missed.values()) <= 0.05 * len(wrong), missed
