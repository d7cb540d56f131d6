"""The files that leave the plan, read back by other readers than their writers."""

import ast
import csv
import io
import re
import shutil
import subprocess
import xml.etree.ElementTree as ET
from html.parser import HTMLParser

import msgspec
import pytest

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.examples import example
from knotplan.exchange.answers.check import answer
from knotplan.exchange.exports import parts_list, sheet
from knotplan.exchange.exports.export import SchemeError
from knotplan.exchange.exports.sheet import html
from tests.conftest import c_header, lay, look_at, python_module

REPORT = look_at(example("harbour-light", shipped()))


def module(text: str) -> dict[str, object]:
    """The constants of a Python module, by the language's own parser (nothing is executed)."""
    return {
        n.targets[0].id: ast.literal_eval(n.value) for n in ast.parse(text).body if isinstance(n, ast.Assign)
    }


def test_python_constants_by_chip_line_and_position() -> None:
    chip = module(python_module(REPORT))
    assert chip["LAMP"] == 22 and chip["FLAG"] == 3 and chip["HORN"] == 11
    assert module(python_module(REPORT, "position"))["LAMP"] == 7
    assert module(python_module(REPORT, "kernel"))["LAMP"] == 62
    assert chip["__all__"] == [n for n in chip if n != "__all__"]


def test_c_header_defines_each_role_once() -> None:
    text, _, numbers = c_header(REPORT).partition("/* numbers of parts, buses and timers */")
    assert (
        "#define AIR_ADDRESS 0x49 " in numbers
        and "static const long FLAG_PULSE_US[2] = {600, 2300};" in numbers
    )
    assert "LENS_SEQUENCE[4][4] = {{1, 1, 0, 0}, {0, 1, 1, 0}, " in numbers
    found = dict(re.findall(r"^#define (\w+) +(\S+) +/\*[^*]*\*/$", text, re.M))
    assert found["LAMP"] == "22" and found["I2C_1_SDA"] == "31" and len(found) == 15
    assert text.count("#ifndef") == numbers.count("#endif") == 1


def test_the_header_is_c_that_a_compiler_takes(tmp_path) -> None:
    """Where there is a compiler: strictly, with every warning an error."""
    compiler = shutil.which("cc") or shutil.which("gcc")
    if compiler is None:
        pytest.skip("no C compiler here")
    (tmp_path / "pins.h").write_text(c_header(REPORT), "utf-8")
    (tmp_path / "main.c").write_text(
        '#include "pins.h"\nint main(void) { return (int)(LENS_SEQUENCE[0][0] + LAMP_STEPS[1] + '
        "FLAG_PULSE_US[0]) * 0 + AIR_ADDRESS; }\n",
        "utf-8",
    )
    out = tmp_path / "main"
    subprocess.run(
        [compiler, "-std=c99", "-Wall", "-Werror", str(tmp_path / "main.c"), "-o", str(out)], check=True
    )
    assert subprocess.run([str(out)], check=False).returncode == 0x49


def test_numbers_have_names_of_their_own() -> None:
    """A tie that the maker calls AIR_ADDRESS keeps the name; the number gets another one."""
    plan = edits.set_role(REPORT.circuit.plan, "door.contact", "air_address")
    found = module(python_module(look_at(plan)))
    assert (
        found["AIR_ADDRESS"] == 6 and found["AIR_ADDRESS_2"] == 0x49 and found["LENS_STEPS_PER_TURN"] == 2038
    )
    assert found["LAMP_STEPS"][0] == 0 and found["TIDE_DISPLAY_BUS"] == 1


def test_names_that_are_no_numbers_stay_names() -> None:
    plan = lay("clove-22", {"lamp": "led", "dial": "knob"}, {"lamp.anode": "e5", "dial.wiper": "w7"})
    assert "PA3" in c_header(look_at(plan), "port")
    assert module(python_module(look_at(plan), "printed"))["DIAL_WIPER"] == "A3"
    assert module(python_module(look_at(plan), "index"))["DIAL_WIPER"] == 18


def test_a_scheme_that_lacks_pins_or_is_none_is_refused() -> None:
    with pytest.raises(SchemeError, match=r"no name for .*L9 \(pos 11\)"):
        c_header(REPORT, "function")
    with pytest.raises(SchemeError, match="it has position"):
        c_header(REPORT, "nonsense")


NASTY = '*/ #error "x" <script>alert(1)</script>\n=cmd()'


def test_hostile_names_stay_text_everywhere() -> None:
    plan = lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p11"})
    plan = edits.retitle(edits.rename_part(plan, "lamp", NASTY), NASTY)
    report = look_at(plan)
    code = re.sub(r"/\*.*?\*/", "", c_header(report), flags=re.S)
    assert all(line.startswith(("#define", "#ifndef", "#endif")) for line in code.split("\n") if line.strip())
    assert module(python_module(report))
    assert "<script>" not in sheet.html(report)
    ET.fromstring(sheet.picture_svg(report))


def test_no_cell_of_the_parts_list_is_a_formula() -> None:
    plan = lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p11"})
    for name in ("=1+1", "+1", "-1", "@x"):
        plan = edits.add_part(plan, "led", name)
    for row in csv.reader(io.StringIO(parts_list.parts_csv(look_at(plan)))):
        assert not any(cell.startswith(("=", "+", "-", "@")) for cell in row)


CORDS = ("Jumper cord", "Hook-up wire", "Clip cord")


def test_parts_list_counts_everything_once() -> None:
    rows = list(csv.DictReader(io.StringIO(parts_list.parts_csv(REPORT))))
    count = {r["part"]: int(r["count"]) for r in rows if r["part"] not in CORDS}
    assert count["Push button, closes while pressed"] == 2
    assert count["Resistor 270 Ω"] == count["Resistor 330 Ω"] == 1 and count["Resistor 4.7 kΩ"] == 1
    cords = sum(int(r["count"]) for r in rows if r["part"] in CORDS)
    plugged = [t for t in REPORT.circuit.plan.ties if t.to.partition(".")[2] in REPORT.circuit.board.sockets]
    assert cords == len(REPORT.circuit.plan.ties) - len(plugged) == 48  # a plug brings its own cable
    assert next(r["for"] for r in rows if r["part"] == "Resistor 270 Ω") == "pier_red"


class Cells(HTMLParser):
    """The rows of the table of ties, by Python's own HTML parser."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[list[str]] = []
        self.inside = False

    def handle_starttag(self, tag: str, attrs: list) -> None:
        self.inside = dict(attrs).get("class") == "ties" if tag == "table" else self.inside
        if self.inside and tag == "tr":
            self.rows.append([])
        if self.inside and tag in ("td", "th"):
            self.rows[-1].append("")

    def handle_data(self, data: str) -> None:
        if self.inside and self.rows and self.rows[-1]:
            self.rows[-1][-1] += data.strip()


def test_the_sheet_lists_every_tie_with_all_names() -> None:
    cells = Cells()
    cells.feed(sheet.html(REPORT))
    head, *rows = cells.rows
    assert head == [
        "Part",
        "Lead",
        "to",
        "Position",
        "Chip line",
        "Library index",
        "Kernel line",
        "Function",
        "Cord",
        "In the tie",
        "Role",
    ]
    ties = [r for r in rows if len(r) == len(head)]
    assert len(ties) == len(REPORT.circuit.plan.ties)
    lamp = next(r for r in ties if r[:2] == ["Lamp", "anode"])
    assert lamp[2:8] == ["L22 (pos 7)", "7", "L22", "16", "line 62", "PULSE_A0"]
    assert (
        lamp[8].endswith("orange")
        and lamp[10] == "lamp"
        and lamp[9].startswith("180 Ω (180R: brown grey brown")
    )


def test_the_picture_is_svg_with_a_text_for_each_pin() -> None:
    tree = ET.fromstring(sheet.picture_svg(REPORT))
    texts = [e.text for e in tree.iter("{http://www.w3.org/2000/svg}text")]
    for pin_id in REPORT.circuit.board.pins:
        assert REPORT.circuit.titles.of(f"board.{pin_id}") in texts
    assert tree.get("viewBox")


def test_report_for_programs_has_the_promised_keys() -> None:
    tree = msgspec.to_builtins(answer(look_at(example("harbour-light-draft", shipped()))))
    assert set(tree["summary"]) == {"stop", "care", "to-do", "note"}
    assert tree["summary"]["stop"] == sum(f["severity"] == "stop" for f in tree["findings"])
    for finding in tree["findings"]:
        assert {"rule", "severity", "title", "message", "subjects", "numbers", "remedies"} <= set(finding)
    assert {"id", "title", "usual_a", "worst_a", "limit_a"} <= set(tree["rails"][0])
    assert {f"board.{p['pin']}" for p in tree["pins"]} == set(
        look_at(example("harbour-light-draft", shipped())).circuit.ties.holders
    )


def test_what_converters_read_is_reckoned_back_beside_the_constants() -> None:
    """The numbers are the value finder's own; nothing of it can end its comment."""
    report = look_at(example("seed-drawers", shipped()))
    for text in (c_header(report), python_module(report)):
        assert "DUSK_ONE_END: q = " in text or "DUSK: q = " in text
        assert "1 / (1 / 363.15 + ln(r / 1000) / 3848.73) - 273.15" in text
    module(python_module(report))


def test_the_sheet_says_which_address_wants_which_pads_and_who_may_use_the_bus() -> None:
    text = html(REPORT)
    assert "<td>Air</td><td>I2C bus 1</td><td><b>0x49</b></td><td>bridge A0; leave A1 open</td>" in text
    assert "Be in the group i2c, or root, to use /dev/i2c-1." in text
