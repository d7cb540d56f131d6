"""The chosen node: what it carries and from where, what arrives, and where else it could hang."""

from functools import partial

from PySide6.QtWidgets import QFormLayout, QScrollArea, QVBoxLayout, QWidget

from knotplan.core.check.finding import Finding
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan import edits
from knotplan.core.plan.document import split
from knotplan.core.power.battery import life
from knotplan.core.power.ladder import farthest_v
from knotplan.core.power.node import Node, contact_of
from knotplan.core.power.one_sided import Backfed, backfed
from knotplan.core.quantity.written import show
from knotplan.desktop.panels.fields import button, choice, column_in, form, label, put_in, row
from knotplan.desktop.session import Session

KINDS = {
    "supply": "supply",
    "rail": "rail of the board",
    "converter": "converter",
    "hub": "passes its supply on",
    "load": "load",
    "board": "the board itself",
    "signals": "what flows in signals",
}
MOST_LISTED = 3
LEAST_A = 1e-4
"""below this what feeds back is leakage"""


class Detail(QScrollArea):
    """Remade for each node."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setObjectName("powerDetail")
        self.setAccessibleName("About the chosen row")
        self.setFrameShape(QScrollArea.Shape.NoFrame)

    def tell(self, node: Node | None) -> None:
        widget = QWidget()
        layout = column_in(widget, 7)
        layout.setContentsMargins(16, 4, 10, 8)
        if node is None:
            layout.addWidget(label("Nothing is fed yet", "head"))
            layout.addWidget(
                label("Add a supply and tie a load to it; the tree follows from the ties.", "faint")
            )
        else:
            self._tell(layout, node)
        layout.addStretch(1)
        put_in(self, widget)

    def _tell(self, layout: QVBoxLayout, node: Node) -> None:
        layout.addWidget(label(node.title, "head"))
        layout.addWidget(
            label(KINDS[node.kind] + (f", {node.why}" if node.why and node.kind == "load" else ""), "faint")
        )
        for text, tone in lines(self.session, node):
            layout.addWidget(label(text, tone))
        findings = found_about(self.session, node)
        for f in findings[:MOST_LISTED]:
            layout.addWidget(label(f"{f.title}. {f.message}", "stop" if f.severity == "stop" else "care"))
        if len(findings) > MOST_LISTED:
            layout.addWidget(label(f"… and {len(findings) - MOST_LISTED} more among the findings.", "faint"))
        for b in self._feeds_back(node):
            layout.addWidget(label(b, "care"))
        if node.lead:
            layout.addLayout(self._fed_from(node))
        thing = node.part
        if thing:
            layout.addWidget(
                row(
                    button(
                        "Show in the loom",
                        "showInLoom",
                        "The part on the bench, with its inspector",
                        partial(self._show, thing),
                    )
                )
            )

    def _feeds_back(self, node: Node) -> list[str]:
        """What lets current into this supply while it is off."""
        s = self.session
        if node not in s.report.power or len(s.report.power) < 2:
            return []
        return [back_words(s, b) for b in backfed(s.circuit, node.id) if b.amps > LEAST_A]

    def _fed_from(self, node: Node) -> QFormLayout:
        """Where the load hangs, and everything else that it could hang on."""
        s, c = self.session, self.session.circuit
        tie = c.ties.of(node.lead)
        now = tie.to if tie else ""
        options = {}
        for root in s.report.power:
            for other in root.walk():
                contact = contact_of(c, other)
                if contact and other.id != node.id and other.part != node.part:
                    grade = fit(c, node.lead, contact).grade
                    if grade != Grade.IMPOSSIBLE:
                        options[contact] = other.title + (
                            "" if grade <= Grade.GOOD else " – with a consequence"
                        )
        if now and now not in options:
            options[now] = c.titles.full(now)
        fields = form()
        feeders = choice(
            "fedFrom",
            "What feeds it: the tie of its supply lead moves",
            list(options.items()),
            now,
            partial(self._feed, node.lead),
        )
        feeders.setAccessibleName("Fed from")
        fields.addRow("Fed from", feeders)
        return fields

    def _feed(self, lead: str, contact: str) -> None:
        move(self.session, lead, contact)

    def _show(self, part: str) -> None:
        self.session.select("part", part)
        self.session.shown_wanted.emit()


def move(session: Session, lead: str, contact: str) -> bool:
    """A load's supply lead tied elsewhere, unless that cannot be."""
    c = session.circuit
    answer = fit(c, lead, contact)
    if answer.grade == Grade.IMPOSSIBLE:
        session.noticed.emit(f"{c.titles.of(lead)} cannot hang there: {answer.reason}.")
        return False
    return session.edit(f"feed {c.titles.of(lead)} from elsewhere", edits.tie, lead, contact)


def found_about(session: Session, node: Node) -> list[Finding]:
    """What the checks say of a supply, rail or load: first of how it is fed (a missing ground, a
    limit, a cord), then of its other leads."""
    own = {node.part, node.lead, node.rail or node.id} - {""}
    about = [
        f for f in session.report.findings if own & {*f.subjects, *(split(s)[0] for s in f.subjects[:1])}
    ]
    return sorted((f for f in about if f.severity != "note"), key=lambda f: not own & {*f.subjects})


def chain_words(session: Session, node: Node) -> str:
    """What is left at the farthest pixel of a chain."""
    px = session.circuit.parts[node.part].facts.pixels if node.part and node.lead else None
    volts = farthest_v(px, node.least_v)
    if px is None or volts is None:
        return ""
    fed = "at its beginning" if px.feeds == 1 else f"at {px.feeds:g} places"
    return (
        f"Fed {fed}, its farthest pixel has {show(volts, 'V')} with all of them white; it needs "
        f"{show(px.least_v, 'V')}."
    )


def lines(session: Session, node: Node) -> list[tuple[str, str]]:
    """(text, tone) about a node, each number beside what it is compared with."""
    plan, t = session.plan, node.total
    rows: list[tuple[str, str]] = []
    if node.needs_v is not None and node.least_v < node.needs_v:
        rows.append(
            (f"At worst only {show(node.least_v, 'V')} arrive; it needs {show(node.needs_v, 'V')}.", "stop")
        )
    elif node.kind in ("load", "hub"):
        need = f"; it needs {show(node.needs_v, 'V')}" if node.needs_v is not None else ""
        rows.append((f"{show(node.volts, 'V')} usually, {show(node.least_v, 'V')} at worst{need}.", ""))
    if node.drop_v > 5e-4:
        where = (
            "inside" if node.kind in ("supply", "rail", "converter") else "along its cord, there and back,"
        )
        rows.append((f"{show(node.drop_v, 'V')} are lost {where} at worst.", "faint"))
    rows.append((f"{show(t.usual_a, 'A')} usually, {show(t.worst_a, 'A')} at worst.", ""))
    if chain := chain_words(session, node):
        rows.append((chain, "faint"))
    if t.worst_a < t.peaks_a * 0.999:
        titles = {a.id: a.title for a in plan.activities}
        during = (
            ", ".join(
                titles[i] for i in sorted(t.during) if any(p in node.loads for p in plan.activity(i).parts)
            )
            or "what is always on"
        )
        rows.append(
            (
                f"Worst during: {during}. All peaks would be {show(t.peaks_a, 'A')}, but they exclude one "
                "another.",
                "faint",
            )
        )
    if node.margin_a is not None:
        left = (
            f"{show(node.margin_a, 'A')} to spare"
            if node.margin_a >= 0
            else f"{show(-node.margin_a, 'A')} too much"
        )
        rows.append((f"Limit {show(node.limit_a or 0, 'A')}: {left}.", "" if node.margin_a >= 0 else "stop"))
    if node.heat_w >= 0.005:
        rows.append(
            (f"{show(node.heat_w, 'W', 2)} of heat at worst.", "care" if node.heat_w > 1 else "faint")
        )
    if node in session.report.power:
        lasting = life(session.circuit, node)
        rows.append(
            (f"On average {show(lasting.average_a, 'A')}, {show(lasting.average_w, 'W')} over the cycle.", "")
        )
        if lasting.hours is not None:
            flat = f"; {hours(lasting.hours_flat_out)} with everything on" if lasting.hours_flat_out else ""
            rows.append((f"The battery lasts {hours(lasting.hours)}{flat}.", "strong"))
    return rows


def hours(value: float | None) -> str:
    """A time as people say it.

    >>> hours(0.4), hours(5.26), hours(75.0)
    ('24 minutes', '5.3 hours', '3.1 days')
    """
    if value is None:
        return "for ever"
    if value < 1:
        return f"{value * 60:.0f} minutes"
    return f"{value:.2g} hours" if value < 48 else f"{value / 24:.2g} days"


def back_words(session: Session, b: Backfed) -> str:
    """What feeds a dead supply, in words."""
    c = session.circuit
    off = next((r.title for r in session.report.power if r.id == b.off), b.off)
    rail = c.supplies.origins[b.net].title if b.net in c.supplies.origins else "its rail"
    through = f"over the {rail}, " if rail != off else ""
    return (
        f"While {off} is off, {c.titles.full(b.contact)} lets {show(b.amps, 'A')} into it, {through}which "
        f"rises to {show(b.volts, 'V')}."
    )
