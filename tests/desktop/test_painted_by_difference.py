"""Only what differs is painted again; what comes out is what painting everything would have given."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import shipped
from knotplan.core.drawing.extent import extent
from knotplan.core.drawing.loom.changes import changes
from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.drawing.shapes import Arc, Box, Curve, Disc, Polygon, Shape, Text
from knotplan.core.plan import edits
from knotplan.core.plan.editing import edited
from knotplan.core.plan.edits.changed import EditError
from knotplan.desktop.loom.layer import EDGE, Aim, Layer
from knotplan.desktop.paint import paint
from knotplan.desktop.window import MainWindow
from tests.conftest import examples
from tests.random.edits_at_random import EDITS, Bench, an_edit

INK, PLACE, LONG = st.sampled_from(["#204060", "#c01010a0"]), st.floats(-60, 60), st.floats(0.5, 60)
POINT = st.tuples(PLACE, PLACE)
WIDTH = st.floats(0.3, 9)
SHAPES = st.one_of(
    st.builds(Box, PLACE, PLACE, LONG, LONG, st.floats(0, 20), INK, INK, WIDTH),
    st.builds(Disc, PLACE, PLACE, LONG, INK, INK, WIDTH, st.booleans()),
    st.builds(Arc, PLACE, PLACE, LONG, st.floats(0, 1), INK, WIDTH),
    st.builds(Polygon, st.lists(POINT, min_size=3, max_size=5).map(tuple), INK, INK, WIDTH),
    st.builds(Curve, POINT, st.lists(st.tuples(*[PLACE] * 6), min_size=1, max_size=3).map(tuple), INK, WIDTH),
    st.builds(
        Text,
        PLACE,
        PLACE,
        st.text(st.sampled_from("AgjÄÅfWi…μΩ12·“”"), min_size=1, max_size=9),
        st.sampled_from([9.0, 11.0, 13.0, 20.0]),
        INK,
        st.booleans(),
        st.sampled_from(["start", "middle", "end"]),
        st.sampled_from([0.0, -90.0, 90.0, 30.0]),
    ),
)


# of one colour on another, so that it can be seen which lies above
BOXES = st.builds(
    Box,
    PLACE,
    PLACE,
    LONG,
    LONG,
    st.just(0.0),
    st.sampled_from(["#204060", "#c01010", "#10a040"]),
    st.just(""),
    st.just(0.0),
)
LOOSE = st.lists(BOXES, min_size=1, max_size=4).map(
    lambda shapes: Group(-200, -200, 400, 400, tuple(shapes), keep=False)
)
KEPT = BOXES.map(lambda box: Group(box.x - 4, box.y - 4, box.w + 8, box.h + 8, (box,)))


@st.composite
def before_and_after(draw: st.DrawFn) -> tuple[list[Group], list[Group]]:
    """Two pictures that have much in common: some groups are gone, new, made anew, or in another order."""
    before = draw(st.lists(st.one_of(LOOSE, KEPT), min_size=1, max_size=5))
    now = draw(st.permutations([*before, *draw(st.lists(st.one_of(LOOSE, KEPT), max_size=2))]))
    now = now[draw(st.integers(0, 2)) :]
    for k, group in enumerate(now):
        if not group.keep and draw(st.booleans()):  # the same shapes in a group that is made anew
            now[k] = group._replace(shapes=tuple(draw(st.permutations(group.shapes))))
    return before, now


@pytest.mark.usefixtures("qapp")
@given(before_and_after())
def test_any_two_pictures_one_over_the_other(pictures: tuple[list[Group], list[Group]]) -> None:
    before, now = pictures
    aim, layer = Aim(QSize(300, 300), 1.0, 1.3, QPointF(150, 150), LIGHT), Layer()
    layer.picture(aim, before)
    assert layer.picture(aim, now).toImage() == Layer().picture(aim, now).toImage()


@pytest.mark.usefixtures("qapp")
@given(SHAPES)
def test_no_shape_is_painted_beyond_its_extent(shape: Shape) -> None:
    image = QImage(600, 600, QImage.Format.Format_ARGB32)
    image.fill("#00000000")
    with QPainter(image) as painter:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing)
        painter.translate(300, 300)
        paint(painter, [shape])
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Clear)
        x, y, w, h = extent(shape)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing, False)
        painter.fillRect(
            QRectF(x, y, w, h).toAlignedRect().adjusted(-EDGE, -EDGE, EDGE, EDGE), QColor(0, 0, 0, 0)
        )
    assert not any(bytes(image.constBits())), "everything that was painted lies within"


def settled(window: MainWindow) -> None:
    for _ in range(2):
        QApplication.processEvents()


@pytest.mark.parametrize("scene", ["harbour-light", "kite-winder", "seed-drawers", "badge-wall"])
def test_after_each_edit_the_bench_is_as_if_painted_whole(open_window, scene: str) -> None:
    """Pixel by pixel, from near and from afar, for edits of every kind."""
    for seed in range(examples(1)):
        window, r = open_window(scene), random.Random(f"{scene} {seed}")
        session, loom = window.session, window.loom
        settled(window)
        partly = 0
        for number in range(24):
            if number == 8:
                loom.zoom(0.6)
            elif number == 16:
                loom.zoom(3.0, QPointF(400, 300))
            loom._settle()  # the hand rests: on a slow machine the old picture stays until then
            before = loom.layers()
            change = an_edit(Bench(session.plan, shipped(), r.choice), r.choice(sorted(EDITS)))
            try:
                plan = edited(session.plan, shipped(), change[1], *change[2], **change[3]) if change else None
            except EditError:
                continue
            if plan is None:
                continue
            session.edit("any", lambda _, plan=plan: plan)
            settled(window)
            partly += bool(changes(before, loom.layers()))
            aim = Aim(loom._layer.size(), loom.devicePixelRatioF(), loom.scale, QPointF(loom._offset), loom.p)
            whole = Layer().picture(aim, loom.layers())
            assert loom._layer.toImage() == whole.toImage(), f"{number}: {change[0]}"
        assert partly, "many edits change a part of the picture"


def test_a_part_of_the_picture_says_nothing_of_what_a_frame_takes(open_window) -> None:
    """Whether a gesture may paint anew in each frame, is decided by the last whole painting."""
    window = open_window("harbour-light")
    settled(window)
    window.loom._took_s = 1.0  # as if painting took longer than a frame
    window.session.edit("colour", edits.recolour, "lamp.anode", "green")
    settled(window)
    assert not window.loom._painted.whole and window.loom._took_s == 1.0
    window.loom.fit()
    window.loom.zoom(2.0)
    window.loom._settle()
    settled(window)
    assert window.loom._painted.whole and window.loom._took_s < 1.0
