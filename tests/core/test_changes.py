"""What an edit changes, as it is told before a remedy is made."""

from collections.abc import Callable

import pytest

from knotplan.catalog.load import shipped
from knotplan.core import edits
from knotplan.core.beads import PullUp, SeriesResistor
from knotplan.core.changes import changes
from knotplan.core.circuit import Circuit
from knotplan.core.plan import Plan
from knotplan.examples import example

DEMO = example("harbour-light", shipped())


def told(edit: Callable[[Plan], Plan]) -> list[str]:
    return list(changes(Circuit(DEMO, shipped()), Circuit(edit(DEMO), shipped())))


@pytest.mark.parametrize(("edit", "said"), [
    (lambda p: edits.tie(p, "flag.signal", "board.p24"), ["Flag · signal: from L3 (pos 18) to L8 (pos 24)"]),
    (lambda p: edits.add_bead(p, "flag.signal", SeriesResistor(330)), ["Flag · signal: gets 330 Ω"]),
    (lambda p: edits.change_bead(p, "lamp.anode", 0, SeriesResistor(220)), ["Lamp · anode: 220 Ω instead of 180 Ω"]),
    (lambda p: edits.remove_bead(p, "lamp.anode", 0), ["Lamp · anode: no bead instead of 180 Ω"]),
    (lambda p: edits.add_bead(p, "door.contact", PullUp(1e4, rail="board.p2")), ["Door · contact: gets 10 kΩ ↑"]),
    (lambda p: edits.set_pull(p, "door.contact", "down"), ["Door · contact: the program switches the pin's pull-down on"]),
    (lambda p: edits.set_pull(p, "door.contact", "none"), ["Door · contact: the program switches the pin's pull off"]),
    (lambda p: edits.set_role(p, "flag.signal", "pennant"), ["Flag · signal: is called 'pennant'"]),
    (lambda p: edits.set_role(p, "flag.signal", ""), ["Flag · signal: loses its role"]),
    (lambda p: edits.recolour(p, "flag.signal", "blue"), ["Flag · signal: cord is blue"]),
    (lambda p: edits.untie(p, "flag.signal"), ["unties Flag · signal"]),
    (lambda p: edits.rename_part(p, "flag", "Pennant"), ["renames Flag to Pennant"]),
    (lambda p: edits.set_param(p, "lamp", "colour", "blue"), ["Lamp: Colour is blue"]),
    (lambda p: edits.add_part(p, "knob", "Dial"), ["adds Dial (potentiometer, 10 kΩ linear)"]),
    (edits.turn, []),
    (lambda p: p, []),
])  # fmt: skip
def test_each_edit_in_words(edit: Callable[[Plan], Plan], said: list[str]) -> None:
    assert told(edit) == said


def test_a_removed_part_takes_its_ties_along() -> None:
    assert set(told(lambda p: edits.remove_part(p, "door"))) == {
        "removes Door", "unties Door · contact", "unties Door · common"}  # fmt: skip


def test_words_follow_the_spoken_names() -> None:
    spoken = edits.speak(DEMO, "position")
    after = edits.tie(spoken, "flag.signal", "board.p24")
    assert list(changes(Circuit(spoken, shipped()), Circuit(after, shipped()))) == ["Flag · signal: from pos 18 to pos 24"]
