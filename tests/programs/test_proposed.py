"""A dialect that is proposed from a program finds what one written by hand finds."""

from pathlib import Path

import pytest

from knotplan.core.bringup.program.compare import compared
from knotplan.core.bringup.program.follow import follow
from knotplan.core.bringup.program.propose import proposed, spoken
from knotplan.exchange.source import dialect_file
from knotplan.exchange.source.languages import trees
from tests.programs import styles_c, styles_python
from tests.programs.corpus import PIN, SCENES, circuit, mutants
from tests.programs.facts import facts_of

OWN = (*styles_python.OWN, *styles_c.OWN)


@pytest.mark.parametrize("scene", SCENES)
@pytest.mark.parametrize("style", OWN, ids=lambda s: f"{s.__module__[-8:]} {s.__name__}")
def test_a_proposal_knows_the_call_that_sets_pins_up(scene, style) -> None:
    c, facts = circuit(scene), facts_of(circuit(scene), SCENES[scene])
    sources = trees(style(facts).items())
    told = follow(sources, dialect_file.shipped())
    found = proposed(c, told, sorted({s.language for s in sources}), SCENES[scene])
    assert found is not None
    again = dialect_file.loads(dialect_file.dumps(found), found.id)
    calls = {call.name.rpartition(".")[2]: call for call in again.calls}
    make = calls.get("make") or calls["io_make"]
    assert make.does == "setup" and make.args["pin"] == "0" and make.args["direction"] == "1"
    answer = compared(c, sources, (again,), SCENES[scene])
    assert [d.title for d in answer.differences if d.gravity == "differs" and d.kind in PIN] == []
    assert {m.tie.id for m in answer.meant if m.tie} >= {x.tie for x in facts.lines}
    assert again in spoken(answer.told, (again,)) and not spoken(told, (again,))


def test_pins_that_are_wrong_are_found_with_the_proposal_of_the_right_program() -> None:
    missed, count = [], 0
    for wrong in [m for m in mutants() if m.style in OWN and set(m.kinds) & set(PIN)][::7]:
        c, scheme = circuit(wrong.scene), wrong.facts.scheme
        right = trees(wrong.style(facts_of(c, scheme)).items())
        dialect = proposed(c, follow(right, ()), sorted({s.language for s in right}), scheme)
        sources = trees(wrong.files.items())
        told = compared(c, sources, (dialect,), scheme).differences
        count += 1
        if not any(d.kind in wrong.kinds and d.gravity == "differs" for d in told):
            missed.append(wrong.title)
    assert count > 15 and len(missed) <= 0.05 * count, missed


def test_a_program_that_has_nothing_of_the_plan_gets_no_proposal() -> None:
    c = circuit("harbour-light")
    text = "import board\nfor k in range(3):\n    board.play(k * 7 + 1000, 'x')\nboard.delay_ms(20)\n"
    assert proposed(c, follow(trees([("a.py", text)]), ()), ["python"]) is None


def test_the_dialect_in_the_handbook_is_one() -> None:
    page = (Path(__file__).parents[2] / "docs/handbook/program-pin.md").read_text("utf-8")
    block = "\n".join(
        row[4:] for row in page.splitlines() if row.startswith("    ") and "knotplan" not in row
    )
    dialect = dialect_file.loads(block[block.index("title =") :], "handbook")
    assert [call.name for call in dialect.calls] == ["io_make", "io_wait_ms"]
    text = '#include "io.h"\n#define BELL 34\nint main(void) { io_make(BELL, IO_OUT); }\n'
    told = compared(circuit("harbour-light"), trees([("main.c", text)]), (dialect,), "kernel").differences
    assert any(d.kind in PIN and d.spot and d.spot.line == 2 for d in told)
