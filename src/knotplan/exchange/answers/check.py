"""What `knotplan check --format json` prints."""

from typing import Literal

from msgspec import UNSET, Struct, UnsetType

from knotplan.core.check.finding import SEVERITIES, Finding, Severity
from knotplan.core.check.remedy_search import within_budget
from knotplan.core.check.report import Report
from knotplan.core.names.book import NameBook
from knotplan.core.plan.document import BOARD, split
from knotplan.core.plan.remedy import Remedy
from knotplan.core.power.budget import Budget, pin_current
from knotplan.core.quantity.working import Number


class FoundNumber(Struct, frozen=True):
    """A figure, with its limit where it has one."""

    name: str
    """what the figure is"""
    value: float
    """in the unit beside it"""
    unit: str
    """an SI unit, or empty for a count or a share"""
    limit: float | UnsetType = UNSET
    """what it is compared with"""
    limit_is: Literal["least", "most"] | UnsetType = UNSET
    """whether the figure has to be at least the limit, or may be at most that"""


class Following(Struct, frozen=True):
    """A finding that goes when the one above it is mended."""

    rule: str
    """the id of its rule"""
    message: str
    """what is wrong, with its numbers"""
    subjects: list[str]
    """ids of the parts, leads, contacts or ties that it is about"""


class FoundAnswer(Struct, frozen=True):
    """A finding."""

    rule: str
    """the id of its rule"""
    severity: Severity
    """stop: will not work or does damage; care: may misbehave; to-do: not finished; note: worth knowing"""
    title: str
    """the rule in few words"""
    message: str
    """what is wrong, with its numbers"""
    subjects: list[str]
    """ids of the parts, leads, contacts or ties that it is about"""
    with_it: list[Following]
    """what follows from it"""
    numbers: list[FoundNumber]
    """the figures that it rests on"""
    remedies: list[str]
    """edits that settle it, the best first, in words"""
    remedies_searched: bool
    """false where there were too many findings to look for remedies of all"""
    reason: str
    """why it matters"""
    source: str
    """the standard, the clause or the data that says so"""
    accepted: str | UnsetType = UNSET
    """why the maker lives with it; of accepted findings only"""


class RailAnswer(Struct, frozen=True):
    """What a supply gives, in amperes."""

    id: str
    """the supply"""
    title: str
    """what it is called"""
    kind: str
    """what kind of limit it is"""
    usual_a: float
    """drawn usually"""
    worst_a: float
    """drawn at worst"""
    limit_a: float
    """what it can give"""


class PinState(Struct, frozen=True):
    """The voltage of a pin in one of its states."""

    state: str
    """the state in words"""
    min_v: float
    """least"""
    typical_v: float
    """usual"""
    max_v: float
    """most"""


class PinTie(Struct, frozen=True):
    """What is tied to a pin."""

    lead: str
    """part and lead, with a point between"""
    role: str
    """what the maker calls the tie, or empty"""


class PinAnswer(Struct, frozen=True):
    """A pin, or a contact of a hub, to which something is tied."""

    pin: str
    """the pin's id, of a hub with the hub before it"""
    names: dict[str, str]
    """its name in each scheme"""
    ties: list[PinTie]
    """what is tied to it"""
    usual_a: float
    """current through it usually"""
    worst_a: float
    """current through it at worst"""
    states: list[PinState]
    """its voltages"""


class CheckAnswer(Struct, frozen=True):
    """A plan that was checked: findings, budgets, pins. Currents in amperes, voltages in volts."""

    plan: str
    """the plan's title"""
    board: str
    """the id of its board"""
    summary: dict[Severity, int]
    """how many findings there are of each severity"""
    assumes: dict[str, float]
    """figures that the plan assumes otherwise than usual"""
    findings: list[FoundAnswer]
    """what the checks say"""
    accepted: list[FoundAnswer]
    """what the maker lives with"""
    rails: list[RailAnswer]
    """what supplies give"""
    pins: list[PinAnswer]
    """what is tied to pins"""


class FileAnswer(CheckAnswer, frozen=True, kw_only=True):
    """One of several plans."""

    file: str
    """as it was named"""


class UnreadFile(Struct, frozen=True):
    """A file that is no plan."""

    file: str
    """as it was named"""
    error: str
    """everything that is wrong with it"""


class ChecksAnswer(Struct, frozen=True):
    """Several plans that were checked."""

    plans: list[FileAnswer]
    """in the order in which they were named, those of a folder by name"""
    unreadable: list[UnreadFile]
    """what could not be checked"""


def answer(report: Report) -> CheckAnswer:
    """The report for programs."""
    c = report.circuit
    return CheckAnswer(
        plan=c.plan.title,
        board=c.board.id,
        summary={s: report.count(s) for s in SEVERITIES},
        assumes={a.id: a.value for a in c.plan.assumes},
        findings=[_finding(f, remedies) for f, remedies in within_budget(report.findings)],
        accepted=[_finding(f, remedies) for f, remedies in within_budget(report.accepted)],
        rails=[_budget(b) for b in report.budgets],
        pins=_pins(report),
    )


def of_file(file: str, checked: CheckAnswer) -> FileAnswer:
    """The same as one of several."""
    return FileAnswer(**{name: getattr(checked, name) for name in checked.__struct_fields__}, file=file)


def _finding(f: Finding, remedies: tuple[Remedy, ...] | None) -> FoundAnswer:
    """A finding; `remedies` are nothing where they were not searched for,
    because there are too many findings."""
    return FoundAnswer(
        rule=f.rule,
        severity=f.severity,
        title=f.title,
        message=f.message,
        subjects=list(f.subjects),
        with_it=[Following(x.rule, x.message, list(x.subjects)) for x in f.with_it],
        numbers=[number(n) for n in f.numbers],
        remedies=[r.title for r in remedies or ()],
        remedies_searched=remedies is not None,
        reason=f.reason,
        source=f.source,
        accepted=f.accepted or UNSET,
    )


def number(n: Number) -> FoundNumber:
    """A figure with its limit: what it may be at most, or has to be at least."""
    if n.limit is None:
        return FoundNumber(n.name, n.value, n.unit)
    return FoundNumber(n.name, n.value, n.unit, n.limit, "least" if n.lower else "most")


def _budget(b: Budget) -> RailAnswer:
    return RailAnswer(b.id, b.title, b.kind, b.usual_a, b.worst_a, b.limit_a)


def _pins(report: Report) -> list[PinAnswer]:
    c, names, rows = report.circuit, NameBook(report.circuit.board), []
    for contact, ties in c.ties.holders.items():
        usual, worst = pin_current(report.points.pins.get(contact, []))
        volts = report.points.volts.get(c.nets.of(contact), [])
        owner, pin_id = split(contact)
        rows.append(
            PinAnswer(
                pin=pin_id if owner == BOARD else contact,
                names=dict(names.all_names(pin_id) if owner == BOARD else c.contacts.pins[contact].names),
                ties=[PinTie(t.lead, t.role) for t in ties],
                usual_a=usual,
                worst_a=worst,
                states=[PinState(r.case.words(c), r.min, r.typ, r.max) for r in volts],
            )
        )
    return rows
