"""The netlist against the program's own nets and against its schema; the rules for udev against their
grammar."""

import json
import re

import jsonschema
import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.check.report import Report
from knotplan.core.plan.beads import Fuse, LevelShifter, PullUp, SeriesResistor, Zener
from knotplan.core.plan.document import split
from knotplan.examples import HERE, example
from knotplan.exchange.exports import netlist, udev
from knotplan.exchange.exports.export import CannotExportError
from tests.conftest import lay, look_at
from tests.planted.count import laid
from tests.planted.right import RIGHT

SCENES = sorted(p.name.removesuffix(".knot.json") for p in HERE.glob("*.knot.json"))


def nets_of(report: Report) -> dict[tuple[str, str], str]:
    """(component, pin) → net, of the netlist as it is written."""
    tree = json.loads(netlist.text(report))
    jsonschema.Draft202012Validator(netlist.schema()).validate(tree)
    found = {}
    for net in tree["nets"]:
        for node in net["nodes"]:
            assert (node["component"], node["pin"]) not in found, "a pin is on one net"
            found[node["component"], node["pin"]] = net["name"]
    known = {c["id"]: {p["id"] for p in c["pins"]} for c in tree["components"]}
    assert len(known) == len(tree["components"])
    assert all(pin in known[component] for component, pin in found)
    assert len({net["name"] for net in tree["nets"]}) == len(tree["nets"])
    return found


def held_against(report: Report) -> None:
    """Two contacts are joined in the netlist exactly if they are on one net of the program's: its nets are
    worked out elsewhere, from joints. (A fuse parts a netlist, and no net of the engine's.)"""
    c, found = report.circuit, nets_of(report)
    assert not any(isinstance(b, Fuse) for t in c.plan.ties for b in t.beads)
    tied = sorted({end for t in c.plan.ties for end in (t.lead, t.to)})
    theirs = {contact: c.nets.of(contact) for contact in tied}
    ours = {contact: found[split(contact)] for contact in tied}
    for a in tied:
        for b in tied:
            assert (ours[a] == ours[b]) == (theirs[a] == theirs[b]), (a, b)


@pytest.mark.parametrize("scene", SCENES)
def test_the_netlist_of_each_scene_joins_what_the_program_joins(scene: str) -> None:
    held_against(look_at(example(scene, shipped())))


@pytest.mark.slow
def test_the_netlist_of_every_right_plan_joins_what_the_program_joins() -> None:
    count = 0
    for _, _, plan, _ in laid(RIGHT):
        if not any(isinstance(b, Fuse) for t in plan.ties for b in t.beads):
            report = look_at(plan)
            if not any(_passes_on(report, t.lead) for t in plan.ties):
                held_against(report)
                count += 1
    assert count > 200


def _passes_on(report: Report, lead: str) -> bool:
    """A bar joins its own contacts, which a netlist leaves to the component."""
    return report.circuit.parts[split(lead)[0]].category == "wiring"


def test_beads_stand_where_they_are_in_the_tie() -> None:
    plan = lay("bowline-40", {"Lamp": "led"}, {"lamp.anode": "p4", "lamp.cathode": "p5"})
    beads = (SeriesResistor(100.0), PullUp(10e3, rail="board.p2"), Fuse(1.0), Zener(3.3), LevelShifter())
    (tie,) = [t for t in plan.ties if t.lead == "lamp.anode"]
    report = look_at(replace(plan, ties=(replace(tie, beads=beads), *(t for t in plan.ties if t is not tie))))
    n, t = nets_of(report), tie.id
    assert n["lamp", "anode"] == n[f"{t}/0", "lead"]
    assert n[f"{t}/0", "pin"] == n[f"{t}/1", "tie"] == n[f"{t}/2", "lead"]
    assert n[f"{t}/1", "rail"] == n["board", "p2"]
    assert n[f"{t}/2", "pin"] == n[f"{t}/3", "cathode"] == n[f"{t}/4", "lead"]
    assert n[f"{t}/3", "anode"] == n[f"{t}/4", "ground"] == n["board", "p5"] == "GND"
    assert n[f"{t}/4", "pin"] == n["board", "p4"]


# --- who may use what ------------------------------------------------------------------------------------

RULE = re.compile(
    r'SUBSYSTEM=="[a-z0-9-]+", KERNEL=="[A-Za-z0-9.*-]+", '
    r'(GROUP="[a-z_][a-z0-9_-]*", MODE="0660"'
    r'|RUN\+="/bin/sh -c \'chgrp -R [a-z_][a-z0-9_-]* /sys%p && chmod -R g=u /sys%p\'")'
)


def test_rules_let_in_who_the_sheet_names() -> None:
    text = udev.rules(look_at(example("harbour-light", shipped())))
    rules = [line for line in text.splitlines() if line and not line.startswith("#")]
    assert all(RULE.fullmatch(line) for line in rules), rules
    assert any('KERNEL=="i2c-1", GROUP="i2c"' in line for line in rules)
    assert any('KERNEL=="gpiochip*", GROUP="gpio"' in line for line in rules)
    assert "sudo usermod --append --groups gpio,i2c" in text


def test_a_name_that_a_board_makes_up_writes_no_rule() -> None:
    """A plan may carry a board from anywhere; what it says must not get into a system's rules."""
    from knotplan.exchange.exports.udev import _rules

    for group, device in (
        ('i2c", RUN+="/bin/evil', "/dev/i2c-1"),
        ("i2c", '/dev/i2c-1", RUN+="/bin/evil'),
        ("i2c", "/dev/sda"),
        ("i2c\n", "/dev/i2c-1"),
        ("", "/dev/i2c-1"),
    ):
        assert list(_rules(group, device)) == []


def test_a_plan_that_uses_none_yet_is_told_otherwise_than_a_board_without_any() -> None:
    with pytest.raises(CannotExportError, match="uses no line, bus or timer of Bowline 40 yet"):
        udev.rules(look_at(lay("bowline-40", {}, {})))


def test_a_board_without_device_files_says_so() -> None:
    with pytest.raises(CannotExportError, match="no device files"):
        udev.rules(look_at(example("badge-wall", shipped())))
