"""What leaves the program is the same to the byte for the same plan."""

import io
import time

import pytest
from pypdf import PdfReader

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.desktop.paper import PAINTED_EXPORTS
from knotplan.examples import example
from knotplan.exchange.exports import EXPORTS

MOMENT = 1_700_000_000


def report():
    """Worked out anew, from nothing that is kept."""
    return analyse(example("harbour-light", shipped()), shipped())


@pytest.mark.parametrize("export", [*EXPORTS, *PAINTED_EXPORTS], ids=lambda x: x.id)
def test_the_same_plan_makes_the_same_bytes(qapp: object, monkeypatch: pytest.MonkeyPatch, export) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", str(MOMENT))
    first = export.make(report(), "")
    if export.suffix == ".pdf":
        time.sleep(1.1)  # another second
    assert export.make(report(), "") == first


@pytest.mark.parametrize("export", [x for x in PAINTED_EXPORTS if x.suffix == ".pdf"], ids=lambda x: x.id)
def test_a_pdf_has_the_moment_that_is_asked_for(
    qapp: object, monkeypatch: pytest.MonkeyPatch, export
) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", str(MOMENT))
    then = PdfReader(io.BytesIO(export.make(report(), "")))
    assert then.metadata.creation_date.timestamp() == MOMENT and then.pages
    assert then.xmp_metadata.xmp_create_date.timestamp() == MOMENT
    monkeypatch.delenv("SOURCE_DATE_EPOCH")
    now = PdfReader(io.BytesIO(export.make(report(), "")))
    assert abs(now.metadata.creation_date.timestamp() - time.time()) < 600
