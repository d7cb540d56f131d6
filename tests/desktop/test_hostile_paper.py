"""What is painted of plans with hostile names."""

import io

import pytest
from pypdf import PdfReader
from PySide6.QtGui import Qt
from PySide6.QtWidgets import QLabel, QWidget

from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop.paper import PAINTED_EXPORTS
from knotplan.desktop.views import VIEWS
from knotplan.desktop.window import MainWindow
from tests.exchange.test_hostile_names import REPORTS


@pytest.mark.parametrize("number", range(len(REPORTS)))
def test_paper_is_pdf(qapp, number: int) -> None:
    for export in PAINTED_EXPORTS:
        data = export.make(REPORTS[number], "")
        if export.suffix == ".pdf":
            pages = PdfReader(io.BytesIO(data), strict=True).pages
            assert len(pages) >= 1 and all(page.extract_text() is not None for page in pages)
        else:
            assert data.startswith(b"\x89PNG")


MARKUP = "<b>evil</b><img src='file:///etc/passwd'>"
PLACES = ("text", "toolTip", "statusTip", "whatsThis", "placeholderText")


def marked(plan: Plan) -> Plan:
    """Every text of a plan is markup."""
    plan = edits.retitle(plan, MARKUP)
    for number, part in enumerate(plan.parts):
        plan = edits.rename_part(plan, part.id, f"{MARKUP}{number}")
    for number, activity in enumerate(plan.activities):
        plan = edits.change_activity(plan, activity.id, title=f"{MARKUP} {number}")
    return plan


def shown(widget: QWidget) -> list[tuple[str, str]]:
    """(where, text) of everything below a widget that says something with markup in it."""
    found = []
    for below in [widget, *widget.findChildren(QWidget)]:
        for place in PLACES:
            text = getattr(below, place, lambda: "")
            said = text() if callable(text) else ""
            if isinstance(said, str) and "<b>evil" in said:
                found.append((f"{type(below).__name__}.{place}", said))
                if isinstance(below, QLabel) and place == "text":
                    assert below.textFormat().name == "PlainText", below.objectName()
                if place in ("toolTip", "whatsThis"):
                    assert not Qt.mightBeRichText(said), (
                        f"{type(below).__name__} {below.objectName()}: {said}"
                    )
    return found


@pytest.mark.slow
def test_text_from_files_is_plain_text_everywhere(open_window, qtbot) -> None:
    from knotplan.examples import example

    window: MainWindow = open_window(marked(example("harbour-light-draft", window_catalog())))
    said = 0
    for view in VIEWS:
        window.show_view(view.id)
        qtbot.wait(20)
        for part in list(window.session.circuit.placed)[:6]:
            window.session.select("part", part)
            said += len(shown(window))
        for lead in window.session.circuit.contacts.leads()[:20:3]:
            window.session.select("lead", lead)
            said += len(shown(window))
    assert said > 50, "the walk saw what it looks for"


def window_catalog():
    from knotplan.catalog.load import shipped

    return shipped()
