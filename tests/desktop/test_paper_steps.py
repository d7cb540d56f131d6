"""The step sheet on paper: on pages, and no row parted between two."""

import io

from pypdf import PdfReader

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import analyse
from knotplan.desktop.paper_steps import pdf
from knotplan.examples import example
from knotplan.exchange.exports.steps import sections


def test_on_paper_no_row_is_parted(catalog: Catalog, qapp) -> None:
    report = analyse(example("harbour-light", catalog), catalog)
    pages = [p.extract_text() for p in PdfReader(io.BytesIO(pdf(report))).pages]
    words = ["".join(p.split()) for p in pages]  # letters of another font come with spaces of their own
    assert len(words) >= 3 and all(f"page{k + 1}" in p for k, p in enumerate(words))
    for section in sections(report):
        for row in section.rows:
            told = "".join(row.text.split())
            assert any(told in page for page in words), told
