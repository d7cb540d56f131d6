"""The chosen device of a bus: its address in every form, its pads, and a field that
takes an address as written anywhere."""

from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from knotplan.core.buses.addresses import Place, can_be, named, soldering
from knotplan.core.buses.spoken import AddressError, forms, read
from knotplan.core.drawing.palette import Palette
from knotplan.core.plan import edits
from knotplan.desktop.buses.pads import Pads
from knotplan.desktop.panels.fields import TextField, button, form, label, row
from knotplan.desktop.session import Session


class DevicePanel(QWidget):
    """Made anew for each device."""

    def __init__(self, session: Session, palette: Palette, place: Place):
        super().__init__()
        self.session, self.place = session, place
        c = session.circuit
        down = QVBoxLayout(self)
        down.setContentsMargins(0, 0, 0, 0)
        down.setSpacing(7)
        down.addWidget(label(named(c, place), "head"))
        facts = c.parts[place.part].facts.i2c if place.part else None
        if facts is None:
            down.addWidget(label(f"On the board itself, always at 0x{place.address:02X}.", "faint"))
            return
        down.addWidget(label(c.parts[place.part].summary, "faint"))
        down.addWidget(label(_in_every_form(place.address)))
        self.meant = label("", "faint")
        self.field = TextField(
            "address",
            "As written anywhere: 0x48, 72, 1001000, or 0x90 of eight bits",
            f"0x{place.address:02X}",
            self._typed,
        )
        self.field.setAccessibleName("Address")
        fields = form()
        fields.addRow("Set to", self.field)
        down.addLayout(fields)
        down.addWidget(self.meant)
        self.meant.hide()
        if facts.pads:
            pads = Pads(c, place.part, facts, palette)
            pads.turned.connect(self._turn)
            down.addWidget(pads)
            words = soldering(c, place.part)
            down.addWidget(label(f"To solder: {words}." if words else "", "strong"))
        elif facts.by_command:
            down.addWidget(label("A program gives it this address, anew after each power-on.", "strong"))
        else:
            down.addWidget(label("It has no pads: this is the only address that it can have.", "faint"))
        down.addWidget(
            row(
                button(
                    "Show in the loom", "showInLoom", "The part on the bench, with its inspector", self._show
                )
            )
        )

    def _turn(self, param: str, position: str) -> None:
        self.session.edit(f"set {param.upper()}", edits.set_param, self.place.part, param, position)

    def _typed(self, text: str) -> None:
        """An address in any form: what was meant is said, and set where the device can have it."""
        c = self.session.circuit
        straps = {s.address: s for s in can_be(c, self.place.part)}
        try:
            meanings = read(text, straps)
        except AddressError as error:
            self._say(str(error), "stop")
            return
        best = meanings[0]
        if not best.likely:
            near = sorted(straps, key=lambda a: abs(a - best.address))[:4]
            able = ", ".join(f"0x{a:02X}" for a in sorted(near))
            meant = "" if best.how == "hex" else f"{text} means 0x{best.address:02X} ({best.how}). "
            self._say(
                f"{meant}{named(c, self.place)} cannot be at 0x{best.address:02X}; near are {able}.", "stop"
            )
            return
        sentence = f"{text} is 0x{best.address:02X} ({best.how})." if best.how != "hex" else ""
        others = [m for m in meanings[1:] if m.likely and m.address != best.address]
        if others:
            sentence += f" It could also mean 0x{others[0].address:02X} ({others[0].how})."
        if sentence:
            self.session.noticed.emit(sentence.strip())
        self.set_to(best.address)

    def set_to(self, address: int) -> None:
        set_address(self.session, self.place.part, address)

    def _say(self, text: str, tone: str) -> None:
        self.meant.setText(text)
        self.meant.setProperty("tone", tone)
        self.meant.style().polish(self.meant)
        self.meant.show()

    def _show(self) -> None:
        self.session.select("part", self.place.part)
        self.session.shown_wanted.emit()


def _in_every_form(address: int) -> str:
    """An address as data sheets and programs write it."""
    text = dict(forms(address))
    return (
        f"{text['of seven bits']}, decimal {text['decimal']}, binary {text['binary']}. Of eight bits, as "
        f"some write it: {text['to write, of eight bits']} to write, {text['to read, of eight bits']} to "
        "read."
    )


def set_address(session: Session, part_id: str, address: int) -> bool:
    """The straps, or the command, that give a device an address that it can have."""
    straps = next((s for s in can_be(session.circuit, part_id) if s.address == address), None)
    if straps is None or not straps.params:
        return False
    return session.edit(
        f"put {session.circuit.titles.part(part_id)} at 0x{address:02X}",
        partial(edits.set_params, part_id=part_id, values=dict(straps.params)),
    )
