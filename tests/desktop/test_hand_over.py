"""Hand over in the window: what a plan has no file of, and a maker's own templates."""

from pathlib import Path

import pytest
from PySide6.QtWidgets import QFileDialog

from knotplan.catalog.load import shipped
from knotplan.desktop.hand_over.view import HandOver, all_exports
from knotplan.desktop.window import MainWindow
from knotplan.examples import HERE
from knotplan.exchange.exports.export import CannotExportError


@pytest.fixture
def templates(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The maker's folder of templates, empty yet."""
    folder = tmp_path / "templates"
    folder.mkdir()
    monkeypatch.setattr("knotplan.exchange.exports.own_template.folder", lambda: folder)
    return folder


def view_of(window: MainWindow) -> HandOver:
    window.show_view("hand-over")
    return window.views.page("hand-over")


def kinds(view: HandOver) -> list[str]:
    return [view.kinds.item(k).text().partition("\n")[0] for k in range(view.kinds.count())]


def choose(view: HandOver, title: str) -> None:
    view.kinds.setCurrentRow(kinds(view).index(title))


def test_a_template_of_one_s_own_is_among_the_kinds_as_soon_as_it_is_there(
    qtbot, window: MainWindow, templates: Path
) -> None:
    view = view_of(window)
    choose(view, "Netlist (JSON)")
    assert not any("lamp.rs.j2" in k for k in kinds(view))
    (templates / "lamp.rs.j2").write_text("{% for p in pins %}{{ p.name }} is {{ p.value }};{% endfor %}")
    window.show_view("loom")
    window.show_view("hand-over")
    assert view.export().id == "netlist", "what was chosen stays"
    choose(view, "Constants by lamp.rs.j2")
    qtbot.waitUntil(lambda: "LAMP is 22;" in view.text.toPlainText(), timeout=20_000)
    view._pick_scheme("position")
    qtbot.waitUntil(lambda: "LAMP is 7;" in view.text.toPlainText(), timeout=20_000)
    (templates / "lamp.rs.j2").write_text("{{ pinz }}")
    window.session.changed.emit()
    qtbot.waitUntil(lambda: "did you mean 'pins'?" in view.text.toPlainText(), timeout=20_000)


def test_an_answer_that_comes_late_is_not_shown_for_another_kind(
    qtbot, window: MainWindow, templates: Path
) -> None:
    (templates / "slow.txt.j2").write_text("late")
    view = view_of(window)
    choose(view, "Constants by slow.txt.j2")
    choose(view, "Pin constants (C header)")
    view.beside.wait()
    qtbot.wait(50)
    assert "#define" in view.text.toPlainText()


def test_save_all_leaves_out_what_the_plan_has_no_file_of(
    open_window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """On every board: what cannot be written keeps nothing else from being written."""
    window = open_window("badge-wall")
    view, said = view_of(window), []
    window.session.noticed.connect(said.append)
    folder = tmp_path / "all"
    folder.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    view.save_all()
    none = []
    for export in all_exports():
        try:
            export.make(window.session.report, "")
        except CannotExportError:
            none.append(export.title)
    assert none and len(list(folder.iterdir())) == len(all_exports()) - len(none)
    assert all(f"no {title}" in said[-1] for title in none)


@pytest.mark.slow
@pytest.mark.parametrize("scene", sorted(p.name for p in HERE.glob("*.knot.json")))
def test_every_kind_of_every_scene_is_written_or_told(qapp: object, scene: str) -> None:
    from knotplan.core.check.analysis import analyse
    from knotplan.examples import example

    report = analyse(example(scene.removesuffix(".knot.json"), shipped()), shipped())
    for export in all_exports():
        try:
            assert export.make(report, "")
        except CannotExportError as error:
            assert str(error)
