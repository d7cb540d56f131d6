"""Addresses: the standard's reserved ones, written forms, straps, and many
devices at once against exhaustive search."""

from itertools import combinations, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.buses.addresses import (
    FREE,
    address_of,
    can_be,
    clash,
    named,
    places,
    reserved,
    soldering,
    trunk,
)
from knotplan.core.buses.assign import Conflict, Given, assign
from knotplan.core.buses.i2c import cells, i2c_buses, notes
from knotplan.core.buses.spoken import AddressError, forms, read
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import PlacedPart, Tie
from knotplan.examples import example
from tests.core.buses.benches import bench, on_bus, placed

UM10204_TABLE_4 = {
    0x00: "general call",
    0x01: "CBUS",
    0x02: "another bus format",
    0x03: "future",
    0x04: "high-speed",
    0x07: "high-speed",
    0x78: "ten bits",
    0x7B: "ten bits",
    0x7C: "identity",
    0x7F: "identity",
}
"""from the published table of reserved addresses: 0000 000 to 0000 1XX, 1111 0XX, 1111 1XX"""


@pytest.mark.parametrize(("address", "why"), UM10204_TABLE_4.items())
def test_reserved_addresses_are_those_of_the_standard(address: int, why: str) -> None:
    assert why in reserved(address) and address not in FREE


def test_every_other_address_is_free() -> None:
    assert [a for a in range(128) if not reserved(a)] == list(FREE) == list(range(8, 120))


@pytest.mark.parametrize(
    ("text", "address", "how"),
    [
        ("0x48", 0x48, "hex"),
        ("48h", 0x48, "hex"),
        ("72", 0x48, "decimal"),
        ("1001000", 0x48, "binary"),
        ("0b1001000", 0x48, "binary"),
        ("0x90", 0x48, "hex, of eight bits with the write bit"),
        ("0x91", 0x48, "hex, of eight bits with the read bit"),
        ("144", 0x48, "decimal, of eight bits with the write bit"),
        ("10010001", 0x48, "binary, of eight bits with the read bit"),
        ("0xAE", 0x57, "hex, of eight bits with the write bit"),
        (" 0x3c ", 0x3C, "hex"),
    ],
)
def test_an_address_is_recognised_however_it_is_written(text: str, address: int, how: str) -> None:
    meanings = read(text, {address})
    assert (meanings[0].address, meanings[0].how) == (address, how)


def test_what_the_device_can_have_decides_between_meanings() -> None:
    assert read("0x40", {0x20})[0].address == 0x20 and read("0x40", {0x40})[0].address == 0x40
    assert {m.address for m in read("48")} >= {48, 0x48}, (
        "a bare number may be decimal or hex: both are offered"
    )


@pytest.mark.parametrize("text", ["", "0x", "hello", "0x03", "999", "0xF8", "1e3", "-5"])
def test_what_is_no_address_is_said(text: str) -> None:
    with pytest.raises(AddressError, match="write it as"):
        read(text)


def test_forms_lead_back_to_the_address() -> None:
    for address in FREE:
        for what, text in forms(address):
            found = [m for m in read(text, {address}) if ("eight" in m.how) == ("eight" in what)]
            assert address in [m.address for m in found], (what, text)


def test_pads_of_two_and_four_positions_add_up() -> None:
    thermometer = bench("splice-24", [placed("water", "i2c-thermometer")])
    assert [hex(s.address) for s in can_be(thermometer, "water")] == ["0x48", "0x49", "0x4a", "0x4b"]
    adc = bench("splice-24", [placed("scales", "adc-4", addr="SDA")])
    assert address_of(adc, "scales") == 0x4A
    assert {s.address: s.params for s in can_be(adc, "scales")}[0x4B] == (("addr", "SCL"),)
    assert (
        soldering(adc, "scales") == "ADDR to SDA"
        and soldering(thermometer, "water") == "leave A0 open; leave A1 open"
    )


def test_a_resident_of_the_board_is_a_device_like_any_other() -> None:
    c = bench("capstan-34", [p := placed("log", "eeprom")], on_bus("capstan-34", p, "p26", "p28"))
    found = places(c)
    assert [named(c, p) for p in found] == ["Log", "The board's own memory"]
    assert clash(c, *found) == "address"


# --- many at once -----------------------------------------------------------------------------------


def searched(c: Circuit, asked: list[str], among: list[str]) -> tuple[int, int, int] | None:
    """By trying everything: (devices changed, pads changed, sum of addresses) of the best, or
    nothing. Independent of the programme: plain enumeration over all addresses of `asked`; the
    rest of `among` is left out of account."""
    here = {p.part: p for p in places(c)}
    fixed = [p for p in places(c) if p.part not in among]
    best = None
    for straps in product(*(can_be(c, part) for part in asked)):
        made = [
            type(here[p])(p, here[p].bus, s.address, here[p].all_call)
            for p, s in zip(asked, straps, strict=True)
        ]
        if any(clash(c, a, b) for a, b in combinations(made, 2)) or any(
            clash(c, a, b) for a in made for b in fixed
        ):
            continue
        cost = (
            sum(bool(s.params) for s in straps),
            sum(len(s.params) for s in straps),
            sum(s.address for s in straps),
        )
        best = cost if best is None or cost < best else best
    return best


KINDS = ("i2c-thermometer", "adc-4", "oled-display", "inertial-sensor", "clock")
benches = st.lists(
    st.tuples(st.sampled_from(KINDS), st.integers(0, 2), st.booleans()), min_size=1, max_size=5
)
"""(kind, where: the trunk or one of two branches, whether its first pad is changed)"""


def switched(devices: list[tuple[str, int, bool]]) -> Circuit:
    switch = placed("branches", "bus-switch")
    parts, ties = [switch], on_bus("splice-24", switch)
    for k, (kind, where, turned) in enumerate(devices):
        facts = shipped().part(kind, {}).facts.i2c
        pad = facts.pads[0].param if facts.pads and turned else ""
        spec = shipped().part(kind, {}).params.get(pad)
        part = PlacedPart(f"d{k}", kind, f"D{k}", {pad: spec.choices[-1]} if spec else {})
        parts.append(part)
        ends = (f"branches.sd{where}", f"branches.sc{where}") if where else ("", "")
        ties += on_bus("splice-24", part, *ends)
    return bench("splice-24", parts, ties)


@given(benches)
@settings(max_examples=60, deadline=None)
def test_straps_are_the_best_there_are_or_cannot_be(devices: list[tuple[str, int, bool]]) -> None:
    c = switched(devices)
    asked = [f"d{k}" for k in range(len(devices))]
    found, best = assign(c, asked), searched(c, asked, asked)
    if best is None:
        assert isinstance(found, Conflict)
        assert searched(c, list(found.parts), asked) is None, "what is named cannot stand together"
        for left_out in found.parts:
            rest = [p for p in found.parts if p != left_out]
            assert searched(c, rest, asked) is not None, "and none of them can be left out"
    else:
        assert isinstance(found, Given)
        got = (
            sum(bool(s.params) for s in found.straps.values()),
            found.changes,
            sum(s.address for s in found.straps.values()),
        )
        assert got == best


def test_the_fewest_that_cannot_stand_together_are_named() -> None:
    """Three of one kind with two addresses, beside four of another with four: only the three are at fault."""
    parts = [placed(f"face{k}", "oled-display") for k in range(3)] + [
        placed(f"t{k}", "i2c-thermometer") for k in range(4)
    ]
    found = assign(bench("splice-24", parts), [p.id for p in parts])
    assert found == Conflict(("face0", "face1", "face2"), (0x3C, 0x3D))


def test_devices_on_two_branches_may_share_an_address_but_not_with_the_trunk() -> None:
    c = switched([("clock", 1, False), ("clock", 2, False)])
    assert isinstance(assign(c, ["d0", "d1"]), Given)
    c = switched([("clock", 0, False), ("clock", 2, False)])
    assert assign(c, ["d0", "d1"]) == Conflict(("d0", "d1"), (0x68,))


def test_an_all_call_and_a_fixed_device_are_kept_clear_of() -> None:
    c = bench("splice-24", [placed("hub", "pwm-hub"), placed("branches", "bus-switch")])
    found = assign(c, ["branches"])
    assert isinstance(found, Given) and found.straps["branches"].address == 0x71
    assert {p.address for p in places(c)} == {0x40, 0x70}


def test_sixty_hubs_on_two_buses_have_addresses_around_what_the_board_has() -> None:
    plan = example("organ-shutters-draft", shipped())
    c = Circuit(plan, shipped())
    hubs = [p.id for p in plan.parts if p.part == "pwm-hub"]
    found = assign(c, hubs)
    assert isinstance(found, Given) and len(found.straps) == 60
    for k in (0, 30):
        taken = [found.straps[h].address for h in hubs[k : k + 30]]
        assert len(set(taken)) == 30 and 0x70 not in taken
    assert 0x50 not in [found.straps[h].address for h in hubs[30:]]
    assert sum(bool(s.params) for s in found.straps.values()) == 2, "the two that clash, and nobody else"


# --- the map ---------------------------------------------------------------------------------------


def test_each_bus_and_branch_has_its_map() -> None:
    c = switched([("clock", 0, False), ("i2c-thermometer", 1, False), ("i2c-thermometer", 2, False)])
    buses = [b for b in i2c_buses(c) if b.devices]
    assert [(b.depth, len(b.devices)) for b in buses] == [(0, 2), (1, 1), (1, 1)]
    assert [len(trunk(c, b.bus)) for b in buses] == [1, 2, 2]
    branch = {cell.address: cell for cell in cells(c, buses[1])}
    assert (
        branch[0x48].state == "taken"
        and branch[0x68].state == "elsewhere"
        and branch[0x70].state == "elsewhere"
    )
    assert branch[0x49].state == "free" and branch[0x02].state == "reserved"
    assert any("which branch to join" in n for n in notes(c, buses[0]))


def test_the_map_shows_clashes_and_all_calls() -> None:
    c = bench(
        "splice-24",
        [placed("one", "i2c-thermometer"), placed("two", "i2c-thermometer"), placed("hub", "pwm-hub")],
    )
    found = {cell.address: cell for cell in cells(c, next(b for b in i2c_buses(c) if b.devices))}
    assert found[0x48].state == "clash" and found[0x48].who == ("One", "Two")
    assert found[0x70].state == "all-call" and found[0x40].state == "taken"


def test_an_address_by_command_may_be_any_and_says_that_it_is_lost() -> None:
    part = placed("near", "distance-sensor", address=0x30)
    c = bench("capstan-34", [part])
    assert address_of(c, "near") == 0x30 and len(can_be(c, "near")) == len(FREE)
    assert any("anew after each power-on" in n for n in notes(c, i2c_buses(c)[0]))


def test_on_a_board_that_leads_buses_anywhere_the_data_pin_tells_one_from_another() -> None:
    ends = [("w3", "w4"), ("w5", "w6")]
    pins = [p for p, pin in shipped().board("halyard-w").pins.items() if "i2c:any" in " ".join(pin.functions)]
    parts = [placed("one", "i2c-thermometer"), placed("two", "i2c-thermometer")]
    ties = [
        Tie(f"{p.id}.{lead}", f"{p.id}.{lead}", f"board.{pins[2 * k + n]}")
        for k, p in enumerate(parts)
        for n, lead in enumerate(("sda", "scl"))
    ]
    c = bench("halyard-w", parts, ties)
    assert len({p.bus for p in places(c)}) == 2 and ends
    assert not clash(c, *places(c))
