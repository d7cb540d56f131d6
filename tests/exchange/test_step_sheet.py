"""The step sheet: every step and every check once, nothing switched on before it was measured, on pages."""

import pytest

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import analyse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.editing import edited
from knotplan.core.wiring.state import tasks_of
from knotplan.examples import example
from knotplan.exchange.exports.steps import html, sections, text


@pytest.fixture(scope="module")
def report():
    from knotplan.catalog.load import shipped

    return analyse(example("harbour-light", shipped()), shipped())


def test_all_steps_and_what_to_measure_in_order(report) -> None:
    found = sections(report)
    titles = [s.title for s in found]
    rows = [row for s in found for row in s.rows]
    assert sum(not row.expected for row in rows) == len(tasks_of(report.circuit))
    first = next(k for k, t in enumerate(titles) if t.startswith("Measure first"))
    on = [k for k, t in enumerate(titles) if t.startswith("Switch on")]
    assert first < on[0] and titles[on[0]] == "Switch on: USB brick"
    assert titles[on[0] + 1] == "Measure with USB brick on: volts to ground"
    assert all(s.measured == s.title.startswith("Measure") for s in found)


def test_the_page_has_boxes_places_and_room_for_readings(report) -> None:
    page = html(report)
    assert page.count('class="box"') == sum(len(s.rows) for s in sections(report))
    assert "left row, 4th pin from the notch end, between GND and L0" in page
    assert page.count('class="reads"') == sum(len(s.rows) for s in sections(report) if s.measured)


def test_names_cannot_break_out_of_the_page(catalog: Catalog) -> None:
    plan = edits.rename_part(example("badge-wall", catalog), "chime", "<script>alert(1)</script>")
    page = html(analyse(plan, catalog))
    assert "<script>" not in page and "&lt;script&gt;" in page


def test_what_is_done_and_what_changed_is_marked(catalog: Catalog) -> None:
    plan = example("badge-wall", catalog)
    done = edits.note_wired(plan, tasks_of(Circuit(plan, catalog)).values())
    moved = edited(done, catalog, edits.tie, "chime.plus", "board.p15")
    lines = text(analyse(moved, catalog)).splitlines()
    assert lines[2] == "Changed since it was wired" and lines[3].strip().startswith("[~] Move Chime")
    assert sum("[x]" in line for line in lines) == len(tasks_of(Circuit(plan, catalog))) - 1
