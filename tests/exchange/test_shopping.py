"""The list to buy from, against the plan counted by hand."""

import csv
import io
import math
import re
from collections import Counter
from html.parser import HTMLParser

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.check.report import Report
from knotplan.core.circuit.copper import cord_of
from knotplan.core.circuit.cords import colour_of
from knotplan.core.plan.beads import PullUp, SeriesResistor
from knotplan.core.plan.document import Assumed
from knotplan.core.text.shopping.shopping import shopping
from knotplan.examples import HERE, example
from knotplan.exchange.exports import EXPORTS, parts_list
from tests.conftest import lay, look_at

SCENES = sorted(p.name.removesuffix(".knot.json") for p in HERE.glob("*.knot.json"))
METRES = re.compile(r"(\d+) × ([\d.]+) (cm|m)")


def rows_of(report: Report) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(parts_list.parts_csv(report))))


@pytest.mark.parametrize("scene", SCENES)
def test_everything_of_a_plan_is_on_the_list_once(scene: str) -> None:
    report = look_at(example(scene, shipped()))
    c, rows = report.circuit, rows_of(report)
    used = Counter[str]()
    for row in rows:
        used[row["group"]] += int(row["count"])
        assert int(row["buy"]) >= int(row["count"]) or row["part"] == "Hook-up wire"
    assert used["board"] == 1 and used["parts"] == len(c.parts)
    assert used["small components"] == sum(len(t.beads) for t in c.plan.ties)
    assert used["cords"] == sum(not c.contacts.is_socket(t.to) for t in c.plan.ties)
    keys = [(r["part"], r["details"]) for r in rows]
    assert len(keys) == len(set(keys))


@pytest.mark.parametrize("scene", SCENES)
def test_wire_is_enough_for_its_cuts_and_each_cord_is_one_of_them(scene: str) -> None:
    report = look_at(example(scene, shipped()))
    c = report.circuit
    planned: dict[str, Counter[float]] = {}
    for tie in c.plan.ties:
        cord = cord_of(c, tie)
        if not c.contacts.is_socket(tie.to) and cord.what == "Hook-up wire":
            key = f"{colour_of(c, tie)}, {cord.words.partition(', ')[2]}"
            planned.setdefault(key, Counter())[round(cord.length_m, 4)] += 1
    wires = [r["details"] for r in rows_of(report) if r["part"] == "Hook-up wire"]
    assert len(wires) == len(planned)
    for details in wires:
        head, _, cuts = details.partition(": cut ")
        kind, _, lengths = head.rpartition(", ")
        found = Counter[float]()
        for count, number, unit in METRES.findall(cuts):
            found[round(float(number) * (0.01 if unit == "cm" else 1), 4)] += int(count)
        assert found == planned[kind]
        total = sum(length * count for length, count in found.items())
        bought, _, said = lengths.partition(" for ")
        assert _metres(said) == pytest.approx(total, rel=1e-3)
        assert total * 1.1 - 1e-9 <= _metres(bought) < total * 1.1 + 0.1 + 1e-9


def _metres(text: str) -> float:
    number, unit = text.split()
    return float(number) * (0.01 if unit == "cm" else 1)


def test_spare_ones_are_as_the_plan_says() -> None:
    plan = example("harbour-light", shipped())
    for share in (0.0, 0.1, 1.0):
        asked = replace(plan, assumes=(Assumed("spare", share),))
        for line in shopping(look_at(asked).circuit).lines:
            small = line.group == "small components" or (
                line.group == "cords" and line.what != "Hook-up wire"
            )
            assert line.buy == (
                math.ceil(line.count * (1 + share))
                if small
                else 1
                if line.what == "Hook-up wire"
                else line.count
            )


def with_resistors(*ohms: float) -> Report:
    plan = lay("bowline-40", {"Lamp": "led"}, {"lamp.anode": "p4", "lamp.cathode": "p5"})
    beads = tuple(SeriesResistor(o, 0.05) for o in ohms)
    return look_at(replace(plan, ties=(replace(plan.ties[0], beads=beads), *plan.ties[1:])))


@pytest.mark.parametrize(
    ("ohms", "series"),
    [
        ((100.0, 220.0, 470.0, 1e3), "E3"),
        ((100.0, 150.0, 470.0, 1e3), "E6"),
        ((120.0, 270.0, 5.6e3, 1e6, 120.0), "E12"),
        ((110.0, 270.0, 5.6e3, 1e6), "E24"),
        ((100.0, 220.0, 470.0), ""),
        ((101.0, 220.0, 470.0, 1e3), ""),
    ],
)
def test_a_pack_is_proposed_where_it_has_every_value(ohms: tuple[float, ...], series: str) -> None:
    report = with_resistors(*ohms)
    found = shopping(report.circuit).pack
    assert (found.series if found else "") == series
    texts = (parts_list.parts_csv(report), parts_list.parts_markdown(report), parts_list.parts_html(report))
    assert all(("Resistor pack" in text) == bool(series) for text in texts)
    if found:
        assert found.each == max(Counter(ohms).values()) and found.values == len(set(ohms))


def test_resistors_stand_by_their_values_whatever_they_are_for() -> None:
    plan = lay("bowline-40", {"Lamp": "led"}, {"lamp.anode": "p4", "lamp.cathode": "p5"})
    beads = (PullUp(10e3, rail="board.p2"), SeriesResistor(330.0), SeriesResistor(47.0))
    report = look_at(replace(plan, ties=(replace(plan.ties[0], beads=beads), *plan.ties[1:])))
    small = [x.what for x in shopping(report.circuit).lines if x.group == "small components"]
    assert small == ["Resistor 47 Ω", "Resistor 330 Ω", "Resistor 10 kΩ"]


class Rows(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.count, self.open = 0, []

    def handle_starttag(self, tag: str, attrs: object) -> None:
        self.count += tag == "tr"


def test_all_three_forms_have_the_same_lines() -> None:
    report = look_at(example("harbour-light", shipped()))
    lines = len(shopping(report.circuit).lines)
    made = {x.id: x.make(report, "").decode("utf-8") for x in EXPORTS if x.id.startswith("parts")}
    assert set(made) == {"parts", "parts-md", "parts-html"}
    assert sum(line.startswith("| ☐ |") for line in made["parts-md"].splitlines()) == lines
    html = Rows()
    html.feed(made["parts-html"])
    assert html.count == lines + 4
