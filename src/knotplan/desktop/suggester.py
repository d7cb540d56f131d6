"""Suggestions beside the interface: a first answer at once, the proven best one when
it is found; stopped at any moment."""

import logging
import threading
from collections.abc import Iterable
from time import monotonic
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from knotplan.catalog.load import Catalog
from knotplan.core.plan.document import Plan

if TYPE_CHECKING:
    from knotplan.core.suggest.suggestion import Suggestion
    from knotplan.exchange.search import Search


class Suggester(QObject):
    """One question at a time; the answers of one that has been overtaken are dropped."""

    answered = Signal()
    """there is a suggestion, another one, or the search has ended"""
    _found = Signal(int, object, bool)
    _failed = Signal(int, str)

    def __init__(self, catalog: Catalog):
        super().__init__()
        self.catalog = catalog
        self.suggestion: Suggestion | None = None
        self.searching = False
        self.trouble = ""
        self._number = 0
        self._began = 0.0
        self._search: Search | None = None
        self._thread: threading.Thread | None = None
        self._found.connect(self._take)
        self._failed.connect(self._give_up)

    @property
    def seconds(self) -> float:
        """How long the search has gone on."""
        return monotonic() - self._began

    def ask(self, plan: Plan, leads: Iterable[str] | None) -> None:
        """Begins anew; `leads` of nothing are all that have to be tied."""
        self.stop()
        self._number += 1
        self.suggestion, self.searching, self.trouble, self._began, self._search = (
            None,
            True,
            "",
            monotonic(),
            None,
        )
        asked = None if leads is None else tuple(leads)
        self._thread = threading.Thread(
            target=self._work, args=(self._number, plan, asked), name="suggester", daemon=True
        )
        self._thread.start()
        self.answered.emit()

    def _work(self, number: int, plan: Plan, leads: tuple[str, ...] | None) -> None:
        try:
            from knotplan.core.suggest.suggestion import first_pick, made, prepare
            from knotplan.exchange.search import Search

            ready = prepare(plan, self.catalog, leads)
            pick, impossible = first_pick(ready)
            search = Search(ready)
            if number == self._number:
                self._search = search
            first = made(ready, self.catalog, pick, proven=impossible, brief=True)
            last = impossible or bool(ready.unmet) or not ready.provable
            self._found.emit(number, first, last)
            if last or number != self._number or not self.searching:
                return
            better = search.run()
            best = pick if better is None else better
            self._found.emit(number, made(ready, self.catalog, best, proven=better is not None), True)
        except Exception as error:  # whatever goes wrong there, the window goes on
            logging.getLogger(__name__).exception("the search for ties failed")
            self._failed.emit(number, f"{type(error).__name__}: {error}")

    def _take(self, number: int, suggestion: "Suggestion", last: bool) -> None:
        if number == self._number and self.searching:
            self.suggestion, self.searching = suggestion, not last
            self.answered.emit()

    def _give_up(self, number: int, why: str) -> None:
        if number == self._number:
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
        self._number += 1
        self.suggestion, self.trouble = None, ""
        if self.searching:
            self.stop()
        elif had:
            self.answered.emit()

    def wait(self, seconds: float = 60.0) -> None:
        """Until the thread has ended (for tests and at the end)."""
        if self._thread is not None:
            self._thread.join(seconds)
