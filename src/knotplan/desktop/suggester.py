"""Suggestions beside the interface: a first answer at once, the proven best one when
it is found; stopped at any moment."""

from collections.abc import Iterable, Iterator
from functools import partial
from time import monotonic
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import QObject, Signal

from knotplan.catalog.load import Catalog
from knotplan.core.plan.document import Plan
from knotplan.desktop.background_task import BackgroundTask, Wanted

if TYPE_CHECKING:
    from knotplan.core.suggest.suggestion import Suggestion
    from knotplan.exchange.search import Search


class _Found(Struct):
    """What the search has so far."""

    suggestion: "Suggestion"
    last: bool


class Suggester(QObject):
    """One question at a time."""

    answered = Signal()
    """there is a suggestion, another one, or the search has ended"""

    def __init__(self, catalog: Catalog):
        super().__init__()
        self.catalog = catalog
        self.suggestion: Suggestion | None = None
        self.searching = False
        self.trouble = ""
        self._began = 0.0
        self._search: Search | None = None
        self._task = BackgroundTask("the search for ties", self)
        self._task.answered.connect(self._take)
        self._task.failed.connect(self._give_up)

    @property
    def seconds(self) -> float:
        """How long the search has gone on."""
        return monotonic() - self._began

    def ask(self, plan: Plan, leads: Iterable[str] | None) -> None:
        """Begins anew; `leads` of nothing are all that have to be tied."""
        self.stop()
        self.suggestion, self.trouble, self._search = None, "", None
        self.searching, self._began = True, monotonic()
        self._task.ask_for_all(partial(self._work, plan, None if leads is None else tuple(leads)))
        self.answered.emit()

    def _work(self, plan: Plan, leads: tuple[str, ...] | None, wanted: Wanted) -> Iterator[_Found]:
        from knotplan.core.suggest.suggestion import first_pick, made, prepare
        from knotplan.exchange.search import Search

        ready = prepare(plan, self.catalog, leads)
        pick, impossible = first_pick(ready)
        search = Search(ready)
        if wanted():
            self._search = search
        last = impossible or bool(ready.unmet) or not ready.provable
        yield _Found(made(ready, self.catalog, pick, proven=impossible, brief=True), last)
        if not last and self.searching:
            better = search.run()
            best = pick if better is None else better
            yield _Found(made(ready, self.catalog, best, proven=better is not None), True)

    def _take(self, found: _Found) -> None:
        if self.searching:
            self.suggestion, self.searching = found.suggestion, not found.last
            self.answered.emit()

    def _give_up(self, why: str) -> None:
        self.searching, self.trouble = False, why
        self.answered.emit()

    def stop(self) -> None:
        """Ends the search; what was found so far stays."""
        if self.searching:
            self.searching = False
            if self._search is not None:
                self._search.stop()
            self.answered.emit()

    def forget(self) -> None:
        """Puts the suggestion away."""
        had = self.suggestion is not None or bool(self.trouble)
        self._task.forget()
        self.suggestion, self.trouble = None, ""
        if self.searching:
            self.stop()
        elif had:
            self.answered.emit()

    def wait(self, seconds: float = 60.0) -> None:
        """Until the thread has ended (for tests and at the end)."""
        self._task.wait(seconds)
