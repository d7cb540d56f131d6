"""Chooses how much is drawn, so that what is drawn can be read in the room that there is."""

from msgspec.structs import replace

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import Bench, Setting
from knotplan.core.drawing.loom.board_place import PITCHES, board_place
from knotplan.core.drawing.loom.form import BARE, BRIEF, FULL, NOTE, Detail
from knotplan.core.drawing.loom.layout import ALLEY_MOST, arrange
from knotplan.core.drawing.loom.tree import tree_of

LEAST_TEXT = NOTE
"""size of the smallest words on a bench, points"""
READABLE = 11.0
"""the least size of words on the screen, pixels"""
LARGEST = 1.6
"""a small bench in a large room is not drawn larger than this"""
GENEROUS = {FULL: 1.1, BRIEF: 1.05, BARE: 1.0}
"""so many times the least size, words have to be for a level of detail"""
MANY = 60
"""a bench with more cards is seen from afar anyway: only its sparest drawings are tried"""
HOPELESS = 0.55
"""a level of detail that comes out so much too small is not tried in other ways"""
WORSE = 0.97
"""a bench that cannot be read anyway keeps its setting until it becomes so much smaller"""

Room = tuple[float, float]
"""width and height in pixels"""


def scale_in(bench: Bench, room: Room) -> float:
    """Pixels for a point with which a bench fits its room."""
    _, _, w, h = bench.bounds()
    return min(room[0] / w, room[1] / h, LARGEST)


def lay_out(circuit: Circuit, before: Bench | None = None, room: Room | None = None) -> Bench:
    """The bench of a circuit, as rich in detail as can be read in the room; for a file, where there is none,
    with everything. One that was laid out before for the same room keeps its setting while it can be read."""
    if room is None:
        return arrange(circuit, Setting(), before)
    if before is not None and before.room == room:
        now = arrange(circuit, before.setting, before, before.alley)
        scale = scale_in(now, room)
        if scale * LEAST_TEXT >= READABLE or scale >= WORSE * scale_in(before, room):
            return replace(now, room=room)
    if before is not None and not any(before.room):
        before = None  # it was for no place at all
    bench = _first_readable(circuit, before, room)
    if before is not None and scale_in(bench, room) * LEAST_TEXT < READABLE:
        fresh = _first_readable(circuit, None, room)  # every card on the side where it fits best
        if scale_in(fresh, room) * WORSE > scale_in(bench, room):
            bench, before = fresh, None
    return replace(_with_wide_alleys(circuit, bench, before, room), room=room)


def _first_readable(circuit: Circuit, before: Bench | None, room: Room) -> Bench:
    """The richest drawing whose words can be read, with the board as large as that allows; where none can,
    the one whose words are the largest."""
    if len(circuit.parts) > MANY:
        return arrange(circuit, Setting(BARE, PITCHES[2]), before)
    best, best_scale = None, 0.0
    for detail in (FULL, BRIEF, BARE):
        needed = READABLE * GENEROUS[detail] / LEAST_TEXT
        for lanes, stacked in _ways(circuit, detail):
            bench = arrange(circuit, Setting(detail, PITCHES[-1], lanes, stacked), before)
            scale = scale_in(bench, room)
            if scale >= needed:
                return _with_larger_board(circuit, bench, before, room, needed)
            if scale > best_scale:
                best, best_scale = bench, scale
            if scale < HOPELESS * needed:
                break
    assert best is not None
    return best


def _ways(circuit: Circuit, detail: Detail) -> list[tuple[int, bool]]:
    """(lanes, whether hubs are stacked) that are worth a try, the plainest first. Beside an upright board
    fewer words in one lane are easier to follow than more words in two."""
    plan = circuit.plan
    lying = board_place(circuit.board, circuit.scheme, plan.turned, plan.flipped, PITCHES[-1], True).lying
    lanes = (1, 2) if lying or detail == BARE else (1,)
    hubs = (False, True) if tree_of(circuit).children else (False,)
    return [(lane, stacked) for lane in lanes for stacked in hubs]


def _with_larger_board(
    circuit: Circuit, bench: Bench, before: Bench | None, room: Room, needed: float
) -> Bench:
    """The same with the largest board with which words can still be read."""
    for pitch in PITCHES[:-1]:
        larger = arrange(circuit, bench.setting._replace(pitch=pitch), before)
        if scale_in(larger, room) >= needed:
            return larger
    return bench


def _with_wide_alleys(circuit: Circuit, bench: Bench, before: Bench | None, room: Room) -> Bench:
    """The room that is left over goes to the cords."""
    _, _, w, h = bench.bounds()
    scale = scale_in(bench, room)
    sides = len({card.side for card in bench.cards})
    left_over = room[1] / scale - h if bench.lying else room[0] / scale - w
    alley = min(ALLEY_MOST, bench.alley + left_over / max(1, sides))
    return arrange(circuit, bench.setting, before, alley) if alley > bench.alley + 1 else bench
