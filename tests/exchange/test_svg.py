"""The picture as SVG, read back by an XML parser that knows nothing of ours."""

from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.drawing.shapes import Arc, Box, Curve, Disc, Picture, Polygon, Text, moved
from knotplan.core.plan import edits
from knotplan.examples import example
from knotplan.exchange.exports.picture import picture_svg
from knotplan.exchange.svg import element, svg
from tests.conftest import look_at

NS = "{http://www.w3.org/2000/svg}"
SHAPES = [
    Box(1, 2, 3, 4, 1, "#112233", "#445566", 2),
    Disc(5, 6, 2, "#aabbcc"),
    Disc(5, 6, 2, "", "#010203", 1, True),
    Arc(9, 9, 4, 0.25, "#ff0000", 2),
    Polygon(((0, 0), (4, 0), (2, 3)), "#00ff0080"),
    Curve((0, 0), ((1, 0, 2, 1, 3, 1),), "#123456", 2),
    Text(3, 4, "L22", 12, "#000000", True, "end", -90),
]


def root(text: str) -> ElementTree.Element:
    return ElementTree.fromstring(text)


def test_the_demo_s_picture_has_every_part_pin_and_bead() -> None:
    report = look_at(example("harbour-light", shipped()))
    texts = {e.text for e in root(picture_svg(report)).iter(f"{NS}text")}
    assert {p.name for p in report.circuit.placed.values()} <= texts
    assert {report.circuit.titles.of(f"board.{p}") for p in report.circuit.board.pins} <= texts
    assert {"180 Ω", "270 Ω", "330 Ω", "4.7 kΩ ↑"} <= texts


def test_nothing_lies_outside_the_picture() -> None:
    for name in ("harbour-light", "harbour-light-draft"):
        drawn = root(picture_svg(look_at(example(name, shipped()))))
        x, y, w, h = map(float, drawn.get("viewBox").split())
        for box in drawn.iter(f"{NS}rect"):
            left, top = float(box.get("x")), float(box.get("y"))
            assert x <= left and left + float(box.get("width")) <= x + w + 1e-6
            assert y <= top and top + float(box.get("height")) <= y + h + 1e-6


@pytest.mark.parametrize(
    "evil", ["<script>alert(1)</script>", '"/><image href="x"/>', "]]>", "&amp;lt;", "\u202eevil"]
)
def test_names_are_text_and_never_markup(evil: str) -> None:
    plan = edits.retitle(edits.rename_part(example("harbour-light", shipped()), "lamp", evil), evil)
    drawn = root(picture_svg(look_at(plan)))
    assert {e.tag for e in drawn.iter()} <= {
        NS + t for t in ("svg", "title", "rect", "circle", "path", "polygon", "text")
    }
    evil = evil.removeprefix("\u202e")  # turns of direction are taken out
    assert drawn.find(f"{NS}title").text == evil
    shown = {e.text for e in drawn.iter(f"{NS}text")}
    assert any(text == evil or (text.endswith("…") and evil.startswith(text[:-1])) for text in shown)


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: type(s).__name__)
def test_every_shape_is_one_well_formed_element(shape) -> None:
    made = root(f'<svg xmlns="http://www.w3.org/2000/svg">{element(shape)}</svg>')
    assert len(made) == 1


@given(st.sampled_from(SHAPES), st.integers(-500, 500), st.integers(-500, 500))
def test_moving_there_and_back_changes_nothing(shape, dx: int, dy: int) -> None:
    there = moved(shape, dx, dy)
    assert moved(there, -dx, -dy) == shape
    assert (there == shape) == (dx == dy == 0)


def test_a_quarter_arc_ends_at_three_o_clock() -> None:
    """From 12 o'clock clockwise round (9, 9) with radius 4: it ends at (13, 9)."""
    path = root(f'<svg xmlns="http://www.w3.org/2000/svg">{element(SHAPES[3])}</svg>')[0].get("d")
    assert path.startswith("M9 5A4 4 0 0 1 13 9")


def test_eight_digits_are_a_colour_and_its_opacity() -> None:
    made = element(SHAPES[4])
    assert 'fill="#00ff00"' in made and 'fill-opacity="0.502"' in made


def test_the_title_is_escaped_and_the_size_is_the_picture_s() -> None:
    made = root(svg(Picture(-10, -20, 30, 40, "#ffffff", ()), "A & B"))
    assert (made.get("width"), made.get("height"), made.get("viewBox")) == ("30", "40", "-10 -20 30 40")
    assert made.find(f"{NS}title").text == "A & B"
