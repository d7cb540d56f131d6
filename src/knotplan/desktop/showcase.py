"""The full example without a display: checks the demo plan, writes every hand-over file and a picture
of each view; and the pictures of the documentation."""

import argparse
import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.desktop.app import application, make_window
from knotplan.desktop.settings import Settings
from knotplan.desktop.window import MainWindow
from knotplan.examples import example


def _window(plan: str, look: str, folder: Path) -> MainWindow:
    settings = Settings(folder)
    settings.look = look
    window = make_window(example(plan, shipped()), None, settings, shipped())
    window.resize(1280, 800)
    window.show()
    window.complete()
    window.session.load_engine(wait=True)
    return window


def _shot(window: MainWindow, path: Path) -> None:
    window.side.findings.settle()
    for _ in range(4):
        QApplication.processEvents()
    window.grab().save(str(path))


def shots(folder: Path) -> list[Path]:
    """One picture of each main view, from the demo plan."""
    application()
    folder.mkdir(parents=True, exist_ok=True)
    paths: list[Path] = []

    def take(window: MainWindow, name: str) -> None:
        paths.append(folder / f"{name}.png")
        _shot(window, paths[-1])

    with tempfile.TemporaryDirectory() as kept:
        window = _window("harbour-light-draft", "light", Path(kept))
        window.session.select("lead", "flag.signal")
        take(window, "loom")
        window.set_look("dark")
        take(window, "loom-dark")
        window.close()
        window = _window("harbour-light", "light", Path(kept))
        window.session.select("part", "lamp")
        window.side.setSizes([560, 100])
        take(window, "inspector")
        window.session.select("", "")
        window.session.look_through("power-on")
        take(window, "power-on")
        window.session.select("", "")
        window.session.look_through("fit")
        window.session.opened_values.add("value-data")
        window.session.select("lead", "quay.din")
        take(window, "values")
        window.session.select("", "")
        window.show_view("power")
        window.views.page("power").tree.choose("part-5-v-brick")
        take(window, "power")
        for look, tail in (("light", ""), ("dark", "-dark")):
            _time_and_buses(window, look)
            for view in ("buses", "timing") if look == "light" else ():
                window.show_view(view)
                take(window, view + tail)
            _wired(window, "cord:lamp.anode" if look == "light" else "cord:quay.din", look)
            take(window, "wire" + tail)
        window.set_look("light")
        window.show_view("pins")
        take(window, "pins")
        window.show_view("hand-over")
        take(window, "hand-over")
        window.session.saved = window.session.plan
        window.close()
        window = _window("organ-shutters", "light", Path(kept))
        take(window, "organ")
        window.close()
        paths += [
            _guide(folder / "guide.png", Path(kept)),
            _suggestion(folder / "suggestion.png", Path(kept)),
            _part_form(folder / "part-form.png", Path(kept)),
        ]
        paths.append(_finders(folder / "finders.png", Path(kept)))
        paths += [_all_boards(folder / "boards.png"), _workshop(folder / "workshop.png", Path(kept))]
    return paths


def _wired(window: MainWindow, step: str, look: str) -> None:
    """Half of it is wired; in the dark something has been measured that should not be so."""
    window.show_view("wire")
    view = window.views.page("wire")
    while view.meter.table is None:
        view.table_task.wait(0.05)
        QApplication.processEvents()
    if not window.session.plan.wired:
        view.list.choose(view.entries[0].id)
        while view.entry().id != step:
            view.do_it()
    view.list.choose(step)
    view.slip_task.wait()
    if look == "dark":
        view.meter.wrong_part = "lamp"
        for point in view.meter.table.points:
            if point.id == "ohms:lamp.anode:board.p7":
                view.meter.ask(point)
        view.meter.note("open")
    view.list.scrollTo(view.list.currentIndex(), view.list.ScrollHint.PositionAtCenter)


def _time_and_buses(window: MainWindow, look: str) -> None:
    """Something chosen in both views that tell of what goes on between pins and parts."""
    window.set_look(look)
    window.show_view("buses")
    window.views.page("buses").i2c.devices.choose("air")
    window.show_view("timing")
    window.views.page("timing").list.choose("lens-driver.in2")
    window.views.page("timing").plot.at = [0.02, 0.02145]
    window.views.page("timing").plot.look_at(0.0, 0.05)


def _guide(path: Path, kept: Path) -> Path:
    """The guide where a lamp has been tied, and has no resistor yet."""
    window = _window("harbour-light", "light", kept)
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
    window.actions_.by_id["next-finding"].trigger()
    window.guide.look()
    _shot(window, path)
    window.session.saved = window.session.plan  # nobody asks whether to save it
    window.close()
    return path


def _suggestion(path: Path, kept: Path) -> Path:
    """The demo with its signals loosened, and what is suggested for them."""
    window = _window("harbour-light", "light", kept)
    loose = [t.lead for t in window.session.plan.ties if not t.beads and not t.role]
    for lead in ("horn-and-bell.in2", "flag.signal", "door.contact", "tide-mark.contact", *loose[:2]):
        tie = window.session.plan.tie_of(lead)
        if tie is not None:
            window.session.edit("untie", edits.untie, tie.id)
    window.session.suggest()
    while window.session.suggester.searching:
        QApplication.processEvents()
    window.session.suggester.wait()
    window.side.setSizes([560, 100])
    _shot(window, path)
    window.session.saved = window.session.plan
    window.close()
    return path


def _finders(path: Path, kept: Path) -> Path:
    """The value finders by themselves."""
    from knotplan.desktop.values_dialog import ValuesDialog

    window = _window("harbour-light", "light", kept)
    dialog = ValuesDialog(window.session, None, "divider", {"volts": 5.0})
    dialog.show()
    for _ in range(4):
        QApplication.processEvents()
    dialog.grab().save(str(path))
    dialog.close()
    window.close()
    return path


def _part_form(path: Path, kept: Path) -> Path:
    """The form on a copy of a part."""
    from knotplan.catalog.load import Catalog
    from knotplan.core.draft.part import from_tree
    from knotplan.desktop.part_form import PartForm

    tree = {k: v for k, v in shipped().kind("pressure-sensor").tree.items() if k != "id"}
    form = PartForm(Catalog(own=kept), from_tree(tree))
    form.show()
    QApplication.processEvents()
    form.grab().save(str(path))
    form.close()
    return path


def _all_boards(path: Path) -> Path:
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
    image_of(Picture(0, 0, widest, down + 10, LIGHT.cloth, tuple(shapes)), 0.6).save(str(path))
    return path


def _workshop(path: Path, kept: Path) -> Path:
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
    for _ in range(4):
        QApplication.processEvents()
    window.grab().save(str(path))
    window.bench.saved = window.bench.draft
    window.close()
    return path


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
