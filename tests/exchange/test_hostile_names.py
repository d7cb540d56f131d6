"""Everything that leaves the plan, whatever its names are, through those that read it."""

import csv
import io
import random
import re
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET
from html.parser import HTMLParser
from pathlib import Path

import jsonschema
import msgspec
import pytest
from msgspec.structs import replace
from vcd.reader import TokenKind, tokenize
from vcdvcd import VCDVCD

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import shipped
from knotplan.core.check.report import Report
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.ids import slug
from knotplan.examples import SCENES, example
from knotplan.exchange.answers.check import answer
from knotplan.exchange.exports import EXPORTS
from knotplan.exchange.exports.chart import chart_svg
from knotplan.exchange.exports.export import SchemeError, file_name
from knotplan.exchange.exports.parts_list import parts_csv
from knotplan.exchange.exports.picture import picture_svg
from knotplan.exchange.exports.sheet import html
from knotplan.exchange.exports.waves import whole_dump, whole_svg
from knotplan.exchange.plan_file import dumps, loads, schema
from tests.conftest import c_header, look_at, python_module

HOSTILE = (
    "a\"b'c",
    "two\nlines",
    "*/ int evil; /*",
    "</script><script>alert(1)</script>",
    "=1+1",
    "@SUM(A1)",
    "\x00nul\x01",
    "\u202eevil",
    "\u200fright",
    "n" * 300,
    "",
    "int",
    "class",
    "NULL",
    "EOF",
    "INT_MAX",
    "SIGINT",
    "I",
    "__init__",
    "True",
    "None",
    "a-b",
    "a_b",
    "A B",
    "H.07",
    "??/",
    "\\",
    "$end",
    "$comment",
    "]]>",
    "&amp;",
    "{{ 7*7 }}",
    "%s%n",
    "\u2028x",
    "Ä ö ß",
    "日本",
    "🪢",
    "\ufffe",
    "-5",
    "+1",
    "'quoted",
    "#include <x>",
    "1e5",
)


def hostile(number: int) -> Plan:
    """A scene whose every text is one of those."""
    r = random.Random(number)
    plan = example(
        r.choice([s for s in SCENES if s != "organ-shutters"]) + r.choice(["", "-draft"]), shipped()
    )
    plan = edits.retitle(plan, r.choice(HOSTILE))
    for part in plan.parts:
        try:
            plan = edits.rename_part(plan, part.id, r.choice(HOSTILE))
        except EditError:
            continue
    for tie in plan.ties:
        try:
            plan = edits.set_role(plan, tie.id, r.choice(HOSTILE)) if r.random() < 0.3 else plan
            plan = edits.recolour(plan, tie.id, r.choice(HOSTILE)) if r.random() < 0.2 else plan
        except EditError:
            continue
    found = look_at(plan).findings
    for finding in found[:3]:
        if reason := r.choice(HOSTILE).strip():
            plan = edits.accept(plan, finding.rule, finding.subjects, finding.message, reason)
    return loads(dumps(plan), shipped())


REPORTS = [look_at(hostile(k)) for k in range(6)]
OURS = [
    look_at(example(f"{scene}{tail}", shipped()))
    for scene in SCENES
    for tail in ("", "-draft")
    if scene != "organ-shutters"
]
COMPILERS = [("gcc", "-std=c99", "-pedantic"), ("g++", "-std=c++17", "-x", "c++", "-pedantic")]
HEADERS = ("stdio", "stdlib", "math", "errno", "signal", "limits", "stdint", "float")
LIBRARY = "".join(f"#include <{name}.h>\n" for name in HEADERS)
"""whose macros a name must not redefine"""


@pytest.fixture(params=range(len(REPORTS) + len(OURS)), ids=str)
def report(request: pytest.FixtureRequest) -> Report:
    return [*REPORTS, *OURS][request.param]


@pytest.mark.parametrize("compiler", COMPILERS, ids=lambda c: c[0])
def test_headers_are_taken_by_strict_compilers(
    report: Report, compiler: tuple[str, ...], tmp_path: Path
) -> None:
    if shutil.which(compiler[0]) is None:
        pytest.skip(f"no {compiler[0]} here")
    for scheme in report.circuit.board.schemes:
        try:
            text = c_header(report, scheme)
        except SchemeError as error:
            assert str(error)
            continue
        (tmp_path / "pins.h").write_text(text, "utf-8")
        uses = "".join(f"  (void)sizeof({n});\n" for n in re.findall(r"static const long (\w+)", text))
        strings = "".join(f"  (void)sizeof({n});\n" for n in re.findall(r'#define (\w+)\s+"', text))
        body = f'{LIBRARY}#include "pins.h"\nint main(void) {{\n{uses}{strings}  return 0;\n}}\n'
        (tmp_path / "main.c").write_text(body, "utf-8")
        done = subprocess.run(
            [*compiler, "-Wall", "-Wextra", "-Werror", "-fsyntax-only", str(tmp_path / "main.c")],
            capture_output=True,
            text=True,
            check=False,
        )
        assert done.returncode == 0, done.stderr + text


def test_modules_are_python_and_typed(tmp_path: Path) -> None:
    for k, report in enumerate([*REPORTS, *OURS]):
        for scheme in report.circuit.board.schemes:
            try:
                text = python_module(report, scheme)
            except SchemeError:
                continue
            (tmp_path / f"pins_{k}_{scheme}.py").write_text(text, "utf-8")
    files = sorted(tmp_path.glob("*.py"))
    load = "from importlib import import_module\n"
    load += "".join(
        f"m = import_module('{f.stem}')\nassert len(set(m.__all__)) == len(m.__all__)\n" for f in files
    )
    subprocess.run(
        [sys.executable, "-c", load], cwd=tmp_path, check=True, env={"PYTHONPATH": str(tmp_path), "PATH": ""}
    )
    done = subprocess.run(
        [sys.executable, "-m", "mypy", "--strict", "--cache-dir", str(tmp_path / "cache"), *map(str, files)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stdout


class Tags(HTMLParser):
    """Every tag, and whether each that was opened is closed."""

    VOID = ("meta", "br", "link", "img")

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.seen: set[str] = set()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.seen.add(tag)
        if tag not in self.VOID:
            self.open.append(tag)
        assert not [name for name, _ in attrs if name.startswith("on")]

    def handle_endtag(self, tag: str) -> None:
        assert self.open.pop() == tag


def test_sheets_are_html_and_pictures_xml(report: Report) -> None:
    text = html(report)
    tags = Tags()
    tags.feed(text)
    assert tags.open == [] and "script" not in tags.seen
    assert not re.search("[\x00-\x08\x0b\x0c\x0e-\x1f\u202a-\u202e]", text)
    for drawn in (picture_svg(report), chart_svg(report.circuit), whole_svg(report)):
        ET.fromstring(drawn)


def test_lists_are_csv_without_formulas(report: Report) -> None:
    rows = list(csv.reader(io.StringIO(parts_csv(report), newline=""), strict=True))
    assert {len(row) for row in rows} == {6}
    assert not [c for row in rows for c in row if c.startswith(("=", "+", "-", "@", "\t", "\r"))]


def test_dumps_are_read_by_two_readers(report: Report, tmp_path: Path) -> None:
    data = whole_dump(report)
    path = tmp_path / "w.vcd"
    path.write_bytes(data)
    names = [t.var.reference for t in tokenize(io.BytesIO(data)) if t.kind is TokenKind.VAR]
    assert len(names) == len(set(names))
    if names:
        assert len(VCDVCD(str(path)).signals) == len(names)


def test_what_programs_read_is_json_by_its_schema(report: Report) -> None:
    import json

    jsonschema.Draft202012Validator(schema()).validate(json.loads(dumps(report.circuit.plan)))
    json.loads(json.dumps(msgspec.to_builtins(answer(report)), allow_nan=False))


@pytest.mark.parametrize("title", HOSTILE)
def test_files_can_be_called_after_any_plan(title: str, tmp_path: Path) -> None:
    for export in EXPORTS:
        path = tmp_path / file_name(slug(title, set()), export)
        path.write_text("x")
        assert path.parent == tmp_path and len(path.name) < 120


def test_roles_that_are_one_in_a_program_are_told_both() -> None:
    plan = example("harbour-light", shipped())
    ties = tuple(
        replace(t, role={"lamp.anode": "a b", "flag.signal": "a-b"}.get(t.id, "")) for t in plan.ties
    )
    with pytest.raises(SchemeError, match="'a b' and 'a-b' are both A_B"):
        c_header(look_at(replace(plan, ties=ties)))


def test_a_made_up_name_never_takes_one_that_the_maker_gave() -> None:
    plan = edits.add_part(edits.add_part(Plan("bowline-40"), "led", "Lamp"), "led", "Lamp 2")
    plan = edits.add_part(edits.rename_part(plan, "lamp-2", "Lamp!"), "push-button", "Door")
    for lead, pin in (("lamp.anode", "p11"), ("lamp-2.anode", "p13"), ("door.contact", "p15")):
        plan = edits.tie(plan, lead, f"board.{pin}")
    plan = edits.set_role(plan, "door.contact", "lamp_anode_2")
    found = dict(re.findall(r"^#define (\w+) +(\S+)", c_header(look_at(plan)), re.M))
    assert sorted(n for n in found if n.startswith("LAMP_ANODE")) == [
        "LAMP_ANODE",
        "LAMP_ANODE_2",
        "LAMP_ANODE_3",
    ]
    assert found["LAMP_ANODE_2"] == "11", "the chip line of the door, which the maker called so"


def test_names_of_pins_that_are_no_words_are_strings() -> None:
    board = shipped().board("clove-22")
    pins = {
        k: replace(p, names={**p.names, "printed": f"H.{k}"}) if "printed" in p.names else p
        for k, p in board.pins.items()
    }
    own: Board = replace(board, id="mine", pins=pins)
    plan = edits.tie(edits.add_part(Plan("mine", carried=own), "led", "Lamp"), "lamp.anode", "board.e5")
    assert '#define LAMP_ANODE "H.e5"' in c_header(look_at(plan), "printed")
    assert "LAMP_ANODE = 'H.e5'" in python_module(look_at(plan), "printed")
