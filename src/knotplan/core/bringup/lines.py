"""The lines of GPIO chips against the plan: who has each planned pin, in which direction, with which bias."""

import re
from collections.abc import Iterator, Sequence

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.pin import KERNEL, Pin
from knotplan.catalog.part.needs import Analog, Bus, Input, Output, Pulse
from knotplan.core.bringup.difference import Difference, Spot
from knotplan.core.bringup.follow_pin import tied_there
from knotplan.core.bringup.otherwise import Numbers
from knotplan.core.bringup.said import LineState
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.engine.readings import Points
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullDown, PullUp
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import remedy
from knotplan.core.quantity.written import counted, listed, show
from knotplan.core.text.beads import bead_words

MOST_NAMED = 6
PULLS = {"up": "pull-up", "down": "pull-down"}
"""a tie's pull, as the system says it"""


class SeenLine(Struct, frozen=True):
    """A planned tie on a pin, and the line that the bench has there."""

    tie: str
    contact: str
    line: LineState | None
    """nothing where the listing has no such line"""
    wants: str
    """input, output, or what else it is for: "I2C bus" """
    differs: bool


class SeenLines(Struct, frozen=True):
    """All planned ties on pins of the board."""

    rows: tuple[SeenLine, ...]
    differences: tuple[Difference, ...]

    @property
    def says_anything(self) -> bool:
        """Something planned is on a line of the listing."""
        return any(row.line is not None for row in self.rows)


def lines_by_pin(board: Board, lines: Sequence[LineState]) -> dict[str, LineState]:
    """Which line each pin is: by its name where the system names its lines, else by the offset."""
    names: dict[str, list[str]] = {}
    for pin_id, pin in board.pins.items():
        if pin.kind == "io":
            for name in set(pin.names.values()):
                names.setdefault(name.casefold(), []).append(pin_id)
    by_name = {
        names[one.name.casefold()][0]: one for one in lines if len(names.get(one.name.casefold(), ())) == 1
    }
    found: dict[str, LineState] = {}
    for one in lines:
        for pin_id, pin in board.pins.items():
            if _is(pin, one) and pin_id not in by_name:
                found.setdefault(pin_id, one)
    return found | by_name


def _is(pin: Pin, line: LineState) -> bool:
    """A pin's kernel name means a line: "line 62", "offset 47", "gpiochip1 5"."""
    name = pin.names.get(KERNEL, "")
    number = re.search(r"(\d+)$", name)
    if number is None or int(number[1]) != line.offset:
        return False
    chip = re.search(r"gpiochip\d+", name)
    return (line.chip or "gpiochip0") == (chip[0] if chip else "gpiochip0")


def compared(c: Circuit, lines: Sequence[LineState], points: Points | None = None) -> SeenLines:
    """Each planned tie on a pin of the board beside its line. `points` are the plan's operating points:
    without them levels are not looked at."""
    return _Comparison(c, lines, points).made()


class _At(Struct, frozen=True):
    """A planned tie with the line of its pin."""

    contact: str
    tie: Tie
    line: LineState


class _Comparison:
    def __init__(self, c: Circuit, lines: Sequence[LineState], points: Points | None):
        self.c, self.points = c, points
        self.lines = lines
        self.at = lines_by_pin(c.board, lines)
        self.numbers = Numbers(c.board)

    def made(self) -> SeenLines:
        rows: list[SeenLine] = []
        differences: list[Difference] = []
        for contact, _, tie in self.c.ties.on_pins():
            owner, name = split(contact)
            if owner != BOARD:
                continue
            line = self.at.get(name)
            found = list(self._of_tie(_At(contact, tie, line))) if line is not None else []
            differences += found
            rows.append(
                SeenLine(tie.id, contact, line, self._wants(tie), any(d.gravity == "differs" for d in found))
            )
        differences += self._elsewhere()
        differences += self._absent(rows)
        return SeenLines(tuple(rows), tuple(differences))

    def _wants(self, tie: Tie) -> str:
        match self.c.needs.of(tie.lead):
            case Input():
                return "input"
            case Output():
                return "output"
            case Pulse():
                return "pulses"
            case Analog():
                return "analogue input"
            case Bus() as need:
                return f"{need.bus.upper()} bus"
        return ""

    # --- one line -------------------------------------------------------------------------------------

    def _of_tie(self, at: _At) -> Iterator[Difference]:
        need = self.c.needs.of(at.tie.lead)
        if isinstance(need, Input):
            yield from self._input(at)
        elif isinstance(need, Output):
            yield from self._output(at, need)
        elif at.line.used_by and isinstance(need, Pulse | Analog):
            yield self._note(
                at,
                "line-taken",
                "is in use as a plain line",
                f"{at.line.used_by!r} has it. Timed pulses and readings come from a unit of the chip, not "
                "from the line: what has it works by software, or keeps the unit off the pin.",
            )
        yield from self._bias(at)
        yield from self._level(at)

    def _differs(self, at: _At, kind: str, title: str, message: str) -> Difference:
        return Difference(
            kind,
            "differs",
            f"{self.c.titles.full(at.contact)} {title}",
            f"{self.c.titles.of(at.tie.lead)}: {message}",
            (at.tie.lead, at.contact),
            Spot(at.line.title),
            look=(at.tie.id,),
        )

    def _note(self, at: _At, kind: str, title: str, message: str) -> Difference:
        return replace(self._differs(at, kind, title, message), gravity="note")

    def _input(self, at: _At) -> Iterator[Difference]:
        line = at.line
        if line.direction == "output":
            drives = {0: " and drives it low", 1: " and drives it high"}.get(
                -1 if line.level is None else line.level, ""
            )
            by = (
                f"{line.used_by!r} has it as an output{drives}"
                if line.used_by
                else f"it was left an output{drives}"
            )
            yield self._differs(
                at,
                "line-drives",
                "is an output, planned is an input",
                f"{by}. Two outputs may work against each other: make it an input before anything else "
                "is switched on.",
            )
        elif line.used_by:
            yield from self._taken(at)

    def _output(self, at: _At, need: Output) -> Iterator[Difference]:
        line = at.line
        if line.used_by and line.direction == "input":
            yield self._differs(
                at,
                "line-reads",
                "is an input, planned is an output",
                f"{line.used_by!r} has it as an input: nothing will be switched.",
            )
        elif line.used_by:
            yield from self._taken(at)
        if line.active_low and need.active == "high":
            yield self._differs(
                at,
                "line-inverted",
                "is active-low, the part is on at high",
                f"{line.used_by or 'its user'!r} asked for it active-low: 1 is low for it then, and on and "
                "off are exchanged.",
            )
        if line.drive and not self._open_drain_is_right(at):
            yield self._differs(
                at,
                "line-drive",
                f"drives {line.drive}",
                "it only pulls one way, and something else has to pull the other way. Planned is an "
                "output that drives both.",
            )

    def _open_drain_is_right(self, at: _At) -> bool:
        """A pull-up in the plan makes the high level."""
        pulled = any(isinstance(b, PullUp) for t in self.c.ties.at.get(at.contact, ()) for b in t.beads)
        return at.line.drive == "open-drain" and pulled

    def _taken(self, at: _At) -> Iterator[Difference]:
        """Somebody has the line. A user that is called like the tie is the program itself."""
        if _word(at.line.used_by) in map(_word, self._names(at.tie)):
            return
        yield self._note(
            at,
            "line-taken",
            f"is in use by {at.line.used_by!r}",
            "a line has one user at a time. If that is your program all is well; else end it, or "
            "unload the driver.",
        )

    def _names(self, tie: Tie) -> tuple[str, ...]:
        """What a program may call a tie's line."""
        names = (self.c.titles.part(split(tie.lead)[0]), tie.role, self.c.titles.of(tie.lead))
        return tuple(n for n in names if n)

    def _bias(self, at: _At) -> Iterator[Difference]:
        line, tie = at.line, at.tie
        beads = [b for t in self.c.ties.at.get(at.contact, ()) for b in t.beads]
        against = {"pull-up": PullDown, "pull-down": PullUp}.get(line.bias)
        bead = next((b for b in beads if against is not None and isinstance(b, against)), None)
        planned = PULLS.get(tie.pull, "")
        if bead is not None:
            yield self._differs(
                at,
                "line-bias",
                f"has its {line.bias} on, against the plan's resistor",
                f"the line's {line.bias} and the {bead_words(bead)} divide the supply: the level may be "
                "neither high nor low. Switch the line's bias off.",
            )
        elif planned and line.bias and line.bias != planned and (line.used_by or line.bias != "disabled"):
            says = "has no pull" if line.bias == "disabled" else f"has its {line.bias} on"
            d = self._differs(
                at,
                "line-bias",
                f"{says}, planned is the {planned}",
                "without it the open lead holds no level: ask for it where the program asks for the line.",
            )
            pull = next((k for k, words in PULLS.items() if words == line.bias), "none")
            title = f"Let the plan have {'no pull' if pull == 'none' else f'the {line.bias}'} there"
            yield replace(d, remedies=(remedy(title, edits.set_pull, tie.id, pull),))

    def _level(self, at: _At) -> Iterator[Difference]:
        """A level that the plan rules out, whatever contacts and parts do."""
        line = at.line
        if self.points is None or line.level is None or line.direction == "output":
            return
        readings = [
            r
            for r in self.points.volts.get(self.c.nets.of(at.contact), ())
            if r.case.moment == "running" and r.case.pin(at.contact) in ("", "input")
        ]
        if not readings:
            return
        driver = as_fed(self.c, at.contact)
        least, most = min(r.min for r in readings), max(r.max for r in readings)
        if line.level == 0 and least > driver.input_high_v:
            yield self._impossible(at, f"is low, in the plan it is never below {show(least, 'V')}")
        elif line.level == 1 and most < driver.input_low_v:
            yield self._impossible(at, f"is high, in the plan it is never above {show(most, 'V')}")

    def _impossible(self, at: _At, title: str) -> Difference:
        text = "whatever contacts and sensors do. Look at its cord, at the part's supply and ground."
        return self._differs(at, "line-level", title, text)

    # --- what is used elsewhere -----------------------------------------------------------------------

    def _elsewhere(self) -> Iterator[Difference]:
        """A user named like a part, on another line than that part's."""
        planned: dict[str, list[tuple[str, Tie]]] = {}
        for contact, _, tie in self.c.ties.on_pins():
            if split(contact)[0] == BOARD:
                for name in self._names(tie):
                    planned.setdefault(_word(name), []).append((contact, tie))
        pins = {id(line): pin for pin, line in self.at.items()}
        for line in self.lines:
            mine = planned.get(_word(line.used_by), []) if line.used_by else []
            here = f"{BOARD}.{pins.get(id(line), '')}"
            if len(mine) == 1 and here != mine[0][0]:
                contact, tie = mine[0]
                why = (
                    self.numbers.why(split(contact)[1], KERNEL, line.offset).words if line.offset >= 0 else ""
                )
                yield Difference(
                    "line-elsewhere",
                    "differs",
                    f"{line.used_by!r} uses {line.title}, planned is {self.c.titles.full(contact)}",
                    f"{self.c.titles.of(tie.lead)} is planned on {self.c.titles.full(contact)}; {why}.",
                    (tie.lead, contact),
                    Spot(line.title),
                    tied_there(self.c, tie, here),
                    look=(tie.id,),
                )

    def _absent(self, rows: Sequence[SeenLine]) -> Iterator[Difference]:
        missing = [r for r in rows if r.line is None]
        if not missing or not self.lines:
            return
        names = [self.c.titles.full(r.contact) for r in missing]
        more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
        yield Difference(
            "line-absent",
            "note",
            f"{counted(len(missing), 'planned pin')} not in the listing",
            f"{listed(names[:MOST_NAMED])}{more}: the listing has no line by that name or number.",
            tuple(r.contact for r in missing),
        )


def _word(text: str) -> str:
    return re.sub(r"[\W_]+", "", text).casefold()
