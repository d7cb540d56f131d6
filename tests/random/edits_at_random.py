"""Every edit with arguments at random, as a maker, a form or nonsense might give them.

`Pick` chooses one of many; hypothesis, or a plain random generator, stands behind it.
"""

import importlib
import inspect
import pkgutil
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import analyse
from knotplan.core.check.automatic_fixes import mend
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.draft import board as board_draft
from knotplan.core.draft import part as part_draft
from knotplan.core.draft.board_compiled import compiled
from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError
from knotplan.core.finders.in_plan import proposals
from knotplan.core.plan import edits
from knotplan.core.plan.assumptions import BY_ID as ASSUMPTIONS
from knotplan.core.plan.beads import (
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
    SeriesResistor,
    Zener,
)
from knotplan.core.plan.document import CarriedPart, Plan
from knotplan.core.plan.kinds import kind_in, lines_of
from knotplan.core.plan.wired import Reading, Wired
from knotplan.core.suggest.asked import loosened
from knotplan.core.suggest.moving import move
from knotplan.core.suggest.suggestion import first_answer, prepare
from knotplan.core.text.buses import overview
from knotplan.core.wiring.state import tasks_of
from knotplan.exchange.part_file import PartFileError, dumps, loads

T = TypeVar("T")
Pick = Callable[[Sequence[Any]], Any]
Change = tuple[str, Callable[..., Plan], tuple[Any, ...], dict[str, Any]]
"""(what it is called, the edit, its arguments, by name)"""
NAMES = (
    "Lamp",
    "",
    "  ",
    "Flag servo",
    "Glocke «Ä»",
    "=1+1",
    "*/ int x;",
    "</script>",
    "a\nb",
    "\x00",
    "\u202eabc",
    "n" * 300,
    "N" * 3000,
    "\ud800",
    "import",
    "INT_MAX",
    "7",
    "a\u2028b",
    "x\u0085y",
    "tie",
    "'\"\\",
)
POINTS = ("volts(board.p1)", "ohms(lamp.anode,board.p7)", "", "nonsense")
NUMBERS = (0.0, 1.0, -1.0, 1e-9, 0.05, 12.0, 1e9, 1e300, float("inf"), float("nan"))


def covered() -> set[str]:
    """The edits that are tried."""
    return set(EDITS)


def all_edits() -> set[str]:
    """Every function from a plan to a plan of the modules in `plan/edits`."""
    found = set()
    for entry in pkgutil.iter_modules(edits.__path__):
        module = importlib.import_module(f"{edits.__name__}.{entry.name}")
        for name, function in inspect.getmembers(module, inspect.isfunction):
            hints = inspect.signature(function)
            first = next(iter(hints.parameters.values()), None)
            edit = first is not None and first.annotation is Plan and hints.return_annotation is Plan
            edit = edit and not name.startswith("_")
            if edit and function.__module__ == module.__name__ and entry.name != "changed":
                found.add(name)
    return found


class Bench:
    """What there is to choose from in one plan."""

    def __init__(self, plan: Plan, catalog: Catalog, pick: Pick):
        self.plan, self.catalog, self.pick = plan, catalog, pick
        self.circuit = Circuit(plan, catalog)
        self.leads = self.circuit.contacts.leads()
        board = self.circuit.board
        self.contacts = [*self.leads, *(f"board.{p}" for p in (*board.pins, *board.sockets))]

    def part(self) -> str:
        return str(self.pick([*(p.id for p in self.plan.parts[:40]), "nobody"]))

    def tie(self) -> str:
        return str(self.pick([*(t.id for t in self.plan.ties[:60]), "nothing"]))

    def lead(self) -> str:
        return str(self.pick(self.leads[:80] or ["nobody.lead"]))

    def contact(self) -> str:
        return str(self.pick([*self.contacts[:160], "board.nothing", "nobody.lead"]))

    def param(self) -> tuple[str, str, str | float]:
        """(part, parameter, value), mostly sound."""
        part = self.part()
        if part == "nobody":
            return part, "colour", "red"
        placed = self.plan.part(part)
        params = kind_in(self.plan, self.catalog, placed.part).params
        if not params:
            return part, "none", 1.0
        name = self.pick(sorted(params))
        spec = params[name]
        values: list[str | float] = [*spec.choices] or [
            spec.default,
            *(x for x in (spec.least, spec.most) if x is not None),
        ]
        return part, name, self.pick([*values, "nonsense", *NUMBERS[-3:]])

    def bead(self) -> Any:
        rail, other, ohm = self.contact(), self.contact(), self.pick([1.0, 270.0, 4700.0, 1e6])
        return self.pick(
            [
                SeriesResistor(ohm),
                PullUp(ohm, rail=rail),
                PullDown(ohm),
                Capacitor(1e-7),
                Fuse(1.0),
                Clamp(rail),
                Zener(3.9),
                Diode("lead"),
                Diode("pin"),
                LevelShifter("mosfet", rail, other),
                LevelShifter("buffer", other, rail),
                PullUp(ohm),
                LevelShifter(),
            ]
        )

    def bead_at(self) -> tuple[str, int]:
        beaded = [(t.id, k) for t in self.plan.ties[:80] for k in range(len(t.beads))]
        return self.pick([*beaded, ("nothing", 0), (self.tie(), 99)])  # type: ignore[no-any-return]

    def wired(self) -> list[Wired]:
        """Some of what the plan asks for as done, and something that it never asked for."""
        tasks = list(tasks_of(self.circuit).values())
        odd = Wired(self.pick(NAMES), "nobody.lead", "board.nothing", called=(self.pick(NAMES),))
        return [self.pick([*tasks[:80], odd]) for _ in range(self.pick([0, 1, 9]))]

    def activity(self) -> str:
        return str(self.pick([*(a.id for a in self.plan.activities), "nothing"]))

    def finding(self) -> Any:
        return self.pick(analyse(self.plan, self.catalog).findings or [None])


def _exchange(b: Bench) -> tuple[Any, ...]:
    part = b.part()
    kind = b.pick(b.catalog.part_ids())
    new = b.catalog.part(kind, {})
    old = list(b.circuit.parts[part].leads) if part in b.circuit.parts else ["a"]
    leads = (
        {n: b.pick(list(new.leads)) for n in old}
        if b.pick([True, False])
        else {n: n for n in old if n in new.leads}
    )
    return part, kind, {}, leads


def own_board(b: Bench) -> Any:
    """The maker's own board, as the workshop would keep it: the plan's
    own changed, or a copy of one of ours."""
    board = b.plan.carried or b.circuit.board
    draft = board_draft.from_board(board, "" if b.plan.carried else f"{board.title} copy")
    headers = list(draft.headers)
    for _ in range(b.pick([0, 1, 3])):
        how = b.pick(["cell", "resize", "title"])
        if how == "cell":
            at = b.pick(range(len(draft.pins)))
            column = b.pick([key for key, _ in board_draft.columns(draft)])
            draft = board_draft.set_cell(
                draft, at, column, b.pick(["5V", "GND", "D9", "pwm", "", *NAMES[:9]])
            )
        elif how == "resize" and headers:
            name = b.pick(headers)
            h = draft.headers[name]
            rows, columns = max(1, h.rows - b.pick([0, 1])), max(1, h.columns - b.pick([0, 1, 2]))
            draft = board_draft.resize_header(draft, name, rows, columns, 2.54)
        else:
            draft = replace(draft, summary=b.pick(["a board", *NAMES[6:12]]))
    made, wrong = compiled(draft)
    return made if not wrong else None


def own_part(b: Bench) -> CarriedPart | None:
    """A part of the maker's own as the form would keep it: the plan's own changed, or a new one."""
    draft = part_draft.blank()
    made_id = "own-part"
    if b.plan.carried_parts and b.pick([True, False]):
        lent = b.pick(b.plan.carried_parts)
        made_id = lent.id
        draft = part_draft.from_tree(
            {k: v for k, v in kind_in(b.plan, b.catalog, lent.id).tree.items() if k != "id"}
        )
    if len(draft.leads) > 1 and b.pick([True, False]):
        gone = b.pick(range(len(draft.leads)))
        draft = replace(draft, leads=draft.leads[:gone] + draft.leads[gone + 1 :])
    draft = replace(
        draft,
        title=b.pick(["Gauge", *NAMES]),
        summary=b.pick(["what it is", *NAMES]),
        note=b.pick(["", *NAMES]),
    )
    text = dumps(part_draft.compiled(draft))
    try:
        loads(text, made_id)
    except PartFileError:
        return None
    return CarriedPart(made_id, lines_of(text))


EDITS: dict[str, Callable[[Bench], tuple[Any, ...]]] = {
    "retitle": lambda b: (b.pick(NAMES),),
    "add_part": lambda b: (b.pick([*b.catalog.part_ids(), "no-part"]), b.pick(NAMES)),
    "remove_part": lambda b: (b.part(),),
    "excerpt": lambda b: ({b.part(), b.part(), b.part()},),
    "put_in": lambda b: (edits.excerpt(b.plan, {b.part(), b.part()}),),
    "of_all": lambda b: ([b.part(), b.part()], edits.nudge, b.pick(["", "left", "right"])),
    "put_at": lambda b: ([b.part(), b.part()], b.pick(["left", "right"]), b.pick([0, 1, 99, 10**6])),
    "let_go": lambda b: ([b.part(), b.part()],),
    "rename_part": lambda b: (b.part(), b.pick(NAMES)),
    "set_param": lambda b: b.param(),
    "set_params": lambda b: (p := b.param()) and (p[0], {p[1]: p[2]}),
    "nudge": lambda b: (b.part(), b.pick(["", "left", "right"])),
    "move_part": lambda b: (b.part(), b.pick([-1, 1, 99])),
    "tie": lambda b: (b.lead(), b.contact()),
    "turn_round": lambda b: (b.lead(), b.lead()),
    "untie": lambda b: (b.tie(),),
    "set_role": lambda b: (b.tie(), b.pick(NAMES)),
    "recolour": lambda b: (b.tie(), b.pick(["red", "", "pink", *NAMES[4:8]])),
    "set_pull": lambda b: (b.tie(), b.pick(["none", "up", "down"])),
    "set_cord": lambda b: (b.tie(), b.pick([None, *NUMBERS]), b.pick([None, *NUMBERS])),
    "lay_cord": lambda b: (b.tie(), b.pick(["", "ribbon", "twisted", "shielded"])),
    "set_hertz": lambda b: (b.tie(), b.pick(NUMBERS)),
    "set_clock": lambda b: (
        b.pick([*(e.id for e in overview(analyse(b.plan, b.catalog))), "board.i2c:0", "pins", "x"]),
        b.pick(NUMBERS),
    ),
    "set_program_setting": lambda b: (
        b.part(),
        b.pick(["at", "duty", "rpm", "text", "words", "baud"]),
        b.pick([None, "half", *NUMBERS, *NAMES]),
    ),
    "fix_tie": lambda b: (b.tie(), b.pick([True, False])),
    "show_leads": lambda b: (b.part(), b.pick(["", "all", "folded"])),
    "exchange_part": _exchange,
    "add_bead": lambda b: (b.tie(), b.bead()),
    "put_bead": lambda b: (b.tie(), b.bead(), b.pick(["lead", "pin"])),
    "change_bead": lambda b: (*b.bead_at(), b.bead()),
    "remove_bead": lambda b: b.bead_at(),
    "add_activity": lambda b: (b.pick(NAMES), tuple({b.part() for _ in range(b.pick([0, 2]))} - {"nobody"})),
    "change_activity": lambda b: (b.activity(),),
    "remove_activity": lambda b: (b.activity(),),
    "set_cycle": lambda b: (b.pick(NUMBERS),),
    "note_wired": lambda b: (b.wired(), {b.tie(), f"cord:{b.tie()}"}),
    "note_reading": lambda b: (Reading(b.pick(POINTS), b.pick([None, *NUMBERS]), b.pick(["", "ok", "no"])),),
    "drop_readings": lambda b: ({b.pick(POINTS)},),
    "turn": lambda b: (b.pick([90, 180, 270]),),
    "flip": lambda b: (),
    "speak": lambda b: (b.pick([*b.circuit.board.schemes, "", "martian"]),),
    "assume": lambda b: (b.pick([*ASSUMPTIONS, "nothing"]), b.pick([None, 0.3, *NUMBERS])),
    "set_series": lambda b: (b.pick(["E3", "E12", "E192", "E7"]),),
    "carry": lambda b: (own_board(b) or b.circuit.board,),
    "carry_part": lambda b: (own_part(b) or CarriedPart("odd", ("title = 3",)),),
    "set_up": lambda b: (b.pick([*b.circuit.board.settings, "nothing"]),),
    "accept": lambda b: (
        (f.rule, f.subjects, f.message, b.pick(["so be it", *NAMES]))
        if (f := b.finding())
        else ("x", (), "", "")
    ),
    "withdraw": lambda b: (
        (a.rule, a.subjects, a.message) if b.plan.accepted and (a := b.plan.accepted[0]) else ("x", (), "")
    ),
}


def named(b: Bench, name: str) -> dict[str, Any]:
    """Arguments by name."""
    if name == "tie":
        return {"extra": b.pick([True, False])}
    if name == "change_activity":
        ids = [a.id for a in b.plan.activities]
        field, values = b.pick(
            [
                ("title", NAMES),
                ("starts_s", NUMBERS),
                ("lasts_s", NUMBERS),
                ("every_s", NUMBERS),
                ("parts", [(), ("nobody",), *((p.id,) for p in b.plan.parts[:9])]),
                ("excludes", [(), ("nothing",), *((i,) for i in ids)]),
            ]
        )
        return {field: b.pick(values)}
    return {}


def an_edit(b: Bench, name: str) -> Change:
    """One edit of `core/edits`."""
    return name, getattr(edits, name), EDITS[name](b), named(b, name)


def a_remedy(b: Bench) -> Change | None:
    """A remedy of one of the findings."""
    finding = b.finding()
    remedies = finding.remedies if finding else ()
    if not remedies:
        return None
    remedy = b.pick(remedies)
    return remedy.title, remedy.apply, (), {}


def a_suggestion(b: Bench) -> Change | None:
    """Ties for everything that has none, or for everything that is not fixed."""
    asked = loosened(b.plan, b.catalog) if b.pick([True, False]) else b.plan
    found = first_answer(prepare(asked, b.catalog), b.catalog)
    return ("suggest", lambda _: found.remedy().apply(asked), (), {}) if found.ties else None


def a_mending(b: Bench) -> Change | None:
    """Everything that is safe, at once."""
    found = mend(analyse(b.plan, b.catalog), b.catalog).remedy
    return (found.title, found.apply, (), {}) if found else None


def a_move(b: Bench) -> Change:
    """The plan on another board."""
    board = b.catalog.board(b.pick(b.catalog.board_ids()))
    return "move", lambda plan: move(plan, b.catalog, board).plan, (), {}


def onto_own_board(b: Bench) -> Change | None:
    """The plan on a board of the maker's own."""
    board = own_board(b)
    return ("move", lambda plan: move(plan, b.catalog, board, carried=True).plan, (), {}) if board else None


def an_own_part(b: Bench) -> Change | None:
    """A part of the maker's own onto the bench, or another state of one that is there."""
    lent = own_part(b)
    if lent is None:
        return None
    if b.pick([True, False]):
        return "change the part", edits.carry_part, (lent,), {}
    return "add own", lambda plan: edits.add_part(edits.carry_part(plan, lent), lent.id, "Own"), (), {}


def a_value(b: Bench) -> Change | None:
    """What a value finder puts into the plan."""
    points = analyse(b.plan, b.catalog).points
    asked = [p for t in b.plan.ties[:40] for p in proposals(b.circuit, points, t)]
    if not asked:
        return None
    chosen = b.pick(asked)
    try:
        made = chosen.remedy(BY_ID[chosen.finder](chosen.values, chosen.origins))
    except FinderError:
        return None
    return (made.title, made.apply, (), {}) if made else None


OTHERS: tuple[Callable[[Bench], Change | None], ...] = (
    a_remedy,
    a_suggestion,
    a_mending,
    a_move,
    onto_own_board,
    an_own_part,
    a_value,
)
SOUND = (a_remedy, a_suggestion, a_mending, a_value)
"""what the program itself proposes: it has to be valid as it stands, with nothing left to mend"""
