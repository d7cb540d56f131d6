"""What a board is as a whole: its name, voltage, headers, name schemes and limits."""

from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QDoubleSpinBox, QSpinBox, QVBoxLayout, QWidget

from knotplan.core.draft import board as board_draft
from knotplan.desktop import lettering
from knotplan.desktop.panels.fields import (
    QuantityField,
    TextField,
    button,
    choice,
    clear_layout,
    column_in,
    form,
    label,
    line,
    row,
    with_margins,
)
from knotplan.desktop.tips import tip_text
from knotplan.desktop.workshop.bench import DraftBench


class FactsPanel(QWidget):
    """Remade when the headers or the schemes are others; the fields keep the keyboard otherwise."""

    def __init__(self, bench: DraftBench):
        super().__init__()
        self.bench = bench
        self._layout = column_in(self, 8)
        self._shown: object = None
        bench.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        d = self.bench.draft
        shown = (
            tuple(d.headers),
            tuple(d.schemes.items()),
            d.title,
            d.summary,
            d.mark,
            d.logic_v,
            tuple(d.base["rails"]),
        )
        if shown == self._shown:
            return
        self._shown = shown
        clear_layout(self._layout)
        whole = QWidget()
        inside = column_in(whole, 8)
        self._identity(inside)
        self._headers(inside)
        self._schemes(inside)
        self._limits(inside)
        inside.addStretch(1)
        self._layout.addWidget(whole)

    def _identity(self, inside: QVBoxLayout) -> None:
        d, fields = self.bench.draft, form()
        for name, tip, text, key in (
            ("Name", "What the board is called", d.title, "title"),
            ("In short", "What it is, in a few words", d.summary, "summary"),
            ("Marked end", "What tells which end is which: notch end", d.mark, "mark"),
        ):
            fields.addRow(
                label(name, "faint", wrap=False),
                TextField(f"board-{key}", tip, text, partial(self._set, key)),
            )
        if "_pins" not in d.base:
            volts = [(f"{v:g}", f"{v:g} V") for v in (5.0, 3.3, 3.0, 1.8)]
            fields.addRow(
                label("Logic", "faint", wrap=False),
                choice(
                    "logicVolts",
                    "Voltage of its signal pins; rails and limits follow",
                    volts,
                    f"{d.logic_v:g}",
                    lambda v: self.bench.edit(board_draft.set_volts, float(v)),
                ),
            )
        inside.addLayout(fields)

    def _set(self, key: str, text: str) -> None:
        self.bench.edit(lambda d: replace(d, **{key: text.strip() or getattr(d, key)}))

    def _headers(self, inside: QVBoxLayout) -> None:
        inside.addWidget(line())
        inside.addWidget(label("Headers: rows × columns, pitch in mm", "strong"))
        for name, header in self.bench.draft.headers.items():
            rows, columns = (
                _spin(f"rows-{name}", "Rows", header.rows),
                _spin(f"columns-{name}", "Columns", header.columns, 100),
            )
            pitch = with_margins(QDoubleSpinBox())
            pitch.setRange(0.5, 20)
            pitch.setDecimals(2)
            pitch.setValue(header.pitch_mm)
            pitch.setAccessibleName(f"Pitch of {header.title}")
            resize = partial(self._resize, name, rows, columns, pitch)
            for spin in (rows, columns, pitch):
                spin.setToolTip(tip_text(f"{header.title}: rows, columns, pitch"))
                spin.editingFinished.connect(resize)
            away = button("–", f"remove-{name}", f"Take {header.title} away", partial(self._remove, name))
            lettering.fix(away, width=32)
            inside.addWidget(label(header.title, "faint"))
            inside.addWidget(row(rows, columns, pitch, away, stretch=2))
        adds = [("Single row", 15, 1), ("Double row", 10, 2)]
        inside.addWidget(
            row(
                *(
                    button(
                        f"+ {text}",
                        f"add-{columns}",
                        f"One more header, {text.lower()}",
                        partial(self._add, rows, columns),
                    )
                    for text, rows, columns in adds
                )
            )
        )

    def _resize(self, name: str, rows: QSpinBox, columns: QSpinBox, pitch: QDoubleSpinBox) -> None:
        h = self.bench.draft.headers.get(name)
        if h is not None and (h.rows, h.columns, h.pitch_mm) != (
            rows.value(),
            columns.value(),
            pitch.value(),
        ):
            self.bench.edit(board_draft.resize_header, name, rows.value(), columns.value(), pitch.value())

    def _add(self, rows: int, columns: int) -> None:
        taken = {h.title for h in self.bench.draft.headers.values()}
        title = next(
            t for t in ("left", "right", "main", *(f"header {n}" for n in range(3, 99))) if t not in taken
        )
        self.bench.edit(board_draft.add_header, title, rows, columns)

    def _remove(self, name: str) -> None:
        self.bench.edit(board_draft.remove_header, name)

    def _schemes(self, inside: QVBoxLayout) -> None:
        inside.addWidget(line())
        inside.addWidget(label("Names are told by", "strong"))
        inside.addWidget(label(", ".join(self.bench.draft.schemes.values()), "faint"))
        self.scheme = TextField(
            "newScheme", "Another way of naming the pins: port, chip line, kernel line", "", self._scheme
        )
        self.scheme.setPlaceholderText("one more: port, chip line …")
        inside.addWidget(self.scheme)

    def _scheme(self, text: str) -> None:
        if text.strip():
            self.bench.edit(board_draft.add_scheme, text.strip())

    def _limits(self, inside: QVBoxLayout) -> None:
        base = self.bench.draft.base
        driver = next(iter(base["drivers"]))
        inside.addWidget(line())
        inside.addWidget(label("Limits, from the board's manual", "strong"))
        fields = form()
        for text, unit, path in (
            ("A pin gives", "A", ("drivers", driver, "recommended_a")),
            ("never above", "A", ("drivers", driver, "absolute_a")),
            ("it bears", "V", ("drivers", driver, "max_v")),
            ("all pins", "A", ("all_pins_a",)),
            *((f"{rail['title']}", "A", ("rails", name, "limit_a")) for name, rail in base["rails"].items()),
        ):
            value: Any = base
            for key in path:
                value = value[key]
            fields.addRow(
                label(text, "faint", wrap=False),
                QuantityField(
                    "limit-" + "-".join(path),
                    f"{text}, in {unit}",
                    float(value),
                    unit,
                    partial(self._limit, path),
                    least=1e-6,
                ),
            )
        inside.addLayout(fields)

    def _limit(self, path: tuple[str, ...], value: float) -> None:
        self.bench.edit(lambda d: replace(d, base=_with(d.base, path, value)))


def _with(tree: dict[str, Any], path: tuple[str, ...], value: object) -> dict[str, Any]:
    """The tree with one leaf changed."""
    head, *rest = path
    return {**tree, head: _with(tree[head], tuple(rest), value) if rest else value}


def _spin(name: str, tip: str, value: int, most: int = 200) -> QSpinBox:
    spin = with_margins(QSpinBox())
    spin.setObjectName(name)
    spin.setAccessibleName(tip)
    spin.setRange(1, most)
    spin.setValue(value)
    return spin
