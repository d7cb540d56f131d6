"""The Power view: tree, dragging, USB alone, activities, plot."""

import pytest
from PySide6.QtCore import QMimeData, Qt
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPushButton, QToolButton

from knotplan.core.power.ladder import FEED_OHM, ladder
from knotplan.core.quantity.written import show
from knotplan.desktop.power.tree_model import HEADS, MIME, NODE
from knotplan.desktop.power.view import PowerView
from knotplan.desktop.window import MainWindow


@pytest.fixture
def power(window: MainWindow) -> PowerView:
    window.actions_.by_id["power"].trigger()
    assert window.views.shown() is window.views.page("power")
    return window.views.page("power")


def texts(widget) -> str:
    return "\n".join(x.text() for x in widget.findChildren(QLabel))


def shown(view: PowerView) -> list[str]:
    return [r.node.title for r in view.model.rows]


def type_in(view: PowerView, name: str, text: str) -> None:
    field = view.activities.findChild(QLineEdit, name)
    field.setText(text)
    field.editingFinished.emit()


def test_the_tree_shows_what_hangs_on_what(power: PowerView) -> None:
    assert power.model.rowCount() == 2
    brick = power.model.index(1, 0)
    assert power.model.data(brick) == "5 V brick"
    below = [power.model.data(power.model.index(k, 0, brick)) for k in range(power.model.rowCount(brick))]
    assert {"Flag", "Quay", "Lens", "Horn and bell"} <= set(below)
    flag = power.model.index(below.index("Flag"), 0, brick)
    assert power.model.parent(flag) == brick and power.tree.isExpanded(brick)
    cells = [power.model.data(flag.siblingAtColumn(k)) for k in range(len(HEADS))]
    assert cells[2:4] == ["120 mA", "650 mA"] and cells[1] == "4.8 – 5 V"
    assert power.model.data(flag, Qt.ItemDataRole.AccessibleTextRole) == "What: Flag"


def test_a_row_tells_about_itself_and_what_is_chosen_stays(power: PowerView) -> None:
    power.tree.choose("part-5-v-brick")
    said = texts(power.detail)
    assert "2.89 A to spare" in said and "exclude one another" in said and "On average" in said
    power.tree.choose("flag.power")
    power.session.edit(
        "", __import__("knotplan.core.plan.edits", fromlist=["x"]).recolour, "flag.signal", "green"
    )
    assert power.tree.chosen().id == "flag.power"
    assert "it needs 4.5 V" in texts(power.detail)
    power.detail.findChild(QPushButton, "showInLoom").click()
    assert power.session.selection.id == "flag"
    assert power.window().views.shown() is not power


def test_a_load_moves_by_dragging_and_by_keyboard(power: PowerView) -> None:
    model = power.model

    def row_of(title: str):
        return next(
            i
            for i in model.match(
                model.index(0, 0),
                Qt.ItemDataRole.DisplayRole,
                title,
                1,
                Qt.MatchFlag.MatchRecursive | Qt.MatchFlag.MatchExactly,
            )
        )

    flag = row_of("Flag")
    assert model.flags(flag) & Qt.ItemFlag.ItemIsDragEnabled
    data = model.mimeData([flag])
    assert bytes(data.data(MIME).data()) == b"flag.power"
    model.dropMimeData(data, Qt.DropAction.MoveAction, -1, -1, row_of("5 V rail"))
    assert power.session.plan.tie_of("flag.power").to == "board.p1"
    power.session.undo()
    noticed: list[str] = []
    power.session.noticed.connect(noticed.append)
    model.dropMimeData(
        model.mimeData([row_of("Flag")]), Qt.DropAction.MoveAction, -1, -1, row_of("3.3 V rail")
    )
    assert (
        "cannot hang there" in noticed[0]
        and power.session.plan.tie_of("flag.power").to == "part-5-v-brick.plus"
    )
    assert model.dropMimeData(QMimeData(), Qt.DropAction.MoveAction, -1, -1, row_of("5 V rail")) is False
    power.tree.choose("quay.vdd")
    box = power.detail.findChild(QComboBox, "fedFrom")
    assert box.accessibleName() == "Fed from" and box.currentText() == "5 V brick"
    at = next(k for k in range(box.count()) if box.itemText(k).startswith("5 V rail"))
    box.activated.emit(at)
    assert power.session.plan.tie_of("quay.vdd").to == "board.p1"


def test_rows_answer_while_a_load_is_dragged(power: PowerView, monkeypatch: pytest.MonkeyPatch) -> None:
    """As pins answer a lead: what cannot be is no place to drop it."""
    seen: dict[str, int] = {}

    def dragged(view, actions) -> None:
        model = view.model_
        seen.update({k: int(v) for k, v in model.answers.items()})
        data = model.mimeData([view.currentIndex()])
        for title, able in (("3.3 V rail", False), ("5 V rail", True)):
            at = model.match(
                model.index(0, 0),
                Qt.ItemDataRole.DisplayRole,
                title,
                1,
                Qt.MatchFlag.MatchRecursive | Qt.MatchFlag.MatchExactly,
            )[0]
            assert model.canDropMimeData(data, Qt.DropAction.MoveAction, -1, -1, at) is able
        view.grab()

    monkeypatch.setattr("PySide6.QtWidgets.QTreeView.startDrag", dragged)
    power.tree.choose("flag.power")
    power.tree.startDrag(Qt.DropAction.MoveAction)
    assert seen["part-5-v-brick"] <= 1 and seen["rail:5v"] == 2 and seen["rail:3v3"] == 3
    assert power.model.answers == {}
    power.tree.choose("usb-brick")
    seen.clear()
    power.tree.startDrag(Qt.DropAction.MoveAction)
    assert not seen, "a supply hangs on nothing"


def test_the_detail_tells_what_is_wrong_with_a_row(open_window) -> None:
    """Of the draft's rows, and of a supply whose zero reaches no ground."""

    def opened(plan: str) -> PowerView:
        window = open_window(plan)
        window.show_view("power")
        return window.views.page("power")

    def told_at(view: PowerView, part: str) -> str:
        view.tree.choose(next(r.node.id for r in view.model.rows if r.node.part == part))
        return texts(view.detail)

    power, apart = opened("harbour-light-draft"), opened("rules/no-common-ground.bad")
    assert "Motor or servo on a board rail" in told_at(power, "flag")
    assert "Missing: capacitor" in told_at(power, "quay") and "more among the findings" in texts(power.detail)
    finding = next(f for f in apart.session.report.findings if f.rule == "no-common-ground")
    supply = next(
        s.partition(".")[0]
        for s in finding.subjects
        if s.partition(".")[0] in apart.session.circuit.supplies.on_bench
    )
    assert finding.message in told_at(apart, supply)


def test_the_detail_says_what_a_chains_last_pixel_has(power: PowerView) -> None:
    node = next(r.node for r in power.model.rows if r.node.part == "quay")
    px = power.session.circuit.parts["quay"].facts.pixels
    volts = ladder(node.least_v, int(px.count), px.full_a, px.step_ohm, FEED_OHM, (0,))[-1]
    power.tree.choose(node.id)
    assert f"Fed at its beginning, its farthest pixel has {show(volts, 'V')}" in texts(power.detail)


def test_on_usb_alone_says_what_is_dead_and_what_feeds_it(qtbot, open_window) -> None:
    window = open_window("harbour-light-draft")
    window.show_view("power")
    view = window.views.page("power")
    view.usb.click()
    assert view.summary.text() == "checking …"
    qtbot.waitUntil(lambda: view.alone is not None)
    assert "without power" in view.summary.text() and "Lens" in view.summary.text()
    assert (
        "While 5 V brick is off, Quay · DIN lets 34.3 mA into it" in view.back.text()
        and view.back.isVisible()
    )
    dead = next(k for k, r in enumerate(view.model.rows) if r.node.title == "Quay")
    assert view.model.data(view.tree._index(dead)) == "Quay – no supply"
    view.usb.click()
    assert "supplies" in view.summary.text() and not view.back.isVisible()


def test_activities_are_made_changed_and_removed(qtbot, power: PowerView) -> None:
    panel, before = power.activities, len(power.session.plan.activities)
    panel.findChild(QPushButton, "addActivity").click()
    assert panel.chosen.title == "Activity"
    type_in(power, "activityName", "Gale")
    type_in(power, "starts_s", "10")
    type_in(power, "lasts_s", "5 s")
    menu = panel.findChild(QToolButton, "activityLoads").menu()
    next(a for a in menu.actions() if a.text() == "Flag").trigger()
    menu = panel.findChild(QToolButton, "activityExcludes").menu()
    next(a for a in menu.actions() if a.text() == "Lens turns").trigger()
    made = power.session.plan.activities[-1]
    assert (made.title, made.starts_s, made.lasts_s, made.parts, made.excludes) == (
        "Gale",
        10.0,
        5.0,
        ("flag",),
        ("lens",),
    )
    assert "activity-2" not in made.id and made.id in power.session.plan.activity("lens").excludes
    assert "activities-meet" in [f.rule for f in power.session.report.findings]  # the lens turns then
    type_in(power, "lasts_s", "never")
    assert power.session.plan.activities[-1].lasts_s == 5.0
    panel.findChild(QPushButton, "removeActivity").click()
    assert len(power.session.plan.activities) == before
    type_in(power, "cycle", "120")
    assert power.session.plan.cycle_s == 120.0
    power.session.undo()
    assert power.session.plan.cycle_s == 90.0


def test_the_plot_follows_the_chosen_supply(power: PowerView) -> None:
    power.tree.choose("part-5-v-brick")
    assert "Lens turns 266 mA" in power.plot.plot.accessibleDescription()
    assert "at worst 740 mA" in power.plot.plot.accessibleDescription()  # quay and lens while the flag rests
    power.tree.choose("usb-brick")
    assert power.plot.plot.accessibleDescription().startswith("USB brick: always on")


def test_an_empty_plan_says_what_to_do(open_window) -> None:
    from knotplan.core.plan.document import Plan

    window = open_window(Plan("bowline-40"))
    window.show_view("power")
    assert window.views.page("power").model.rowCount() == 1  # the board on its socket
    assert "What happens on this bench?" in texts(window.views.page("power").activities)
    node = window.views.page("power").tree.chosen()
    assert node is not None and node.title.endswith("(assumed)")


def test_dark_and_small(open_window) -> None:
    window = open_window("mist-bench")
    window.resize(1024, 640)
    window.show_view("power")
    window.set_look("dark")
    view = window.views.page("power")
    assert view.tree.isColumnHidden(6) and view.tree.columnWidth(0) > 180
    assert view.p is window.palette_now and view.tree.chosen() is not None
    index = view.model.index(0, 0)
    assert index.data(NODE).title == "USB brick"
