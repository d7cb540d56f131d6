"""Constants for programs: role names and pin numbers in a chosen scheme, and the numbers of parts, buses and
timers; written by templates."""

import re

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.board.pin import Pin
from knotplan.catalog.part.needs import Analog, Bus, Input, Output, Pulse
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.units import buses_at
from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError
from knotplan.core.finders.in_plan import proposals
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.ids import LONGEST_ID
from knotplan.core.quantity.written import counted
from knotplan.core.text.program import Constant, Value, constants, free, word
from knotplan.exchange.exports.constant_template import written
from knotplan.exchange.exports.export import Export, SchemeError, text_export
from knotplan.exchange.plain_text import one_line, remark

NumberValue = int | float | str | list[int | list[int]]


class PinConstant(Struct, frozen=True):
    """A pin that a program deals with."""

    name: str
    """the constant"""
    value: str
    """the pin in the chosen scheme: a number, or a name"""
    remark: str
    """what is there"""


class NumberConstant(Struct, frozen=True):
    """A number for a program, or a table."""

    name: str
    """the constant"""
    value: NumberValue
    """a number, a text, a list, or a list of lists"""
    remark: str
    """what it is"""
    hexadecimal: bool
    """an address: people read it so"""


class Constants(Struct, frozen=True):
    """What a template is given, each field by its name."""

    plan: str
    """the plan's title"""
    board: str
    """the board's title"""
    scheme: str
    """the names that the program uses"""
    guard: str
    """a name of its own for the file"""
    remarks: list[str]
    """what stands above the constants"""
    pins: list[PinConstant]
    """pins by role"""
    numbers: list[NumberConstant]
    """numbers of parts, buses and timers"""
    readings: list[str]
    """how what converters read is reckoned back"""
    stops: int
    """findings at stop: the plan is not to be relied on yet"""


class NameClashError(SchemeError):
    """Two names of the maker's are the same in a program; the message has both."""


def signals(circuit: Circuit) -> list[Tie]:
    """The ties that a program deals with: those on the board's signal pins, and on channels of hubs."""
    held = {
        t.id
        for contact, pin, t in circuit.ties.on_pins()
        if split(contact)[0] == BOARD or _channel(circuit, t, pin)
    }
    lines: set[str] = set()
    ties = []
    for tie in circuit.plan.ties:
        if tie.id in held:
            if _line(circuit, tie) and tie.to in lines:
                continue  # a line of a bus is named once, however many parts hang on it
            lines.add(tie.to)
            ties.append(tie)
    return ties


def _line(circuit: Circuit, tie: Tie) -> str:
    """The name of a bus's common line, where the maker has given it none: "I2C_1_SDA"."""
    need = circuit.needs.of(tie.lead)
    if tie.role or not (isinstance(need, Bus) and need.shared):
        return ""
    bus = next(iter(buses_at(circuit, need, tie.to)), None)
    instance = bus.unit.instance if bus and not bus.any_pin else ""
    return "_".join(filter(None, [need.bus, instance, need.role]))


def _channel(circuit: Circuit, tie: Tie, pin: Pin) -> str:
    """The number of a hub's channel, where the program sets or reads it; empty for what only passes on."""
    need = circuit.needs.of(tie.lead)
    if not isinstance(need, Pulse | Output | Input | Analog):
        return ""
    kind = {Pulse: "pwm", Analog: "adc"}.get(type(need))
    jobs = pin.jobs(kind) if kind else []
    digits = re.search(r"\d+$", split(tie.to)[1])
    if jobs and jobs[0].channel:
        return jobs[0].channel
    if digits:
        return digits[0]
    return ""


def identifier(circuit: Circuit, tie: Tie) -> str:
    """The tie's name in a program: its role, or part and lead."""
    spec, part = circuit.contacts.lead(tie.lead), split(tie.lead)[0]
    text = (
        tie.role
        or _line(circuit, tie)
        or f"{circuit.titles.part(part)}_{spec.title if spec else split(tie.lead)[1]}"
    )
    return word(text, "PIN_")


def number_in(circuit: Circuit, tie: Tie, scheme: str) -> str | None:
    """The pin's name in the scheme, as a plain number where it is one behind a prefix."""
    pin = circuit.contacts.pin(tie.to)
    if pin is not None and split(tie.to)[0] != BOARD:
        return _channel(circuit, tie, pin)
    name = pin.names.get(scheme) if pin else None
    if name is None:
        return None
    if scheme in circuit.board.schemes:
        heads = {
            re.sub(r"\d+$", "", p.names[scheme]) for p in circuit.board.pins.values() if scheme in p.names
        }
        if len(heads) == 1 and (digits := re.search(r"\d+$", name)):
            return digits[0]
    return name


def _rows(report: Report, scheme: str) -> list[tuple[str, str, str]]:
    """(constant, value, remark) of every signal tie; raises SchemeError."""
    c = report.circuit
    scheme = scheme or c.scheme
    if scheme not in c.board.schemes:
        raise SchemeError(f"{c.board.title} has no scheme {scheme!r}; it has {', '.join(c.board.schemes)}")
    ties = signals(c)
    values = [number_in(c, t, scheme) for t in ties]
    missing = [c.titles.full(t.to) for t, v in zip(ties, values, strict=True) if v is None]
    if missing:
        raise SchemeError(f"the scheme {scheme!r} has no name for {', '.join(missing)}")
    taken = _roles(ties)
    rows = []
    for tie, value in zip(ties, values, strict=True):
        name = identifier(c, tie) if tie.role else free(identifier(c, tie), taken)
        rows.append((name, value or "", f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)}"))
    return rows


def _roles(ties: list[Tie]) -> set[str]:
    """The names that the maker has given, as programs write them; raises
    NameClashError where two are the same then."""
    by: dict[str, Tie] = {}
    for tie in ties:
        if tie.role:
            other = by.setdefault(word(tie.role, "PIN_"), tie)
            if other is not tie:
                raise NameClashError(
                    f"the roles {other.role!r} and {tie.role!r} are both {word(tie.role, 'PIN_')} in a "
                    "program: rename one of them"
                )
    return set(by)


def _remarks(report: Report, scheme: str) -> list[str]:
    """What stands above the constants: what they are, in whose names, and whether they can be relied on."""
    c, stops, left = report.circuit, report.count("stop"), report.count("to-do")
    chosen = c.board.schemes[scheme or c.scheme]
    sentences = [
        f"{c.plan.title}: pins of {c.board.title}. Written by Knot Plan.",
        f"{chosen.title}: {chosen.note}.",
    ]
    if stops:
        sentences.append(f"Not to be relied on yet: the plan has {counted(stops, 'finding')} at stop.")
    elif left:
        sentences.append(
            f"Not finished yet: {counted(left, 'thing')} of the plan {'is' if left == 1 else 'are'} still "
            "to do."
        )
    return [remark(line) for line in sentences]


def _readings(report: Report) -> list[str]:
    """How what converters read is reckoned back, with the numbers of this plan."""
    c = report.circuit
    sentences = []
    for tie in signals(c):
        for asked in (
            proposals(c, report.points, tie)
            if isinstance(c.needs.of(tie.lead), Analog) and report.checked
            else ()
        ):
            if asked.finder in ("reading", "converter"):
                try:
                    answer = BY_ID[asked.finder](asked.values)
                except FinderError:
                    continue
                sentences += [f"{identifier(c, tie)}: {line}" for line in answer.lines]
    return [remark(text) for text in sentences]


def _numbers(report: Report, taken: set[str]) -> list[Constant]:
    """Numbers for the program, none by a name that is taken."""
    return [replace(k, name=free(k.name, taken)) for k in (constants(report) if report.checked else ())]


def gathered(report: Report, scheme: str = "") -> Constants:
    """Everything that a template of constants is given. Raises SchemeError."""
    c = report.circuit
    pins = [PinConstant(*row) for row in _rows(report, scheme)]
    guard = f"PINS_{word(c.plan.title, '')[:LONGEST_ID]}_H"
    numbers = _numbers(report, {p.name for p in pins} | {guard})
    chosen = c.board.schemes[scheme or c.scheme]
    return Constants(
        plan=one_line(c.plan.title),
        board=one_line(c.board.title),
        scheme=one_line(chosen.title),
        guard=guard,
        remarks=_remarks(report, scheme),
        pins=pins,
        numbers=[
            NumberConstant(k.name, listed_value(k.value), remark(k.remark), k.hexadecimal) for k in numbers
        ],
        readings=_readings(report),
        stops=report.count("stop"),
    )


def listed_value(value: Value) -> NumberValue:
    """A table as lists, as JSON has them."""
    if not isinstance(value, tuple):
        return value
    return [list(row) if isinstance(row, tuple) else row for row in value]


def _export(id: str, title: str, template: str, what: str, tail: str = "_pins") -> Export:
    suffix = "." + template.removesuffix(".j2").rpartition(".")[2]
    return text_export(
        id,
        title,
        suffix,
        what,
        lambda report, scheme: written(template, gathered(report, scheme)),
        tail,
        takes_scheme=True,
    )


ROLES = "role names and pin numbers"
EXPORTS = (
    _export("c", "Pin constants (C header)", "c.h.j2", ROLES),
    _export("cpp", "Pin constants (C++ constexpr)", "cpp.hpp.j2", "the same, typed, in a namespace"),
    _export("python", "Pin constants (Python)", "python.py.j2", ROLES),
    _export("shell", "Pin constants (shell)", "shell.sh.j2", "variables for any shell"),
    _export("json", "Pin constants (JSON)", "json.json.j2", "plain, for programs that read files", "-pins"),
    _export(
        "markdown", "Pin constants (Markdown)", "markdown.md.j2", "a table for a project's pages", "-pins"
    ),
)
