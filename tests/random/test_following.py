"""No digit of a report depends on how its plan came about: see `tests.random.following`."""

import logging
import random
from collections.abc import Callable

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.memory.table import Table
from knotplan.core.plan import edits
from knotplan.examples import example, names
from tests.conftest import examples
from tests.random.benches import crowded
from tests.random.following import differences

CATALOG = shipped()
SCENES = [name for name in names() if not name.startswith("organ")]


@pytest.mark.slow
@pytest.mark.parametrize("scene", SCENES)
def test_a_report_is_that_of_a_fresh_analysis(scene: str) -> None:
    for seed in range(examples(1)):
        r = random.Random(f"{scene} {seed}")
        assert list(differences(example(scene, CATALOG), CATALOG, r, 20, 0.05)) == []


@pytest.mark.slow
def test_on_crowded_benches_too() -> None:
    for seed in range(examples(4)):
        r = random.Random(seed)
        assert list(differences(crowded(r, CATALOG), CATALOG, r, 8)) == []


@pytest.mark.slow
def test_and_on_the_largest() -> None:
    for seed in range(examples(1)):
        r = random.Random(seed)
        assert list(differences(example("organ-shutters", CATALOG), CATALOG, r, 4)) == []


@pytest.mark.slow
@pytest.mark.parametrize("forgotten", ["parts", "placed", "at", "_roots", "origins", "nodes_by_id"])
def test_a_look_that_leaves_no_note_is_found_out(forgotten: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """The tests above can fail: where one table does not note what is looked at, they do."""
    looks = {name: getattr(Table, name) for name in ("__getitem__", "get", "items")}

    def unnoted(name: str) -> Callable[..., object]:
        def look(self: Table[object, object], *args: object) -> object:
            question = self._question
            known = getattr(question, "__name__", getattr(question, "name", ""))
            return getattr(self.values_now, name)(*args) if known == forgotten else looks[name](self, *args)

        return look

    for name in looks:
        monkeypatch.setattr(Table, name, unnoted(name))
    assert any(_goes_wrong(scene) for scene in ("harbour-light", "mist-bench", "kite-winder"))


def _goes_wrong(scene: str) -> bool:
    """Something comes out otherwise, or not at all."""
    logging.disable(logging.CRITICAL)  # it is meant to go wrong
    try:
        return any(differences(example(scene, CATALOG), CATALOG, random.Random(scene), 25))
    except (KeyError, ValueError, AttributeError, StopIteration):
        return True
    finally:
        logging.disable(logging.NOTSET)


def test_an_edit_is_followed_with_few_questions() -> None:
    """In the largest scene: what is asked again has to do with the edit, and does not grow with the plan."""
    plan, kept = example("organ-shutters", CATALOG), AnalysisCache()
    first = analyse(plan, CATALOG, kept=kept)
    everything = first.circuit.memory.asked
    lead, part = "shutter-01-01.signal", "shutter-01-01"
    for edited in (
        edits.untie(plan, lead),
        edits.rename_part(plan, part, "Louvre"),
        edits.set_role(plan, lead, "louvre"),
        edits.add_part(plan, "micro-servo", "One more"),
        edits.remove_part(plan, part),
        edits.set_param(plan, "wind-03", "amperes", 9.0),
    ):
        for now in (edited, plan):
            asked = analyse(now, CATALOG, kept=kept).circuit.memory.asked
            assert asked < everything / 50
