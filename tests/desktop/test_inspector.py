"""Names, candidates, values and beads in the inspector."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPushButton

from knotplan.catalog.part.needs import Output, Pulse
from knotplan.core.match.fit import Grade
from knotplan.core.plan import edits
from knotplan.core.plan.beads import SeriesResistor
from knotplan.desktop.commands.edit import add_bead
from knotplan.desktop.panels.lead_panel import LeadPanel
from knotplan.desktop.panels.part_panel import PartPanel
from knotplan.desktop.panels.pin_panel import PinPanel
from knotplan.desktop.window import MainWindow


def panel(window: MainWindow, kind: str, thing: str):
    window.session.select(kind, thing)
    return window.side.inspector.panel


def texts(widget) -> str:
    return "\n".join(x.text() for x in widget.findChildren(QLabel))


def test_an_ambiguous_name_is_never_guessed(qtbot, draft: MainWindow) -> None:
    lead = panel(draft, "lead", "flag.signal")
    qtbot.keyClicks(lead.field, "12")
    assert {o.contact for o in lead.offers.offers()} == {"board.p12", "board.p4", "board.p32"}
    assert "means 3 different pins" in lead.note.text()
    assert {o.place for o in lead.offers.offers()} == {
        "as position 12",
        "as chip line 12",
        "as library index 12",
    }
    qtbot.keyClick(lead.field, Qt.Key.Key_Return)
    assert draft.session.plan.tie_of("flag.signal") is None, "Enter in the field did not choose"
    assert lead.offers.hasFocus()
    qtbot.keyClick(lead.offers, Qt.Key.Key_Return)
    assert draft.session.plan.tie_of("flag.signal").to == "board.p12"


def test_a_name_that_means_one_pin_is_taken_in_any_scheme(qtbot, draft: MainWindow) -> None:
    for text, pin in (("L3", "p18"), ("pos 24", "p24"), ("line 46", "p12"), ("PULSE_B0", "p18")):
        lead = panel(draft, "lead", "flag.signal")
        lead.field.clear()
        qtbot.keyClicks(lead.field, text)
        qtbot.keyClick(lead.field, Qt.Key.Key_Return)
        assert draft.session.plan.tie_of("flag.signal").to == f"board.{pin}", text
        draft.session.select("", "")


def test_an_unknown_name_offers_the_nearest_and_keeps_what_was_typed(qtbot, draft: MainWindow) -> None:
    lead = panel(draft, "lead", "flag.signal")
    qtbot.keyClicks(lead.field, "PULSE_Z0")
    assert "No pin is called" in lead.note.text() and "PULSE_" in lead.note.text().split("Nearest")[1]
    qtbot.keyClick(lead.field, Qt.Key.Key_Return)
    assert draft.session.plan.tie_of("flag.signal") is None and lead.field.text() == "PULSE_Z0"


def test_a_name_of_a_pin_that_cannot_says_so(qtbot, draft: MainWindow) -> None:
    lead = panel(draft, "lead", "flag.signal")
    qtbot.keyClicks(lead.field, "L5")
    (offer,) = lead.offers.offers()
    assert offer.grade == Grade.IMPOSSIBLE and offer.reason == "no pulse output"


def test_ground_by_name_takes_the_nearest_ground(qtbot, draft: MainWindow) -> None:
    lead = panel(draft, "lead", "part-5-v-brick.zero")
    qtbot.keyClicks(lead.field, "GND")
    qtbot.keyClick(lead.field, Qt.Key.Key_Return)
    tie = draft.session.plan.tie_of("part-5-v-brick.zero")
    assert draft.session.circuit.contacts.pin(tie.to).kind == "ground"


def test_the_leds_value_with_its_working(qtbot, draft: MainWindow) -> None:
    part = panel(draft, "part", "red-pier-light")
    assert isinstance(part, PartPanel)
    working = part.findChild(QLabel, "working")
    assert working.isHidden()
    qtbot.mouseClick(part.findChild(QPushButton, "how"), Qt.MouseButton.LeftButton)
    assert not working.isHidden()
    assert "R = (V − V_F(I)) / I − R_pin" in working.text() and "IEC 60063" in working.text()
    assert "forward voltage" in working.text() and "catalogue" in working.text()
    qtbot.mouseClick(part.findChild(QPushButton, "putResistor"), Qt.MouseButton.LeftButton)
    assert draft.session.plan.tie("red-pier-light.anode").beads == (SeriesResistor(270, 0.1),)


def test_a_selected_bead_offers_its_value_and_neighbours(qtbot, draft: MainWindow) -> None:
    """The lamp's 1 kOhm is far from its wish: the tie itself offers 180, between 150 and 220."""
    tie = panel(draft, "tie", "lamp.anode")
    said = texts(tie)
    assert all(words in said for words in ("150 Ω", "180 Ω", "220 Ω", "mA: least · typ. · most"))
    qtbot.mouseClick(tie.findChild(QPushButton, "putResistor"), Qt.MouseButton.LeftButton)
    assert draft.session.plan.tie("lamp.anode").beads[0].ohm == 180
    assert panel(draft, "tie", "lamp.cathode").findChild(QPushButton, "how") is None


def test_enter_presses_a_button_and_leaves_a_field(qtbot, draft: MainWindow) -> None:
    part = panel(draft, "part", "lamp")
    put = part.findChild(QPushButton, "putResistor")
    put.setFocus()
    qtbot.keyClick(put, Qt.Key.Key_Return)
    assert draft.session.plan.tie("lamp.anode").beads[0].ohm == 180
    for key in (Qt.Key.Key_Return, Qt.Key.Key_Escape):
        field = panel(draft, "part", "lamp").findChild(QLineEdit, "name")
        field.setFocus()
        qtbot.keyClick(field, key)
        assert draft.loom.hasFocus()


def test_a_wished_brightness_is_a_wished_current(qtbot, window: MainWindow) -> None:
    """The red LED gives 0.8 cd at 20 mA, so 120 mcd need 3 mA (proportional)."""
    part = panel(window, "part", "red-pier-light")
    field = part.findChild(QLineEdit, "brightness")
    field.setFocus()
    field.setText("120m")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert window.session.plan.part("red-pier-light").params["wish"] == 0.003


def test_nonsense_in_a_number_is_kept_and_explained(qtbot, window: MainWindow) -> None:
    part = panel(window, "part", "red-pier-light")
    before = window.session.plan
    for text, why in (
        ("five", "is not a number"),
        ("3 A", "at most 20 mA"),
        ("1 V", "is in V, but A is wanted"),
    ):
        field = part.findChild(QLineEdit, "wish")
        field.setText(text)
        qtbot.keyClick(field, Qt.Key.Key_Return)
        assert field.text() == text and why in texts(field.parentWidget())
    assert window.session.plan is before


def test_beads_are_dropped_changed_and_taken_out(qtbot, window: MainWindow) -> None:
    lead = panel(window, "lead", "flag.signal")
    qtbot.mouseClick(lead.findChild(QPushButton, "add-resistor"), Qt.MouseButton.LeftButton)
    assert window.session.plan.tie("flag.signal").beads == (SeriesResistor(330.0),)
    field = window.side.inspector.panel.findChild(QLineEdit, "bead-0")
    field.setText("4K7")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert window.session.plan.tie("flag.signal").beads == (SeriesResistor(4700.0),)
    qtbot.mouseClick(window.side.inspector.panel.findChild(QPushButton, "drop-0"), Qt.MouseButton.LeftButton)
    assert window.session.plan.tie("flag.signal").beads == ()


def test_an_leds_bead_starts_at_the_chosen_value(draft: MainWindow) -> None:
    draft.session.select("tie", "red-pier-light.anode")
    add_bead(draft.desk, "resistor")
    assert draft.session.plan.tie("red-pier-light.anode").beads[0].ohm == 270


def test_role_colour_and_pull(qtbot, window: MainWindow) -> None:
    lead = panel(window, "lead", "door.contact")
    assert isinstance(lead, LeadPanel)
    field = lead.findChild(QLineEdit, "role")
    field.setText("quay door")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert window.session.plan.tie("door.contact").role == "quay_door"
    pull = window.side.inspector.panel.findChild(QComboBox, "pull")
    pull.setCurrentIndex(pull.findData("down"))
    pull.activated.emit(pull.currentIndex())
    assert window.session.plan.tie("door.contact").pull == "down"
    assert "contact-unread" in [f.rule for f in window.session.report.findings]
    cord = window.side.inspector.panel.findChild(QComboBox, "cord")
    cord.activated.emit(cord.findData("violet"))
    assert window.session.plan.tie("door.contact").cord == "violet"


def test_a_pin_tells_everything_and_offers_leads(qtbot, draft: MainWindow) -> None:
    pin = panel(draft, "pin", "board.p18")
    assert isinstance(pin, PinPanel)
    said = texts(pin)
    for words in (
        "Position",
        "18",
        "line 35",
        "PULSE_B0",
        "12 mA, never above 16 mA",
        "pulled up",
        "-0.3 – 3.6 V",
    ):
        assert words in said, words
    leads = pin.findChild(object, "leadsFor")
    assert "flag.signal" in {o.contact for o in leads.offers()}
    leads.setCurrentRow([o.contact for o in leads.offers()].index("flag.signal"))
    qtbot.keyClick(leads, Qt.Key.Key_Return)
    assert draft.session.plan.tie_of("flag.signal").to == "board.p18"


def test_a_pin_tells_its_voltages_and_its_job(window: MainWindow) -> None:
    assert "closed" in texts(panel(window, "pin", "board.p20"))
    assert "log-ins" in texts(panel(window, "pin", "board.p40"))
    assert "up to 3 A" in texts(panel(window, "pin", "board.usb"))


def test_rename_and_remove_a_part(qtbot, window: MainWindow) -> None:
    window.session.select("lead", "flag.signal")
    window.actions_.by_id["rename"].trigger()
    field = window.side.inspector.panel.findChild(QLineEdit, "name")
    assert field.hasFocus()
    field.setText("Pennant")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert window.session.plan.part("flag").name == "Pennant"
    qtbot.mouseClick(window.side.inspector.panel.findChild(QPushButton, "remove"), Qt.MouseButton.LeftButton)
    assert "flag" not in window.session.circuit.placed


def test_a_gate_is_pulsed_from_its_panel(qtbot, draft: MainWindow) -> None:
    """0 Hz switches it only; a frequency makes pulses of it."""
    session = draft.session
    session.edit("add", edits.add_part, "n-mosfet", "Dimmer", {})
    session.edit("tie", edits.tie, "dimmer.gate", "board.p18")
    field = panel(draft, "lead", "dimmer.gate").findChild(QLineEdit, "pulses")
    assert field.text() == "0 Hz" and isinstance(session.circuit.needs.of("dimmer.gate"), Output)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "2k")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.plan.tie_of("dimmer.gate").hertz == 2000.0
    assert isinstance(session.circuit.needs.of("dimmer.gate"), Pulse)
    assert panel(draft, "lead", "dimmer.gate").findChild(QLineEdit, "pulses").text() == "2 kHz"
