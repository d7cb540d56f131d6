"""A part while it is being described: leads in a grid, what it draws, everything else kept as it was.

The draft is always whole: `compiled` makes a part file's tree of it at any moment.
"""

import copy
import re
from typing import Any

from msgspec import Struct

from knotplan.core.plan.ids import slug

Tree = dict[str, Any]
AS_WRITTEN = "as written"
"""a need that the grid does not know; it is kept as the file says it"""


class Preset(Struct, frozen=True):
    """A need as the grid offers it."""

    title: str
    need: Tree
    low: tuple[str, float] | None = None
    """field of the first number, and what it is at first"""
    high: tuple[str, float] | None = None
    unit: str = ""
    """of both numbers, or of the one and the other: "A, V" """

    @property
    def units(self) -> tuple[str, str]:
        """Of the first number, and of the second."""
        first, _, second = self.unit.partition(", ")
        return first, second or first


def _bus(bus: str, role: str) -> Tree:
    return {"kind": "bus", "bus": bus, "role": role}


PRESETS: dict[str, Preset] = {
    "ground": Preset("ground", {"kind": "ground"}),
    "supply": Preset("supply", {"kind": "supply"}, ("least_v", 4.5), ("most_v", 5.5), "V"),
    "signal supply": Preset(
        "supply of a signal", {"kind": "supply", "signal": True}, ("least_v", 3.0), ("most_v", 5.5), "V"
    ),
    "motor supply": Preset(
        "supply of a motor", {"kind": "supply", "jerks": True}, ("least_v", 4.5), ("most_v", 6.0), "V"
    ),
    "output": Preset("a pin drives it, active high", {"kind": "output"}),
    "output low": Preset("a pin drives it, active low", {"kind": "output", "active": "low"}),
    "pulse": Preset("a pin pulses it", {"kind": "pulse"}, ("frequency_hz", 50.0), None, "Hz"),
    "input": Preset("a pin reads its level", {"kind": "input"}),
    "contact": Preset("a pin reads its contact", {"kind": "input", "contact": True}),
    "analog": Preset("a pin measures it", {"kind": "analog"}),
    "i2c data": Preset("I2C data", _bus("i2c", "sda")),
    "i2c clock": Preset("I2C clock", _bus("i2c", "scl")),
    "spi clock": Preset("SPI clock", _bus("spi", "sclk")),
    "spi in": Preset("SPI data in", _bus("spi", "mosi")),
    "spi out": Preset("SPI data out", _bus("spi", "miso")),
    "spi select": Preset("SPI select", _bus("spi", "select")),
    "sends": Preset("UART, it sends", _bus("uart", "rx")),
    "receives": Preset("UART, it receives", _bus("uart", "tx")),
    "switched": Preset(
        "a load, switched to ground",
        {"kind": "switched", "by": "low"},
        ("worst_a", 0.5),
        ("volts", 5.0),
        "A, V",
    ),
    "bridge": Preset(
        "a load, driven either way",
        {"kind": "switched", "by": "bridge"},
        ("worst_a", 0.5),
        ("volts", 6.0),
        "A, V",
    ),
}
"""by key, in the order in which they are offered"""


class LeadDraft(Struct, frozen=True):
    """A row of the grid."""

    title: str
    need: str = "output"
    low: float = 0.0
    high: float = 0.0
    cord: str = "white"
    required: bool = True
    id: str = ""
    """of the lead in the file; empty for a new one"""


class PartDraft(Struct, frozen=True):
    """Everything that the form shows, and the tree in which the rest is kept."""

    title: str
    summary: str
    category: str = "sensor"
    words: str = ""
    """separated by commas"""
    note: str = ""
    leads: tuple[LeadDraft, ...] = ()
    usual_a: float = 0.0
    worst_a: float = 0.0
    base: Tree = {}


def blank() -> PartDraft:
    """A part with nothing but the two leads that nearly every one has."""
    return PartDraft(
        "New part",
        "what it is, in a few words",
        leads=(
            LeadDraft("VCC", "supply", 3.0, 5.5, "red"),
            LeadDraft("GND", "ground", cord="black"),
            LeadDraft("OUT", "input"),
        ),
    )


def from_tree(tree: Tree) -> PartDraft:
    """The draft of a part file's tree."""
    load = tree.get("elements", {}).get(_load(tree), {})
    leads = tuple(_lead(name, spec) for name, spec in tree.get("leads", {}).items())
    return PartDraft(
        tree.get("title", ""),
        tree.get("summary", ""),
        tree.get("category", "sensor"),
        ", ".join(tree.get("words", ())),
        tree.get("note", ""),
        leads,
        load.get("usual_a", 0.0),
        load.get("worst_a", 0.0),
        copy.deepcopy(tree),
    )


def _load(tree: Tree) -> str:
    """The element that says what the part draws: the first load in plain numbers."""
    for name, e in tree.get("elements", {}).items():
        if e.get("kind") == "load" and all(isinstance(e.get(k), int | float) for k in ("usual_a", "worst_a")):
            return str(name)
    return "draws"


def _lead(name: str, spec: Tree) -> LeadDraft:
    needs = spec.get("needs", [])
    key, low, high = _recognised(needs[0]) if len(needs) == 1 else (AS_WRITTEN, 0.0, 0.0)
    return LeadDraft(
        spec.get("title", name), key, low, high, spec.get("cord", "white"), spec.get("required", True), name
    )


def _recognised(need: Tree) -> tuple[str, float, float]:
    """(preset, its numbers) of a need that the grid can show."""
    for key, preset in PRESETS.items():
        numbers = {field[0]: need.get(field[0]) for field in (preset.low, preset.high) if field}
        if all(isinstance(v, int | float) for v in numbers.values()) and need == {**preset.need, **numbers}:
            low, high = (float(need[f[0]]) if f else 0.0 for f in (preset.low, preset.high))
            return key, low, high
    return AS_WRITTEN, 0.0, 0.0


def compiled(draft: PartDraft) -> Tree:
    """The tree of a draft: what the form shows laid over what was there."""
    tree = copy.deepcopy(draft.base)
    tree |= {
        "title": draft.title.strip() or "Part",
        "summary": draft.summary.strip() or "a part",
        "category": draft.category,
    }
    words = [w.strip() for w in draft.words.split(",") if w.strip()]
    for key, value in (("words", words), ("note", draft.note.strip())):
        if value:
            tree[key] = value
        else:
            tree.pop(key, None)
    before: Tree = tree.get("leads", {})
    leads: Tree = {}
    for row in draft.leads:
        name = row.id or slug(re.sub(r"[^\w]+", "_", row.title), set(leads) | set(before)).replace("-", "_")
        leads[name] = _compiled_lead(row, before.get(row.id, {}))
    if leads:
        tree["leads"] = leads
    return _with_load(tree, draft)


def _compiled_lead(row: LeadDraft, before: Tree) -> Tree:
    spec = {**before, "title": row.title, "cord": row.cord}
    if row.need in PRESETS:
        preset = PRESETS[row.need]
        numbers = {f[0]: v for f, v in ((preset.low, row.low), (preset.high, row.high)) if f}
        spec["needs"] = [{**preset.need, **numbers}]
    elif "needs" not in spec:
        spec["needs"] = [{"kind": "output"}]
    spec.pop("required", None)
    if not row.required:
        spec["required"] = False
    return spec


def _with_load(tree: Tree, draft: PartDraft) -> Tree:
    """What the part draws, between its first supply and its ground; one
    of the two currents stands for both."""
    elements, name = dict(tree.get("elements", {})), _load(tree)
    before = elements.get(name, {})

    def first(kind: str) -> str:
        return next(
            (n for n, spec in tree.get("leads", {}).items() if spec["needs"][0].get("kind") == kind), ""
        )

    ends = {"a": before.get("a") or first("supply"), "b": before.get("b") or first("ground")}
    usual, worst = draft.usual_a or draft.worst_a, draft.worst_a or draft.usual_a
    if worst > 0 and all(ends.values()):
        elements[name] = {**before, "kind": "load", **ends, "usual_a": usual, "worst_a": worst}
    elif before:
        del elements[name]
    if elements:
        tree["elements"] = elements
    else:
        tree.pop("elements", None)
    return tree
