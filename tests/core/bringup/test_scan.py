"""A scan against the plan: what the practice bench has wrong is what the differences say."""

import pytest

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.bringup.said import Answer, BusScan
from knotplan.core.bringup.scan import compared, on_board
from knotplan.core.buses.addresses import FREE, can_be
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan, split
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.practice.troubles import Trouble, troubles
from knotplan.examples import SCENES, example

SMALL = [s for s in SCENES if s != "organ-shutters"]


def circuit(plan: Plan | str = "harbour-light") -> Circuit:
    return Circuit(example(plan, shipped()) if isinstance(plan, str) else plan, shipped())


def said(c: Circuit, *scans: BusScan):
    pairs, loose = compared(c, scans, shipped())
    return [d for p in pairs for d in p.differences] + loose


def with_(*addresses: int, bus: int | None = 1, driver: tuple[int, ...] = ()) -> BusScan:
    cells: dict[int, Answer] = dict.fromkeys(FREE, "silent")
    return BusScan(bus, cells | dict.fromkeys(addresses, "answers") | dict.fromkeys(driver, "driver"))


@pytest.mark.parametrize("scene", SCENES)
def test_a_bench_as_planned_has_no_difference(scene: str) -> None:
    c = circuit(scene)
    scans = PracticeBench(c, shipped()).scans()
    assert len(scans) == sum(bool(b.devices) for b in on_board(c).values())
    assert not [d for d in said(c, *scans) if d.gravity == "differs"]


def concerned(c: Circuit) -> list[Trouble]:
    """Troubles that silence a device on a bus."""
    silent = (
        "cord open",
        "ground missing",
        "one hole further",
        "cords exchanged",
        "supply missing",
        "bus off",
    )
    on_bus = {p.part for b in on_board(c).values() for p in b.devices}
    found = []
    for t in troubles(c):
        if t.kind == "strap otherwise" or (t.kind in silent and set(t.parts) & on_bus):
            found.append(t)
    return found


@pytest.mark.parametrize("scene", ["harbour-light", "kite-winder"])
def test_each_trouble_that_a_scan_can_show_is_told_of_the_right_parts(scene: str) -> None:
    c = circuit(scene)
    asked = concerned(c)
    assert len(asked) > 10
    for trouble in asked:
        found = [
            d for d in said(c, *PracticeBench(c, shipped(), [trouble]).scans()) if d.gravity == "differs"
        ]
        about = {split(s)[0] for d in found for s in d.subjects}
        assert about & set(trouble.parts), trouble.title


def test_a_strap_that_stands_otherwise_can_be_taken_over() -> None:
    c = circuit()
    (d,) = said(c, with_(0x3D, 0x48, 0x49))
    assert d.kind == "address-strapped" and "bridge SA0" in d.message
    follows = d.remedies[0].apply(c.plan)
    assert not said(circuit(follows), with_(0x3D, 0x48, 0x49))


def test_every_address_of_every_device_is_known_again_by_its_straps() -> None:
    """Whichever address a device can have, the remedy gives it in the plan."""
    c = circuit()
    for place in on_board(c)[1].devices:
        others = {p.address for p in on_board(c)[1].devices} - {place.address}
        for straps in can_be(c, place.part):
            if straps.address in others | {place.address}:
                continue
            found = [d for d in said(c, with_(*others, straps.address)) if d.gravity == "differs"]
            assert [d.kind for d in found] == ["address-strapped"], hex(straps.address)
            follows = found[0].remedies[0].apply(c.plan)
            assert not [
                d for d in said(circuit(follows), with_(*others, straps.address)) if d.gravity == "differs"
            ]


def test_all_none_and_other_buses() -> None:
    c = circuit()
    assert [d.kind for d in said(c, with_(*FREE))] == ["all-answer"]
    (none,) = said(c, with_())
    assert none.kind == "none-answers" and "3 devices are planned" in none.message and none.look
    moved = said(c, with_(), with_(0x3C, 0x48, 0x49, bus=0))
    assert "They answer on bus 0" in moved[0].message
    assert [d.kind for d in said(c, with_(0x3C, 0x48, 0x49), with_(0x50, bus=9))] == ["bus-unplanned"]
    (lost, other) = said(c, with_(0x3C, 0x48), with_(0x49, bus=0))
    assert "answers on bus 0" in lost.message and other.kind == "address-unexpected"


def test_what_nobody_planned_is_named_by_what_is_usually_there() -> None:
    (d,) = said(circuit(), with_(0x3C, 0x48, 0x49, 0x68))
    assert d.kind == "address-unexpected" and "At 0x68 there may be" in d.message


def test_an_address_of_eight_bits_is_known() -> None:
    found = said(circuit(), with_(0x48, 0x49, 0x1E))
    assert [d.kind for d in found] == ["address-eight-bit"] and "7 bits" in found[0].message


def test_a_driver_and_what_was_not_tried_are_notes() -> None:
    c = circuit()
    (note,) = said(c, with_(0x48, 0x49, driver=(0x3C,)))
    assert note.kind == "address-driver" and note.gravity == "note"
    (note,) = said(c, BusScan(1, {0x48: "answers", 0x49: "answers"}))
    assert note.kind == "address-not-tried" and "Tide display at 0x3C" in note.message


def test_a_scan_without_a_number_is_of_the_only_bus_in_use(catalog: Catalog) -> None:
    assert not said(circuit(), with_(0x3C, 0x48, 0x49, bus=None))
    (d,) = said(circuit("organ-shutters"), with_(0x40, bus=None))
    assert d.kind == "bus-unknown" and "7 (I2C bus A)" in d.message


def test_cords_that_are_not_noted_as_wired_are_named() -> None:
    c = circuit()
    from knotplan.core.wiring.state import tasks_of

    done = [w for t, w in tasks_of(c).items() if not t.startswith("cord:water.s")]
    half = circuit(edits.note_wired(c.plan, done))
    (d,) = said(half, with_(0x3C, 0x49))
    assert "not noted as wired: SCL and SDA" in d.message or "not noted as wired: SDA and SCL" in d.message
