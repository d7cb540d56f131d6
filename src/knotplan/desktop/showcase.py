"""The full example without a display: checks the demo plan, writes every hand-over file and a picture
of each view; and the pictures of the documentation."""

import argparse
import math
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QRect
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QApplication, QWidget

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.desktop.app import application, make_window
from knotplan.desktop.settings import Settings
from knotplan.desktop.window import MainWindow
from knotplan.examples import example


def _settle() -> None:
    """Lets everything be laid out and painted. Where no event loop runs the toolkit keeps what is to be
    deleted, and each change of colours would go through all of it."""
    for _ in range(4):
        QApplication.processEvents()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@contextmanager
def _window(plan: str, folder: Path) -> Iterator[MainWindow]:
    settings = Settings(folder)
    settings.look = "light"
    window = make_window(example(plan, shipped()), None, settings, shipped())
    window.resize(1280, 800)
    window.show()
    window.complete()
    window.session.load_engine(wait=True)
    yield window
    window.session.saved = window.session.plan  # nobody asks whether to save it
    window.close()
    window.deleteLater()
    _settle()


def _shot(widget: QWidget, path: Path) -> Path:
    if isinstance(widget, MainWindow):
        widget.side.findings.settle()
    _settle()
    widget.grab().save(str(path))
    return path


def shots(folder: Path) -> list[Path]:
    """One picture of each main view, from the demo plan."""
    application()
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as kept:
        return [path for pictures in PICTURES for path in pictures(folder, Path(kept))]


def _draft(folder: Path, kept: Path) -> Iterator[Path]:
    with _window("harbour-light-draft", kept) as window:
        window.session.select("lead", "flag.signal")
        yield _shot(window, folder / "loom.png")
        window.set_look("dark")
        yield _shot(window, folder / "loom-dark.png")


def _views(folder: Path, kept: Path) -> Iterator[Path]:
    with _window("harbour-light", kept) as window:
        window.session.select("part", "lamp")
        window.side.setSizes([560, 100])
        yield _shot(window, folder / "inspector.png")
        window.session.select("", "")
        window.session.look_through("power-on")
        yield _shot(window, folder / "power-on.png")
        window.session.select("", "")
        window.session.look_through("fit")
        window.session.select("", "")
        window.show_view("power")
        window.views.page("power").tree.choose("part-5-v-brick")
        yield _shot(window, folder / "power.png")
        _time_and_buses(window)
        for view in ("buses", "timing"):
            window.show_view(view)
            yield _shot(window, folder / f"{view}.png")
        _wired(window, "cord:lamp.anode")
        yield _shot(window, folder / "wire.png")
        window.set_look("dark")
        _wired(window, "cord:quay.din")
        _measured(window)
        yield _shot(window, folder / "wire-dark.png")
        window.set_look("light")
        yield _shot(_brought_up(window), folder / "bring-up.png")
        yield _sources(window, folder)
        for view in ("pins", "hand-over"):
            window.show_view(view)
            yield _shot(window, folder / f"{view}.png")


def _organ(folder: Path, kept: Path) -> Iterator[Path]:
    with _window("organ-shutters", kept) as window:
        yield _shot(window, folder / "organ.png")


def _wired(window: MainWindow, step: str) -> None:
    """It is wired up to a step."""
    window.show_view("wire")
    view = window.views.page("wire")
    view.table_task.wait()
    _settle()
    if not window.session.plan.wired:
        view.list.choose(view.entries[0].id)
        while view.entry().id != step:
            view.do_it()
    view.list.choose(step)
    view.slip_task.wait()
    view.list.scrollTo(view.list.currentIndex(), view.list.ScrollHint.PositionAtCenter)


def _brought_up(window: MainWindow) -> MainWindow:
    """A practice bench whose motor has its coils in another order, and a device at another address."""
    from knotplan.core.practice.troubles import troubles
    from knotplan.desktop.bringup.practice import Wish

    window.show_view("bringup")
    view = window.views.page("bringup")
    known = {t.id: t for t in troubles(window.session.circuit)}
    view.begin_practice(Wish((known["strap:air"], known["order:lens"]), 0, 7))
    view.practice_task.wait()
    _settle()
    _compared(window, "waves")
    return window


def _compared(window: MainWindow, kind: str) -> None:
    view = window.views.page("bringup")
    view.look_at(kind)
    view.task.wait()
    _settle()


def _sources(window: MainWindow, folder: Path) -> Path:
    """Everything that can come in, in light and in dark: the plan's own bench program with one pin off by
    one, and a log in which a servo went from end to end."""
    from knotplan.exchange.bench import serial_text
    from knotplan.exchange.exports.bench_program import python_program

    view = window.views.page("bringup")
    program = python_program(window.session.report).replace("'gpiochip0', 43,", "'gpiochip0', 44,")
    view.evidence.take_files([("bench.py", program)], "bench.py")
    log = "".join(f"flag: {1450 + round(700 * math.sin(k / 9))}\n" for k in range(120))
    view.evidence.take_columns(serial_text.parse(log), "a log")
    kinds = list(view.pages)
    whole = QImage(1280, 400 * len(kinds), QImage.Format.Format_RGB32)
    with QPainter(whole) as painter:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for column, look in enumerate(("light", "dark")):
            window.set_look(look)
            for row, kind in enumerate(kinds):
                _compared(window, kind)
                painter.drawPixmap(QRect(640 * column, 400 * row, 640, 400), window.grab())
    window.set_look("light")
    path = folder / "bring-up-sources.png"
    whole.save(str(path))
    return path


def _measured(window: MainWindow) -> None:
    """Something has been measured that should not be so."""
    meter = window.views.page("wire").meter
    meter.wrong_part = "lamp"
    for point in meter.table.points:
        if point.id == "ohms:lamp.anode:board.p7":
            meter.ask(point)
    meter.note("open")


def _time_and_buses(window: MainWindow) -> None:
    """Something chosen in both views that tell of what goes on between pins and parts."""
    window.show_view("buses")
    window.views.page("buses").i2c.devices.choose("air")
    window.show_view("timing")
    window.views.page("timing").list.choose("lens-driver.in2")
    window.views.page("timing").plot.at = [0.02, 0.02145]
    window.views.page("timing").plot.look_at(0.0, 0.05)


def _guide(folder: Path, kept: Path) -> Iterator[Path]:
    """The guide where a lamp has been tied, and has no resistor yet."""
    with _window("harbour-light", kept) as window:
        window.take_or_leave_guide()
        session = window.session
        session.edit("turn the board", edits.turn)
        window.guide.look()
        session.edit("add a lamp", edits.add_part, "led", "Red LED")
        window.guide.look()
        for lead, pin in (("red-led.anode", "board.p8"), ("red-led.cathode", "board.p5")):
            session.edit("tie", edits.tie, lead, pin)
            window.guide.look()
        window.side.findings.settle()
        window.activateWindow()
        _settle()
        window.actions_.by_id["next-finding"].trigger()
        _settle()  # the card has the keyboard then, which is what the guide waits for
        window.guide.look()
        yield _shot(window, folder / "guide.png")


def _suggestion(folder: Path, kept: Path) -> Iterator[Path]:
    """The demo with its signals loosened, and what is suggested for them."""
    with _window("harbour-light", kept) as window:
        loose = [t.lead for t in window.session.plan.ties if not t.beads and not t.role]
        for lead in ("horn-and-bell.in2", "flag.signal", "door.contact", "tide-mark.contact", *loose[:2]):
            tie = window.session.plan.tie_of(lead)
            if tie is not None:
                window.session.edit("untie", edits.untie, tie.id)
        window.session.suggest()
        window.session.suggester.wait()
        _settle()
        window.side.setSizes([560, 100])
        yield _shot(window, folder / "suggestion.png")


def _part_form(folder: Path, kept: Path) -> Iterator[Path]:
    """The form on a copy of a part."""
    from knotplan.catalog.load import Catalog
    from knotplan.core.draft.part import from_tree
    from knotplan.desktop.part_form import PartForm

    tree = {k: v for k, v in shipped().kind("pressure-sensor").tree.items() if k != "id"}
    form = PartForm(Catalog(own=kept), from_tree(tree))
    form.show()
    yield _shot(form, folder / "part-form.png")
    form.close()


def _all_boards(folder: Path, _kept: Path) -> Iterator[Path]:
    """Every board at one scale, in two rows."""
    from knotplan.core.drawing.palette import LIGHT
    from knotplan.core.drawing.shapes import Picture, Shape, Text, moved
    from knotplan.desktop.paper import image_of
    from knotplan.desktop.workshop.board_picture import board_picture

    boards = [shipped().board(b) for b in shipped().shipped_ids("board")]
    shapes: list[Shape] = []
    across = down = widest = 0.0
    for row in (boards[:5], boards[5:]):
        across, tall = 20.0, 0.0
        for board in row:
            picture = board_picture(board, LIGHT)
            shapes += [moved(s, across - picture.x, down + 50 - picture.y) for s in picture.shapes]
            shapes.append(Text(across + picture.w / 2, down + 42, board.title, 24, LIGHT.ink, True, "middle"))
            across += picture.w + 26
            tall = max(tall, picture.h)
        widest = max(widest, across)
        down += tall + 60
    path = folder / "boards.png"
    image_of(Picture(0, 0, widest, down + 10, LIGHT.cloth, tuple(shapes)), 0.6).save(str(path))
    yield path


def _workshop(folder: Path, kept: Path) -> Iterator[Path]:
    """The workshop on a board of thirty pins that is nearly done."""
    from knotplan.catalog.load import Catalog
    from knotplan.core.draft.board import blank, paste
    from knotplan.core.drawing.palette import LIGHT
    from knotplan.desktop.workshop.workshop import Workshop

    draft = paste(blank("Tide post"), 0, ["printed"], "5V\nGND\nD0..D12\n3V3\nGND\nA0..A5\nRST\nD13..D18")
    functions = {
        2: "rx\ntx",
        5: "pwm",
        7: "pwm\npwm",
        11: "pwm",
        17: "adc\nadc\nadc\nadc\nadc\nadq",
        24: "sda\nscl",
    }
    for row, text in functions.items():
        draft = paste(draft, row, ["functions"], text)
    window = Workshop(Catalog(own=kept), draft, LIGHT)
    window.show()
    window.go_to(7)
    yield _shot(window, folder / "workshop.png")
    window.bench.saved = window.bench.draft
    window.close()


PICTURES = (_draft, _views, _organ, _guide, _suggestion, _part_form, _all_boards, _workshop)


def demo(folder: Path) -> int:
    """Runs the full example; returns the number of findings at stop."""
    from knotplan.core.check.analysis import analyse
    from knotplan.core.check.finding import SAID
    from knotplan.desktop.paper import PAINTED_EXPORTS
    from knotplan.exchange.exports import EXPORTS
    from knotplan.exchange.exports.export import file_name
    from knotplan.exchange.plan_file import SUFFIX, save

    application()
    folder.mkdir(parents=True, exist_ok=True)
    plan = example("harbour-light", shipped())
    report = analyse(plan, shipped())
    print(f"{plan.title} on {report.circuit.board.title}: {len(plan.parts)} parts, {len(plan.ties)} ties")
    print(report.counted)
    for f in report.findings:
        print(f"  {SAID[f.severity]}: {f.title}. {f.message}")
    written = [folder / f"harbour-light{SUFFIX}"]
    save(plan, written[0])
    for export in (*EXPORTS, *PAINTED_EXPORTS):
        path = folder / file_name("harbour-light", export)
        path.write_bytes(export.make(report, ""))
        written.append(path)
    written += shots(folder)
    print("wrote")
    for path in written:
        print(f"  {path}")
    return report.count("stop")


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--shots", action="store_true", help="only the pictures")
    arguments = parser.parse_args()
    if arguments.shots:
        for path in shots(arguments.folder):
            print(path)
        return 0
    return 1 if demo(arguments.folder) else 0


if __name__ == "__main__":
    sys.exit(main())
