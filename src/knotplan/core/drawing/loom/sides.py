"""On which side of the board each part stands."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.board_place import BoardPlace, PinSpot
from knotplan.core.drawing.loom.form import Side

LEANS = 0.2
"""a part whose pins lie so far to one side stands there"""


def sides_of(lying: bool) -> tuple[Side, Side]:
    """The two sides of a board that parts stand at."""
    return ("above", "below") if lying else ("left", "right")


def on_sides(
    circuit: Circuit,
    place: BoardPlace,
    lengths: dict[str, float],
    pins: dict[str, list[PinSpot]],
    before: Bench | None,
) -> dict[Side, list[str]]:
    """Parts by side: where they were, else where most of their pins lie, the rest where there is room.

    `lengths`: how much of its side each part takes; `pins`: where its cords, and those of all that hangs on
    it, end on the board.
    """
    first, second = sides_of(place.lying)
    columns: dict[Side, list[str]] = {first: [], second: []}
    filled = {first: 0.0, second: 0.0}
    was = {part: side for side, parts in before.order.items() for part in parts} if before else {}

    def put(part: str, side: Side) -> None:
        columns[side].append(part)
        filled[side] += lengths[part]

    loose: list[tuple[bool, float, str]] = []
    for part, length in lengths.items():
        signals = pins[part]
        lean = sum((s.out[1] or s.y / 300) if place.lying else (s.out[0] or s.x / 300) for s in signals)
        nudge = circuit.placed[part].side
        if nudge:
            put(part, first if nudge == "left" else second)
        elif (
            before
            and was.get(part) in columns
            and part not in before.nudged
            and (before.ends.get(part) or not signals)
        ):
            put(part, first if was[part] == first else second)
        elif abs(lean) > LEANS:
            put(part, second if lean > 0 else first)
        else:
            loose.append((not signals, -length, part))
    for _, _, part in sorted(loose, key=lambda one: one[:2]):
        put(part, first if filled[first] <= filled[second] else second)
    return columns
