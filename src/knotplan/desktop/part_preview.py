"""A part before it is added: its card, and what each of its leads needs."""

from msgspec.structs import replace
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from knotplan.catalog.load import UnknownEntryError
from knotplan.catalog.search import Found
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.card import card_shapes
from knotplan.core.drawing.loom.face import face
from knotplan.core.drawing.loom.form import FULL, Form, form, natural_width
from knotplan.core.drawing.shapes import Text
from knotplan.core.match.fit import need_words
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop import lettering, theme
from knotplan.desktop.lettering import shortened
from knotplan.desktop.paint import paint
from knotplan.desktop.session import Session

LINE, TEXT, INDENT = 16.0, 11.5, 12.0
WIDE, HIGH = 268, 250


class PartPreview(QWidget):
    """Painted; what it says is its accessible description too."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self._form: Form | None = None
        self._needs: list[tuple[str, str]] = []
        self._shown: Found | None = None
        lettering.fix(self, width=WIDE, least_height=HIGH)
        self.setAccessibleName("The part and what it needs")

    def show_part(self, part: Found | None) -> None:
        """Shows another part, or nothing."""
        if part == self._shown:
            return
        self._shown = part
        self._form, self._needs = None, []
        if part is not None:
            self._read(part)
        self.setAccessibleDescription("; ".join(f"{lead}: {needs}" for lead, needs in self._needs))
        self.update()

    def _read(self, part: Found) -> None:
        """Its card and its needs, on a bench that has nothing else."""
        plan, offer = self.session.plan, part.offer
        bare = Plan(plan.board, carried=plan.carried, carried_parts=plan.carried_parts)
        try:
            circuit = Circuit(
                edits.add_part(bare, offer.part, offer.name, offer.params), self.session.catalog
            )
        except UnknownEntryError:  # its file has been taken away meanwhile
            return
        placed = circuit.plan.parts[0].id
        said = replace(face(circuit, placed, False), foot="")
        self._form = form(said, natural_width(said, FULL, "right"), FULL, "right")
        self._needs = [
            (lead.title, need_words(circuit, f"{placed}.{name}"))
            for name, lead in circuit.parts[placed].leads.items()
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._form is None:
            return
        p = theme.current()
        with QPainter(self) as painter:
            lettering.begin(painter)
            painter.translate(INDENT, 6)
            paint(painter, card_shapes(self._form, p))
            painter.translate(-INDENT, -6)
            y = self._form.h + 28
            for lead, needs in self._needs:
                if y > self.height() / lettering.scale() - LINE:
                    lettering.paint(painter, [Text(INDENT, y, "…", TEXT, p.faint)])
                    break
                words = shortened(f"{lead}: {needs}", TEXT, WIDE - 2 * INDENT)
                lettering.paint(painter, [Text(INDENT, y, words, TEXT, p.faint)])
                y += LINE
