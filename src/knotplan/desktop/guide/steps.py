"""What the guide says, where, and when each thing is done."""

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtCore import QPoint, QRect, QRectF
from PySide6.QtWidgets import QWidget

from knotplan.core.plan.document import Plan, split
from knotplan.desktop.desk import Desk

ROUND = 14
"""around a contact that is meant, pixels"""


class Course(Struct):
    """What the guide has seen so far."""

    before: Plan
    """the plan when the step began"""
    part: str = ""
    """the part that was added"""
    looked: bool = False
    """the thing in question was pointed at, or reached by the keyboard"""


class Step(Struct, frozen=True):
    """One sentence."""

    id: str
    says: str
    where: Callable[[Desk, Course], QRect]
    """the thing it speaks of, in the window"""
    done: Callable[[Desk, Course], bool]
    possible: Callable[[Desk, Course], bool] = lambda _desk, _course: True
    """if not, the guide goes a step back"""
    looks_at: Callable[[Desk], QWidget] | None = None
    """what is to be pointed at"""


def in_window(widget: QWidget, area: QRect | QRectF | None = None) -> QRect:
    """A widget, or an area of it, as far as it can be seen, in the window's pixels."""
    rect = area.toAlignedRect() if isinstance(area, QRectF) else area or widget.rect()
    seen = rect.intersected(widget.rect())
    return QRect(widget.mapTo(widget.window(), seen.topLeft()), seen.size())


def _board(desk: Desk, _: Course) -> QRect:
    x, y, w, h = desk.session.bench.board
    corners = desk.loom.to_widget(x, y), desk.loom.to_widget(x + w, y + h)
    return in_window(desk.loom, QRectF(*corners))


def on_bench(desk: Desk) -> list[QRect]:
    """The cards and the board, which the sentences are about too."""
    if not desk.loom.isVisible():
        return []
    boxes = [desk.session.bench.board, *((c.x, c.y, c.w, c.h) for c in desk.session.bench.cards)]
    return [
        in_window(desk.loom, QRectF(desk.loom.to_widget(x, y), desk.loom.to_widget(x + w, y + h)))
        for x, y, w, h in boxes
    ]


def _search(desk: Desk, _: Course) -> QRect:
    """The field, with what was found below it."""
    area = in_window(desk.search)
    popup = desk.search.popup
    return area.united(in_window(popup)) if popup.isVisible() else area


def _next_lead(desk: Desk, course: Course) -> QRect:
    """The first lead of the new part that is not tied yet."""
    leads = open_leads(desk, course.part)
    spot = desk.session.bench.leads.get(leads[0]) if leads else None
    if spot is None:
        return in_window(desk.loom)
    at = desk.loom.to_widget(spot.x, spot.y).toPoint()
    return in_window(desk.loom, QRect(at - QPoint(ROUND, ROUND), at + QPoint(ROUND, ROUND)))


def _first_card(desk: Desk, _: Course) -> QRect:
    cards = desk.side.findings.cards
    if not cards:
        return in_window(desk.side.findings)
    return in_window(cards[0]).intersected(in_window(desk.side.findings.area))


def _budgets(desk: Desk, _: Course) -> QRect:
    return in_window(desk.budgets)


def _hand_over(desk: Desk, _: Course) -> QRect:
    return in_window(next(b for b in desk.rail.buttons if b.view.id == "hand-over"))


def help_menu(desk: Desk) -> QRect:
    """Where the guide is found again."""
    titles = desk.menu_bar.actions()
    return in_window(desk.menu_bar, desk.menu_bar.actionGeometry(titles[-1]))


def _handing_over(desk: Desk, _: Course) -> bool:
    return any(b.isChecked() and b.view.id == "hand-over" for b in desk.rail.buttons)


def open_leads(desk: Desk, part: str) -> list[str]:
    """The leads of a part that have to be tied and are not."""
    c = desk.session.circuit
    if part not in c.placed:
        return []
    leads = [f"{part}.{name}" for name, lead in c.parts[part].leads.items() if lead.required]
    return [lead for lead in leads if not c.ties.at.get(lead)]


def new_part(desk: Desk, course: Course) -> str:
    """A part that was not there before."""
    there = {p.id for p in course.before.parts}
    return next((p.id for p in desk.session.plan.parts if p.id not in there), "")


def has_part(desk: Desk, course: Course) -> bool:
    return course.part in desk.session.circuit.placed


def _is_turned(desk: Desk, course: Course) -> bool:
    now, before = desk.session.plan, course.before
    return (now.turned, now.flipped) != (before.turned, before.flipped)


def _has_one_tie(desk: Desk, course: Course) -> bool:
    return any(split(t.lead)[0] == course.part for t in desk.session.plan.ties)


def _all_tied(desk: Desk, course: Course) -> bool:
    return not open_leads(desk, course.part)


def mistakes(desk: Desk) -> int:
    """Findings that are no mere things to do."""
    return sum(f.severity != "to-do" for f in desk.session.report.findings)


def _finding_seen(desk: Desk, course: Course) -> bool:
    return desk.side.findings.has_keyboard() or _mended(desk, course)


def _mended(desk: Desk, _: Course) -> bool:
    return desk.session.report.checked and not mistakes(desk)


STEPS: tuple[Step, ...] = (
    Step(
        "turn",
        "Press R: the board turns, so that it lies as it does before you.",
        _board,
        _is_turned,
    ),
    Step(
        "add",
        "Press A, type “led” and press Enter: that adds a lamp.",
        _search,
        lambda desk, course: bool(new_part(desk, course)),
    ),
    Step(
        "tie",
        "Every pin shows how well it suits this lead: press Enter for the list, and again for the best.",
        _next_lead,
        _has_one_tie,
        has_part,
    ),
    Step(
        "tie-other",
        "Press Down for the lamp's other lead, and tie it in the same way.",
        _next_lead,
        _all_tied,
        has_part,
    ),
    Step(
        "finding",
        "Something is wrong, and would do damage: press F8 to read what and why.",
        _first_card,
        _finding_seen,
        has_part,
    ),
    Step(
        "remedy",
        "Click the remedy to see what it would change, and a second time to make it.",
        _first_card,
        _mended,
        has_part,
    ),
    Step(
        "budget",
        "Every supply and group of pins against its limit: point at one to see how it adds up.",
        _budgets,
        lambda _desk, course: course.looked,
        looks_at=lambda desk: desk.budgets,
    ),
    Step(
        "hand-over",
        "Press Ctrl+H: a sheet to wire from, pin numbers for your program and a list to buy from.",
        _hand_over,
        _handing_over,
    ),
)
