"""The search in a process of its own."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.suggest.exact import best
from knotplan.core.suggest.suggestion import made, prepare
from knotplan.exchange.search import Search
from tests.conftest import lay

CATALOG = shipped()
PARTS = {"usb": "usb-brick", "Lamp": ("led", {"dimmed": "yes"}), "Flag": "micro-servo", "Brick": "brick-5v"}


def test_it_finds_what_is_found_here_and_can_be_stopped() -> None:
    ready = prepare(lay("bowline-40", PARTS, {}), CATALOG)
    here, _ = best(ready)
    assert Search(ready).run() == here
    stopped = Search(ready)
    stopped.stop()
    assert stopped.run() is None
    assert made(ready, CATALOG, here, proven=True).proven


@pytest.mark.logs("ended with 1: Traceback")
def test_a_search_that_fails_says_why_in_the_log_and_proves_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    ready = prepare(lay("bowline-40", PARTS, {}), CATALOG)
    monkeypatch.setattr("knotplan.exchange.search.packed", lambda *_: b"no arrays")
    assert Search(ready).run() is None
