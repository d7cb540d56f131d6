"""The session: the current plan, its report, the selection, and the way back.

It owns what the window shows; widgets draw what they are given and ask the session for changes.
"""

from collections.abc import Callable, Iterable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from knotplan.catalog.load import Catalog
from knotplan.core.check.report import Report, unchecked
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.room import Room, lay_out
from knotplan.core.drawing.loom.view import Lens, LoomView, Selection, look
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan, split
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.remedy import Remedy, Step
from knotplan.desktop.background_task import BackgroundTask, Wanted
from knotplan.desktop.suggester import Suggester


class UndoStep(Struct, frozen=True):
    """One step of the way back: a plan and what was done to get there."""

    plan: Plan
    title: str


class Session(QObject):
    """One window's work."""

    changed = Signal()
    """the plan, and with it the report, is another one"""
    replaced = Signal()
    """another document has taken the place of the one before"""
    looked = Signal()
    """the selection, the lens or the preview is another one"""
    noticed = Signal(str)
    """something to tell in passing"""
    shown_wanted = Signal()
    """what was just selected, in the loom"""
    values_wanted = Signal(str, dict)
    """the value finders by themselves: which one, and inputs to begin with"""

    def __init__(self, catalog: Catalog, plan: Plan, path: Path | None = None):
        super().__init__()
        self.catalog = catalog
        self.path = path
        self.saved: Plan | None = plan if path else None
        self._unsaved = False
        """it came from elsewhere than its file"""
        self._back: list[UndoStep] = []
        self._forward: list[UndoStep] = []
        self._gesture: object = None
        self._engine: Callable[..., Report] | None = None
        self._get_ready: Callable[[], None] = lambda: None
        """does what the first edit would have to wait for"""
        self.plan = plan
        self.report: Report
        self.opened_values: set[str] = set()
        """which values of a tie are shown whole"""
        self._room: Room | None = None
        """the place that the bench is shown in"""
        self._laid: Bench | None = None
        """the arrangement that small edits leave as it is"""
        self._bench: Bench | None = None
        """that of the plan as it is, as soon as it is looked at"""
        self.lens: Lens = "fit"
        self.selection = Selection()
        self.preview: Remedy | None = None
        self._loading = BackgroundTask("the loading of the engine", self)
        self._loading.answered.connect(lambda _: self._analyse_now())
        self.suggester = Suggester(catalog)
        self.suggester.answered.connect(self._suggested)
        self._asked: Plan | None = None
        """the plan that the suggestion is about: this one, or this one with ties loosened"""
        self._refresh(plan)

    # --- analysis -----------------------------------------------------------------------------

    def load_engine(self, wait: bool = False) -> None:
        """Brings in the numeric engine beside the interface; the first report follows."""

        def load(_: Wanted = lambda: True) -> Iterator[None]:
            from knotplan.core.check import analysis

            kept = analysis.AnalysisCache()
            self._engine, self._get_ready = partial(analysis.analyse, kept=kept), kept.get_ready
            yield
            import scipy.optimize  # noqa: F401  (so that the first suggestion need not wait for it)

            from knotplan.exchange import search_worker

            if {part.id for part in self.plan.parts} - {split(tie.lead)[0] for tie in self.plan.ties}:
                search_worker.warm()  # a part waits to be tied

        if wait:
            next(load())
            self._analyse_now()
        else:
            self._loading.ask_for_all(load)

    def _analyse_now(self) -> None:
        self._refresh(self.plan)
        self.changed.emit()
        QTimer.singleShot(0, self._get_ready)

    def _refresh(self, plan: Plan) -> None:
        """The plan and all that follows from it, in one step: what fails leaves everything as it was."""
        report, bench = self._looked_at(plan)
        if not self._taking and plan is not self.plan:
            self.preview = None
            # it was about another plan; whoever shows it looks again while that plan is still there
            self.suggester.forget()
        self.plan, self.report = plan, report
        self._bench = bench
        self._laid = bench or self._laid
        if not self.is_there(self.selection.kind, self.selection.id):
            self.selection = Selection()
        elif self.selection.others:
            still = tuple(p for p in self.selection.others if self.is_there("part", p))
            self.selection = replace(self.selection, others=still)
        self._view: LoomView | None = None

    def _looked_at(self, plan: Plan) -> tuple[Report, Bench | None]:
        """A plan's report, and its bench, which follows an edit as the report does; before there is an
        engine, the bench is laid out when it is looked at."""
        if self._engine is None:
            return unchecked(Circuit(plan, self.catalog)), None
        benches: list[Bench] = []
        report = self._engine(plan, self.catalog, also=lambda c: benches.append(self._laid_out(c)))
        return report, benches[0]

    def _laid_out(self, circuit: Circuit) -> Bench:
        return lay_out(circuit, self._laid, self._room)

    @property
    def bench(self) -> Bench:
        """The plan as it lies, in the place that there is."""
        if self._bench is None:
            self._bench = self._laid = self._laid_out(self.circuit)
        return self._bench

    def give_room(self, room: Room) -> bool:
        """Lays the bench out for another place, with more in it or with less; whether it is another one."""
        if room == self._room:
            return False
        self._room, self._bench = room, None
        return True

    @property
    def view(self) -> LoomView:
        """What the loom shows now."""
        if self._view is None:
            self._view = look(self.report, self.lens, self.selection)
        return self._view

    @property
    def circuit(self) -> Circuit:
        return self.report.circuit

    # --- edits --------------------------------------------------------------------------------

    def edit(
        self,
        title: str,
        change: Callable[..., Plan],
        /,
        *arguments: Any,
        gesture: object = None,
        **named: Any,
    ) -> bool:
        """Makes an edit one step of the way back; steps of one `gesture` count as one.

        An edit that cannot be made says why and changes nothing.
        """
        from knotplan.core.plan.editing import edited  # not for the first picture

        try:
            plan = edited(self.plan, self.catalog, change, *arguments, **named)
        except EditError as error:
            self.noticed.emit(str(error))
            return False
        if plan == self.plan:
            return True
        before = self.plan
        self._show(plan)
        if gesture is None or gesture != self._gesture or not self._back:
            self._back.append(UndoStep(before, title))
        self._gesture = gesture
        self._forward.clear()
        self.changed.emit()
        return True

    # --- suggestions --------------------------------------------------------------------------

    def suggest(self, leads: Iterable[str] | None = None, *, anew: bool = False) -> None:
        """Looks for ties for some leads, or for everything that has to be tied; `anew` asks
        also about ties that are not fixed."""
        from knotplan.core.suggest.asked import loosened

        self._be_about(loosened(self.plan, self.catalog) if anew else self.plan)
        self._wanted = None if leads is None else tuple(leads)
        self.select("", "")
        self.suggester.ask(self._asked or self.plan, self._wanted)

    def _be_about(self, asked: Plan) -> None:
        """A question is about this plan, or about this plan with some ties loosened."""
        self._asked = asked
        self._loosened = frozenset({t.id for t in self.plan.ties} - {t.id for t in asked.ties})

    def asked_leads(self) -> list[str]:
        """The leads that the question is about."""
        from knotplan.core.suggest.asked import movable

        return movable(Circuit(self._asked or self.plan, self.catalog), self._wanted)

    _wanted: tuple[str, ...] | None = None
    _loosened: frozenset[str] = frozenset()
    """ids of ties that are asked about anew, and stand as they were"""

    def _suggested(self) -> None:
        """The ghosts of what is proposed."""
        suggestion = self.suggester.suggestion
        self.show_preview(self._whole(suggestion.remedy()) if suggestion and suggestion.ties else None)

    def _whole(self, remedy: Remedy) -> Remedy:
        """A suggestion's edit, on the plan that it was made for. A loosened tie moves, with its role,
        colour and cord; what else its lead had goes."""
        loosened = self._loosened
        leads = {step.arguments[0] for step in remedy.steps}
        moving = {lead for lead in leads if (tie := self.plan.tie_of(lead)) and tie.id in loosened}
        away = tuple(
            Step(edits.untie, (t.id,))
            for t in self.plan.ties
            if t.id in loosened and t.lead in leads and t != self.plan.tie_of(t.lead)
        )
        steps = tuple(
            Step(edits.tie, step.arguments) if step.arguments[0] in moving else step for step in remedy.steps
        )
        return Remedy(remedy.title, away + steps)

    def suggested_circuit(self) -> Circuit:
        """The circuit with everything as suggested."""
        from knotplan.core.plan.editing import edited

        suggestion = self.suggester.suggestion
        if suggestion is None:
            return self.circuit
        return Circuit(edited(self.plan, self.catalog, self._whole(suggestion.remedy()).apply), self.catalog)

    def take_suggestion(self, leads: Iterable[str] | None = None) -> None:
        """Makes the proposed ties of some leads, or all; what is left stays proposed."""
        suggestion = self.suggester.suggestion
        if suggestion is None:
            return
        wanted = [t.lead for t in suggestion.ties] if leads is None else list(leads)
        self._taking = True
        try:
            self.suggester.stop()
            remedy = self._whole(suggestion.remedy(wanted))
            rest, loosened = suggestion.without(wanted), self._loosened
            # before the edit: what it has drawn anew must not propose again what it makes
            self.suggester.suggestion = rest if rest.ties else None
            self._loosened -= {t.id for t in self.plan.ties if t.lead in wanted}
            if not self.edit(remedy.title, remedy.apply):
                self.suggester.suggestion, self._loosened = suggestion, loosened
        finally:
            self._taking = False
        self.suggester.answered.emit()

    _taking = False

    def make(self, remedy: Remedy) -> None:
        """Makes a remedy, as one step."""
        self.preview = None
        self.edit(remedy.title, remedy.apply)

    def _show(self, plan: Plan) -> None:
        self._refresh(plan)
        self.preview = None

    @property
    def can_undo(self) -> bool:
        return bool(self._back)

    @property
    def can_redo(self) -> bool:
        return bool(self._forward)

    @property
    def undo_word(self) -> str:
        return self._back[-1].title if self._back else ""

    @property
    def redo_word(self) -> str:
        return self._forward[-1].title if self._forward else ""

    def undo(self) -> None:
        self.go_to(len(self._back) - 1)

    def redo(self) -> None:
        self.go_to(len(self._back) + 1)

    def history(self) -> tuple[list[str], int]:
        """The names of all steps, those made and those taken back, and how many are made now."""
        made = [step.title for step in self._back]
        return [*made, *(step.title for step in reversed(self._forward))], len(made)

    def go_to(self, made: int) -> None:
        """Back or forward until so many steps are made; nothing happens where the plan is there already, or
        cannot get there. What fails leaves everything as it was."""
        back, forward, plan = list(self._back), list(self._forward), self.plan
        if made == len(back) or not 0 <= made <= len(back) + len(forward):
            return
        while len(back) > made:
            step = back.pop()
            forward.append(UndoStep(plan, step.title))
            plan = step.plan
        while len(back) < made:
            step = forward.pop()
            back.append(UndoStep(plan, step.title))
            plan = step.plan
        self._show(plan)
        self._back, self._forward, self._gesture = back, forward, None
        self.changed.emit()

    def arrange_anew(self) -> None:
        """Every card where it lies best now, as if the plan had just been opened."""
        self._laid = None
        self._refresh(self.plan)
        self.changed.emit()

    # --- the document ---------------------------------------------------------------------------

    @property
    def dirty(self) -> bool:
        """There is work that no file holds."""
        return self.plan != self.saved and bool(
            self._back or self._forward or self._unsaved or (self.saved is None and self.plan.parts)
        )

    def replace_document(self, plan: Plan, path: Path | None, *, saved: bool = True) -> None:
        """Another document; the way back begins anew."""
        self._laid = None
        self._show(plan)
        self._back.clear()
        self._forward.clear()
        self._gesture = None
        self.path = path
        self.saved = plan if saved else None
        self._unsaved = not saved
        self.selection = Selection()
        self._view = None
        self.replaced.emit()
        self.changed.emit()

    def mark_saved(self, path: Path) -> None:
        self.path, self.saved, self._unsaved = path, self.plan, False
        self.changed.emit()

    # --- looking --------------------------------------------------------------------------------

    def is_there(self, kind: str, thing: str) -> bool:
        """The part, lead, pin or tie is in the plan as it is now; nothing always is."""
        c = self.report.circuit
        match kind:
            case "part":
                return thing in c.placed
            case "lead" | "pin":
                return c.contacts.exists(thing)
            case "tie":
                return any(t.id == thing for t in c.plan.ties)
        return True

    def select_parts(self, parts: Iterable[str]) -> None:
        """Selects several parts; the last of them is the one that is looked at."""
        there = [p for p in dict.fromkeys(parts) if p in self.circuit.placed]
        if not there:
            self.select("", "")
            return
        self._look_at(Selection("part", there[-1], others=tuple(there[:-1])))

    def select(self, kind: str, thing: str) -> None:
        """Selects one thing, or nothing; what is not there (any more) is not selected."""
        if not self.is_there(kind, thing):
            return
        of = self.plan.tie(thing).lead if kind == "tie" else ""
        self._look_at(Selection(kind, thing, of))  # type: ignore[arg-type]

    def _look_at(self, selection: Selection) -> None:
        if selection != self.selection:
            self.selection = selection
            self._view = None
            self.preview = None
            self.looked.emit()

    def select_subject(self, subject: str) -> None:
        """Selects what a finding names: a part, a lead, a pin."""
        owner, name = split(subject)
        if not name:
            if owner in self.circuit.placed:
                self.select("part", owner)
        elif self.circuit.contacts.lead(subject) is not None:
            self.select("lead", subject)
        elif self.circuit.contacts.exists(subject):
            self.select("pin", subject)

    def look_through(self, lens: Lens) -> None:
        self.lens = lens
        self._view = None
        self.looked.emit()

    def show_preview(self, remedy: Remedy | None) -> None:
        """What a remedy would change, drawn but not made; one that cannot
        be made says why, and is not shown."""
        self.preview = remedy
        try:
            self.preview_circuit()
        except EditError as error:
            self.preview = None
            self.noticed.emit(str(error))
        self.looked.emit()

    def preview_circuit(self) -> Circuit | None:
        """The circuit as the previewed remedy would leave it."""
        from knotplan.core.plan.editing import edited

        return (
            Circuit(edited(self.plan, self.catalog, self.preview.apply), self.catalog)
            if self.preview
            else None
        )
