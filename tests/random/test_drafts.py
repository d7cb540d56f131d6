"""Boards and parts while they are being described: whatever stands in the grid, it
is checked, drawn, written and read."""

from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.draft import board as board_draft
from knotplan.core.draft import part as part_draft
from knotplan.core.draft.board import BoardDraft
from knotplan.core.draft.board_compiled import compiled
from knotplan.core.drawing.palette import LIGHT
from knotplan.desktop.workshop.board_picture import board_picture
from knotplan.exchange import board_file, part_file
from tests.conftest import examples
from tests.random.edits_at_random import NAMES

CATALOG = shipped()
CELLS = (
    "5V",
    "3V3",
    "8V",
    "GND",
    "D2..D9",
    "pwm",
    "pwm:1.a",
    "adc:0.3, input",
    "only adc",
    "sda",
    "uart:9.tx",
    "nonsense:",
    ":",
    ".",
    "pull-up",
    "12V",
    "1..99999",
    "x~1@2",
    "touch",
    "RST",
    "low",
    "high",
    "supply",
    "ground",
    "D2\tD3\n5V\tGND",
    *NAMES,
)


@pytest.mark.slow
@given(st.data())
@settings(max_examples=examples(60), deadline=None)
def test_any_board_in_the_making(data: st.DataObject) -> None:
    draw: Any = data.draw
    draft = draw(
        st.sampled_from(
            [
                board_draft.blank,
                lambda: board_draft.from_board(CATALOG.board("toggle"), "Copy"),
                lambda: board_draft.from_board(CATALOG.board("clove-22"), "Other"),
            ]
        )
    )()
    for _ in range(draw(st.integers(1, 8))):
        draft = _changed(draft, draw)
        board, wrong = compiled(draft)
        assert all(why for _, why in wrong)
        kept = msgspec.json.encode(msgspec.to_builtins(draft))
        again = msgspec.convert(msgspec.json.decode(kept), BoardDraft)
        assert msgspec.json.encode(msgspec.to_builtins(again)) == kept, (
            "a draft that was left behind is taken up as it was"
        )
        assert compiled(again)[1] == wrong
        if board is not None:
            if board.pins and board.sockets:
                board_picture(board, LIGHT)
            if not wrong:
                board_file.loads(board_file.dumps(board), board.id)


def _changed(draft: BoardDraft, draw: Any) -> BoardDraft:
    column = draw(st.sampled_from([key for key, _ in board_draft.columns(draft)]))
    text, at = (
        draw(st.sampled_from([c for c in CELLS if "\ud800" not in c])),
        draw(st.integers(0, max(0, len(draft.pins) - 1))),
    )
    header = draw(st.sampled_from([*draft.headers] or ["none"]))
    ways = [
        lambda: board_draft.set_cell(draft, at, column, text),
        lambda: board_draft.paste(draft, at, [column], text),
        lambda: board_draft.add_scheme(draft, text),
        lambda: board_draft.set_volts(draft, draw(st.sampled_from([1.8, 3.3, 5.0]))),
        lambda: board_draft.add_header(draft, text, draw(st.integers(1, 5)), draw(st.integers(1, 3))),
        lambda: replace(draft, title=text or "x", summary=text),
    ]
    if header in draft.headers:
        ways += [
            lambda: board_draft.resize_header(
                draft, header, draw(st.integers(1, 12)), draw(st.integers(1, 3)), 2.54
            ),
            lambda: board_draft.remove_header(draft, header),
        ]
    made: BoardDraft = draw(st.sampled_from(ways))() if draft.pins else ways[4]()
    return made


@pytest.mark.slow
@given(st.data())
@settings(max_examples=examples(60), deadline=None)
def test_any_part_in_the_making(data: st.DataObject) -> None:
    draw: Any = data.draw
    kind = draw(st.sampled_from([None, *CATALOG.part_ids()]))
    draft = (
        part_draft.blank()
        if kind is None
        else part_draft.from_tree({k: v for k, v in CATALOG.kind(kind).tree.items() if k != "id"})
    )
    texts = st.sampled_from([n for n in NAMES if "\ud800" not in n])
    for _ in range(draw(st.integers(1, 4))):
        leads = list(draft.leads)
        if leads and draw(st.booleans()):
            k = draw(st.integers(0, len(leads) - 1))
            numbers = st.sampled_from([0.0, 1.0, -5.0, 1e-9, 1e300])
            leads[k] = replace(
                leads[k],
                title=draw(texts),
                need=draw(st.sampled_from([*part_draft.PRESETS])),
                low=draw(numbers),
                high=draw(numbers),
                required=draw(st.booleans()),
            )
        elif leads and draw(st.booleans()):
            leads.pop(draw(st.integers(0, len(leads) - 1)))
        draft = replace(
            draft,
            leads=tuple(leads),
            title=draw(texts),
            summary=draw(texts),
            words=draw(texts),
            note=draw(texts),
            usual_a=draw(st.sampled_from([0.0, 0.02, 1e9])),
            worst_a=draw(st.sampled_from([0.0, 0.1])),
        )
        text = part_file.dumps(part_draft.compiled(draft))
        try:
            found = part_file.loads(text, "mine")
        except part_file.PartFileError as error:
            assert error.errors
            continue
        part_draft.from_tree({k: v for k, v in found.tree.items() if k != "id"})
