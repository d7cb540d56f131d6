"""The overlay, by the real compiler: no warning, merged onto a board's tree, and right in every number.

What is asked of the merged tree comes from `fdtget` (device-tree-compiler); what it should be is worked out
here from the plan's ties and the names of pins, apart from the code that writes the overlay.
"""

import re
import subprocess
from pathlib import Path

import pytest

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import shipped
from knotplan.catalog.part.needs import Bus
from knotplan.core.check.report import Report
from knotplan.core.plan.document import Plan
from knotplan.core.text.devicetree.node import node_name
from knotplan.examples import example
from knotplan.exchange.exports.devicetree import source
from knotplan.exchange.exports.export import CannotExportError
from tests.conftest import lay, look_at
from tests.planted.count import laid
from tests.planted.right import RIGHT

BOARDS = [b for b in shipped().shipped_ids("board") if shipped().board(b).devicetree is not None]
BASE = """/dts-v1/;
/ {{
	compatible = "{compatible}";
	#address-cells = <1>;
	#size-cells = <0>;
{nodes}
}};
"""
NODE = '\t{label}: {label} {{ status = "disabled"; #gpio-cells = <2>; #pwm-cells = <3>; }};'


def base(board: Board, folder: Path) -> Path:
    """A board's own tree: its controllers by their labels, all off."""
    tree = board.devicetree
    labels = [*tree.gpio, tree.pinctrl, *tree.units.values()]
    path = folder / "base.dts"
    path.write_text(
        BASE.format(compatible=tree.compatible, nodes="\n".join(NODE.format(label=x) for x in labels))
    )
    return compiled(path)


def compiled(path: Path) -> Path:
    """By the real compiler, with every warning a fault."""
    out = path.with_suffix(".dtb")
    done = subprocess.run(
        ["dtc", "-@", "-O", "dtb", "-o", str(out), str(path)], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0 and done.stderr == "", done.stderr
    return out


class Merged:
    """A board's tree with the overlay of a plan on it."""

    def __init__(self, report: Report, folder: Path):
        overlay = folder / "overlay.dts"
        overlay.write_text(source(report), "utf-8")
        below, over = base(report.circuit.board, folder), compiled(overlay)
        self.path = folder / "merged.dtb"
        subprocess.run(["fdtoverlay", "-i", str(below), "-o", str(self.path), str(over)], check=True)
        self.numbers = {
            self.get(f"/{x}", "phandle"): x for x in self.below("/") if "phandle" in self.of(f"/{x}")
        }

    def _ask(self, *words: str) -> list[str]:
        done = subprocess.run(["fdtget", *words], capture_output=True, text=True, check=True)
        return done.stdout.split("\n")[:-1]

    def below(self, node: str) -> list[str]:
        return self._ask("-l", str(self.path), node)

    def of(self, node: str) -> list[str]:
        return self._ask("-p", str(self.path), node)

    def get(self, node: str, name: str, kind: str = "u") -> str:
        return "\n".join(self._ask("-t", kind, str(self.path), node, name))

    def cells(self, node: str, name: str) -> list[int]:
        return [int(x) for x in self.get(node, name).split()]

    def texts(self, node: str, name: str) -> list[str]:
        """A list of texts, each of which may have blanks."""
        data = bytes(int(x, 16) for x in self.get(node, name, "bx").split())
        return data.decode("utf-8").split("\0")[:-1]

    def controller(self, number: int) -> str:
        return self.numbers[str(number)]


def kernel_line(board: Board, pin: str) -> tuple[str, int]:
    """(GPIO controller, line) of a pin, from its kernel name."""
    number = int(re.search(r"\d+$", board.pins[pin].names["kernel"])[0])
    tree = board.devicetree
    return (tree.gpio[number // tree.lines], number % tree.lines) if tree.lines else (tree.gpio[0], number)


def pin_of(plan: Plan, lead: str) -> str:
    return plan.tie_of(lead).to.removeprefix("board.")


@pytest.fixture
def demo(tmp_path: Path) -> tuple[Merged, Report]:
    report = look_at(example("harbour-light", shipped()))
    return Merged(report, tmp_path), report


def test_lights_keys_relays_and_buses_of_the_demo_are_where_the_plan_has_them(
    demo: tuple[Merged, Report],
) -> None:
    merged, report = demo
    plan, board = report.circuit.plan, report.circuit.board
    for child, lead in (
        ("led-red-pier-light", "red-pier-light.anode"),
        ("led-green-pier-light", "green-pier-light.anode"),
    ):
        number, line, flags = merged.cells(f"/leds/{child}", "gpios")
        assert (merged.controller(number), line, flags) == (*kernel_line(board, pin_of(plan, lead)), 0)
    assert merged.get("/leds", "compatible", "s") == "gpio-leds"
    for child, lead in (("key-door-contact", "door.contact"), ("key-tide-mark-contact", "tide-mark.contact")):
        number, line, flags = merged.cells(f"/keys/{child}", "gpios")
        assert (merged.controller(number), line) == kernel_line(board, pin_of(plan, lead))
        assert flags == 0x01 | 0x10, "closes to ground, pulled up by the pin"
    number, channel, period, flags = merged.cells("/pulsed-leds/led-lamp", "pwms")
    assert (merged.controller(number), channel, period, flags) == ("pulse_a", 0, 1_000_000, 0)
    for node, lead in (
        ("regulator-horn-and-bell", "horn-and-bell.in1"),
        ("regulator-horn-and-bell-2", "horn-and-bell.in2"),
    ):
        number, line, flags = merged.cells(f"/{node}", "gpio")
        assert (merged.controller(number), line, flags) == (*kernel_line(board, pin_of(plan, lead)), 1)
        assert "enable-active-high" not in merged.of(f"/{node}")
    assert sorted(merged.below("/i2c1")) == ["i2c-thermometer@48", "i2c-thermometer@49", "oled-display@3c"]
    assert merged.get("/i2c1", "status", "s") == "okay" and merged.cells("/i2c1", "clock-frequency") == [
        100_000
    ]
    assert merged.cells("/i2c1/i2c-thermometer@49", "reg") == [0x49]


def test_every_pin_has_its_settings_by_the_name_that_the_pin_controller_knows(
    demo: tuple[Merged, Report],
) -> None:
    merged, report = demo
    known = {pin.names.get("chip") for pin in report.circuit.board.pins.values()}
    users: dict[str, list[str]] = {}
    for node in merged.below("/pins"):
        for name in merged.texts(f"/pins/{node}", "pins"):
            assert name in known
            users.setdefault(name, []).append(node)
    assert all(len(nodes) == 1 for nodes in users.values()), "no pin is set twice"
    assert merged.get("/pins/i2c1-pins", "function", "s") == "i2c1"
    assert "bias-pull-up" in merged.of("/pins/keys-pins")


def test_what_no_binding_knows_is_named(demo: tuple[Merged, Report]) -> None:
    text = source(demo[1])
    for words in ("Flag · signal", "Lens driver · IN 1", "Quay · DIN"):
        assert f"Left to programs: {words}" in text
    assert "Door" not in "".join(line for line in text.splitlines() if "Left to" in line)


def bench(tmp_path: Path, board: str, parts: dict[str, str], ties: dict[str, str]) -> Merged:
    return Merged(look_at(lay(board, parts, ties)), tmp_path)


def test_fan_encoder_and_one_wire(tmp_path: Path) -> None:
    board = shipped().board("bowline-40")
    merged = bench(
        tmp_path,
        "bowline-40",
        {"Brick": "brick-5v", "Gate": "n-mosfet", "Breeze": "fan", "Dial": "encoder",
         "Pond": "one-wire-thermometer"},
        {
            "breeze.plus": "brick.plus", "breeze.minus": "gate.drain", "gate.gate": "p4", "gate.source": "p5",
            "dial.a": "p6", "dial.b": "p8", "dial.common": "p5", "dial.sw": "p9", "dial.sw_common": "p5",
            "pond.dq": "p12", "pond.vdd": "p2", "pond.gnd": "p5",
        },
    )  # fmt: skip
    number, line, flags = merged.cells("/fan-breeze", "gpios")
    assert (merged.controller(number), line, flags) == (*kernel_line(board, "p4"), 0)
    a = merged.cells("/rotary-dial", "gpios")
    assert [(merged.controller(a[0]), a[1]), (merged.controller(a[3]), a[4])] == [
        kernel_line(board, "p6"), kernel_line(board, "p8")
    ]  # fmt: skip
    assert merged.get("/rotary-dial", "rotary-encoder,encoding", "s") == "gray"
    assert merged.below("/keys") == ["key-dial-sw"], "the encoder's own contacts are no keys"
    number, line, flags = merged.cells("/onewire", "gpios")
    assert (merged.controller(number), line, flags) == (*kernel_line(board, "p12"), 6)


def test_a_device_with_a_driver_is_on_and_one_without_is_off(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from knotplan.catalog.load import Catalog

    (tmp_path / "own" / "parts").mkdir(parents=True)
    text = shipped().part_path("eeprom").read_text("utf-8")
    (tmp_path / "own" / "parts" / "my-memory.toml").write_text(
        'compatible = ["knotplan,memory"]\n' + text, "utf-8"
    )
    from knotplan.core.check.analysis import analyse

    store = Catalog(own=tmp_path / "own")
    plan = lay(
        "capstan-34",
        {"One": "eeprom"},
        {"one.sda": "p7", "one.scl": "p8", "one.vcc": "p1", "one.gnd": "p6"},
    )
    off = Merged(analyse(plan, store), tmp_path)
    assert off.get("/i2c_a/eeprom@50", "status", "s") == "disabled"
    from msgspec.structs import replace

    own = replace(plan, parts=(replace(plan.parts[0], part="my-memory"),))
    on = Merged(analyse(own, store), tmp_path)
    assert on.get("/i2c_a/my-memory@50", "compatible", "s") == "knotplan,memory"
    assert "status" not in on.of("/i2c_a/my-memory@50")


def _laid() -> list[tuple[str, Plan]]:
    """Every right plan, on every board with a Linux system that can have it."""
    return [(f"{name} on {board}", plan) for name, board, plan, _ in laid(RIGHT) if board in BOARDS]


@pytest.mark.slow
def test_the_overlay_of_any_right_plan_compiles_without_a_warning_and_merges(tmp_path: Path) -> None:
    found = _laid()
    assert len(found) > 100 and {p.board for _, p in found} == set(BOARDS)
    made = 0
    for name, plan in found:
        report = look_at(plan)
        try:
            source(report)
        except CannotExportError as error:
            assert "nothing is tied yet" in str(error), name
            continue
        merged = Merged(report, tmp_path)
        made += 1
        _held_against(merged, report, name)
    assert made > 60


def _held_against(merged: Merged, report: Report, name: str) -> None:
    """Every line that a driver has is a pin of the plan, and no line has two."""
    board, lines = report.circuit.board, []
    tied = {t.to.removeprefix("board.") for t in report.circuit.plan.ties}
    planned = {
        kernel_line(board, pin) for pin in tied if pin in board.pins and "kernel" in board.pins[pin].names
    }
    for node in _nodes(merged, "/"):
        for prop in ("gpios", "gpio", "cs-gpios"):
            if prop in merged.of(node):
                cells = merged.cells(node, prop)
                while cells:
                    if cells[0] == 0:  # the controller's own select
                        cells = cells[1:]
                        continue
                    lines.append((merged.controller(cells[0]), cells[1]))
                    cells = cells[3:]
    assert set(lines) <= planned, name
    assert len(lines) == len(set(lines)), name
    _settings_held_against(merged, report, name)


def _settings_held_against(merged: Merged, report: Report, name: str) -> None:
    """A pin is set once, to what the plan uses it for, by settings that somebody asks for."""
    c, tree = report.circuit, report.circuit.board.devicetree
    wants: dict[str, set[str]] = {}
    for tie in c.plan.ties:
        pin = c.board.pins.get(tie.to.removeprefix("board."))
        if pin is not None and pin.kind == "io" and tree.pins in pin.names:
            need = c.needs.of(tie.lead)
            kinds = {need.bus} if isinstance(need, Bus) else {"gpio", "pwm"}
            wants.setdefault(pin.names[tree.pins], set()).update(kinds)
    by_label = {label: unit.partition(":")[0] for unit, label in tree.units.items()}
    asked = {
        n
        for node in _nodes(merged, "/")
        if "pinctrl-0" in merged.of(node)
        for n in merged.cells(node, "pinctrl-0")
    }
    seen: set[str] = set()
    for node in merged.below(f"/{tree.pinctrl}"):
        path = f"/{tree.pinctrl}/{node}"
        function = merged.get(path, "function", "s")
        for pin in merged.texts(path, "pins"):
            assert pin not in seen, (name, pin)
            seen.add(pin)
            kind = by_label.get(function, function)
            # a select may be a plain pin: its bus then says so
            assert kind in wants[pin] or (kind == "gpio" and "spi" in wants[pin]), (name, pin, function)
        assert merged.cells(path, "phandle")[0] in asked, (name, node, "nobody asks for these settings")


def _nodes(merged: Merged, node: str) -> list[str]:
    found = [node]
    for child in merged.below(node):
        if not child.startswith("__"):  # what the compiler notes for itself
            found += _nodes(merged, f"{node.rstrip('/')}/{child}")
    return found


def test_hostile_names_stay_in_their_places(tmp_path: Path) -> None:
    from msgspec.structs import replace

    plan = example("harbour-light", shipped())
    nasty = '*/ "; }; evil { x = <1>; \\ \x01 \u202e é'
    parts = tuple(replace(p, name=f"{nasty}{k}") for k, p in enumerate(plan.parts))
    ties = tuple(replace(t, role=f"{nasty}{k}" if t.role else "") for k, t in enumerate(plan.ties))
    merged = Merged(look_at(replace(plan, title=nasty, parts=parts, ties=ties)), tmp_path)
    assert not [n for n in _nodes(merged, "/") if "evil" in n]


def test_a_pin_that_could_be_of_a_bus_and_is_used_plainly_stays_plain(tmp_path: Path) -> None:
    board = shipped().board("capstan-34")
    select = next(p for p, pin in board.pins.items() if "spi:1.select-0" in pin.functions)
    pins = {
        role: next(p for p, pin in board.pins.items() if f"spi:1.{role}" in pin.functions)
        for role in ("sclk", "mosi", "miso")
    }
    plain = next(p for p, pin in board.pins.items() if pin.functions == ("digital",))
    plan = lay(
        "capstan-34",
        {"Store": "spi-flash", "Lamp": "led"},
        {"store.clk": pins["sclk"], "store.di": pins["mosi"], "store.do": pins["miso"], "store.cs": plain,
         "store.vcc": "p1", "store.gnd": "p6", "lamp.anode": select, "lamp.cathode": "p6"},
    )  # fmt: skip
    report = look_at(plan)
    merged = Merged(report, tmp_path)
    _settings_held_against(merged, report, "")
    assert merged.cells("/leds/led-lamp", "gpios")[1] == kernel_line(board, select)[1]
    assert merged.cells("/spi1", "cs-gpios")[1:] == [kernel_line(board, plain)[1], 1]
    assert len(merged.cells("/spi1", "pinctrl-0")) == 2, "its own pins, and the select"


def test_a_board_without_a_system_says_so() -> None:
    with pytest.raises(CannotExportError, match="no Linux system"):
        source(look_at(example("badge-wall", shipped())))


@pytest.mark.parametrize("words", ["", "ä", "9 lives", "x" * 80, "a/b@c:d", "UPPER"])
def test_names_of_nodes_are_as_the_specification_wants_them(words: str) -> None:
    assert re.fullmatch(r"[a-z][a-z0-9-]{0,30}", node_name(words))
