"""From a draft to a board: names tell what contacts are, short words are written
out, units and pools follow from them."""

import re
from collections.abc import Iterable
from typing import Any

import msgspec

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.check import LABEL, faults, hint
from knotplan.catalog.board.function import ANY, KINDS, Function, parse_function
from knotplan.catalog.board.pin import POWER_ON_WORDS
from knotplan.core.draft.board import KIND_WORDS, BoardDraft, DraftPin, outline, rail_id, volts_of

USUAL = {
    "gnd": "ground",
    "ground": "ground",
    "0v": "ground",
    "agnd": "ground",
    "dgnd": "ground",
    "vss": "ground",
}
LOGIC = ("vdd", "vcc", "vio")
"""labels of the rail that the signal pins work at"""
FROM_USB = ("vbus", "vusb", "usb")
WAYS_IN = ("vin", "vsys", "raw", "vbat", "bat", "b+")
"""labels of pins where power goes in: no name tells which voltage, so
that nothing is fed from them unasked"""
CONTROLS = ("rst", "reset", "en", "enable", "run", "ref", "vref", "aref", "boot")
SHORT = {
    "sda": "i2c:0.sda",
    "scl": "i2c:0.scl",
    "tx": "uart:0.tx",
    "txd": "uart:0.tx",
    "rx": "uart:0.rx",
    "rxd": "uart:0.rx",
    "mosi": "spi:0.mosi",
    "miso": "spi:0.miso",
    "sck": "spi:0.sclk",
    "sclk": "spi:0.sclk",
    "cs": "spi:0.select-0",
    "in": "input",
    "io": "digital",
    "gpio": "digital",
    "i/o": "digital",
    "inout": "digital",
    "in only": "input",
}
TITLES = {
    "pwm": "pulse unit",
    "adc": "converter",
    "dac": "analogue output",
    "i2c": "I2C bus",
    "spi": "SPI controller",
    "uart": "UART",
    "onewire": "one-wire line",
    "capture": "capture unit",
    "touch": "touch unit",
}


def compiled(draft: BoardDraft) -> tuple[Board | None, list[tuple[str, str]]]:
    """The board that the draft makes, and everything that is wrong with
    it, each with its place in the grid."""
    wrong: list[tuple[str, str]] = []
    tree = _tree(draft, wrong)
    try:
        board = msgspec.convert(tree, Board)
    except (msgspec.ValidationError, ValueError) as error:
        return None, [*wrong, ("", str(error))]
    return board, [*wrong, *((_where_in_form(draft, tree, place), why) for place, why in faults(board))]


def pin_ids(draft: BoardDraft) -> list[str]:
    """An id for each contact: that of the board that was taken up, or made of header and place."""
    known = {(p.get("header", "main"), p["row"], p["col"]): k for k, p in draft.base.get("_pins", {}).items()}
    wide = {name: h.columns for name, h in draft.headers.items()}
    return [
        known.get((p.header, p.row, p.col)) or f"{p.header}-{(p.row - 1) * wide.get(p.header, 1) + p.col}"
        for p in draft.pins
    ]


def _where_in_form(draft: BoardDraft, tree: dict[str, Any], place: str) -> str:
    """A place in the file as the grid calls it: "row 4 (D2)"."""
    if place.startswith("pins."):
        name = place.split(".")[1].split("[", maxsplit=1)[0]
        ids = list(tree["pins"])
        if name in ids:
            pin = draft.pins[ids.index(name)]
            called = next(
                (t for _, t in sorted(pin.names.items(), key=lambda n: n[0] == "position") if t), "no name"
            )
            return f"row {ids.index(name) + 1} ({called})"
    return place


def _tree(draft: BoardDraft, wrong: list[tuple[str, str]]) -> dict[str, Any]:
    base = {k: v for k, v in draft.base.items() if not k.startswith("_")}
    pins, known = {}, draft.base.get("_pins", {})
    functions: list[Function] = []
    rails, drivers = base["rails"], base["drivers"]
    for number, (name, pin) in enumerate(zip(pin_ids(draft), draft.pins, strict=True), 1):
        table = {
            **{
                k: v
                for k, v in known.get(name, {}).items()
                if k in ("starting", "after", "fitted_pull_ohm", "x_mm", "wide_mm")
            },
            "header": pin.header,
            "row": pin.row,
            "col": pin.col,
        }
        kind, label, rail = _kind(pin, rails, drivers)
        if kind not in KIND_WORDS.values():
            wrong.append((f"row {number}", f"{kind!r} is no kind of contact{hint(kind, KIND_WORDS)}"))
            kind = "unconnected"
        table |= {
            "kind": kind,
            "names": _named(pin, kind, label),
            "note": pin.note,
            "rail": rail if kind == "supply" else "",
        }
        if kind == "io":
            jobs = _jobs(pin, number, functions, wrong)
            power_on = {w: s for s, w in POWER_ON_WORDS.items()}.get(pin.power_on, pin.power_on)
            table |= {
                "functions": [str(j) for j in jobs],
                "driver": pin.driver or next(iter(drivers)),
                "power_on": power_on or "floating",
                "reserved": pin.reserved,
                "strap": pin.strap,
            }
            if table["power_on"] not in POWER_ON_WORDS:
                near = (
                    hint(pin.power_on, POWER_ON_WORDS.values())
                    or f"; such are {', '.join(POWER_ON_WORDS.values())}"
                )
                wrong.append((f"row {number}", f"{pin.power_on!r} is no state at power-on{near}"))
                table["power_on"] = "floating"
            functions += jobs
        pins[name] = table
    return {
        **base,
        "id": draft.board_id,
        "title": draft.title,
        "summary": draft.summary,
        "logic_v": draft.logic_v,
        "outline": outline(draft),
        "spoken": base.get("spoken")
        if base.get("spoken") in draft.schemes
        else next(iter(draft.schemes), ""),
        "schemes": _schemes(draft),
        "headers": {k: msgspec.to_builtins(h) for k, h in draft.headers.items()},
        "pins": pins,
        "peripherals": {**_units(functions), **base.get("peripherals", {})},
        "pools": {**_pools(functions), **base.get("pools", {})},
    }


def _schemes(draft: BoardDraft) -> dict[str, Any]:
    """Letters before a number that all names of a scheme begin with may be left off."""
    kept = draft.base.get("_schemes", {})
    schemes = {}
    for scheme, title in draft.schemes.items():
        heads = {
            re.split(r"\d", p.names[scheme])[0].strip()
            for p in draft.pins
            if p.names.get(scheme, "")[-1:].isdigit()
        }
        schemes[scheme] = {**kept.get(scheme, {"prefixes": sorted(h for h in heads if h)}), "title": title}
    return schemes


def _kind(pin: DraftPin, rails: dict[str, Any], drivers: dict[str, Any]) -> tuple[str, str, str]:
    """(kind, label, rail) of a contact, as its cells say or as its name tells."""
    names = [t for s, t in pin.names.items() if s != "position"]
    name = next((t for t in [pin.names.get(LABEL, ""), *names] if t), "")
    word = re.sub(r"[\s_]+", "", name.casefold())
    if pin.kind:
        return KIND_WORDS.get(pin.kind, pin.kind), name, pin.rail or _rail(word, rails, drivers)
    if word in USUAL or re.fullmatch(r"gnd\d*", word):
        return "ground", name, ""
    rail = pin.rail or _rail(word, rails, drivers)
    if rail or volts_of(word) is not None:
        return "supply", name, rail
    if word in WAYS_IN:
        return "control", name, ""
    if word in CONTROLS:
        return "control", name, ""
    spare = word in ("nc", "-") or not (name or pin.functions)
    return ("unconnected", name or "NC", "") if spare else ("io", name, "")


def _rail(word: str, rails: dict[str, Any], drivers: dict[str, Any]) -> str:
    """The rail that a label means, or nothing: a voltage, what comes from USB, the logic's own."""
    if (volts := volts_of(word)) is not None:
        return rail_id(volts) if rail_id(volts) in rails else ""
    if word in rails:
        return word
    if word in FROM_USB:
        return "5v" if "5v" in rails else ""
    return str(next(iter(drivers.values()))["rail"]) if word in LOGIC else ""


def _named(pin: DraftPin, kind: str, label: str) -> dict[str, str]:
    """Grounds and supplies have one label in common, which is no name of one pin."""
    if kind == "io":
        return dict(pin.names)
    kept = {s: t for s, t in pin.names.items() if s == "position" or (s != LABEL and t != label)}
    return {**kept, LABEL: label}


def _jobs(pin: DraftPin, number: int, before: list[Function], wrong: list[tuple[str, str]]) -> list[Function]:
    """The functions that a cell says, short words written out; a pin can be read and
    driven unless it says "input" or "only"."""
    functions: list[Function] = []
    only = pin.functions.casefold().split()[:1] == ["only"]
    written = pin.functions.strip()[4:] if only else pin.functions
    for word in filter(None, (w.strip() for w in re.split(r"[,;]", written))):
        text = SHORT.get(word.casefold(), re.sub(r"\s+", ":", word, count=1) if ":" not in word else word)
        if text in ("adc", "analog", "analogue"):
            text = f"adc:0.{sum(f.kind == 'adc' for f in before)}"
        elif text in ("pwm", "pulse"):
            text = f"pwm:{ANY}"
        try:
            job = parse_function(text)
        except ValueError as error:
            wrong.append((f"row {number}", str(error)))
            continue
        if job.kind not in KINDS:
            near = hint(word, [*KINDS, *SHORT]) or "; such are pwm, adc, sda, uart:1.tx, input"
            wrong.append((f"row {number}", f"{word!r} is no function{near}"))
            continue
        functions.append(job)
    if not only and not any(f.kind in ("digital", "input") for f in functions):
        functions.insert(0, Function("digital"))
    return list(dict.fromkeys(functions))


def _units(functions: Iterable[Function]) -> dict[str, Any]:
    """A peripheral for each instance that pins name."""
    return {
        f.unit: {
            "title": f"{TITLES.get(f.kind, f.kind)} {f.instance}",
            "shares": ["frequency"] if f.kind == "pwm" else [],
        }
        for f in functions
        if f.instance and f.instance != ANY
    }


def _pools(functions: Iterable[Function]) -> dict[str, Any]:
    counts: dict[str, int] = {}
    for f in functions:
        if f.instance == ANY:
            counts[f.kind] = counts.get(f.kind, 0) + 1
    return {
        kind: {"title": f"{TITLES.get(kind, kind)}s", "kind": kind, "channels": count}
        for kind, count in counts.items()
    }
