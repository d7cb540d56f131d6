"""Organ shutters: 60 PWM hubs on two buses, 960 servos. Larger than anyone's plan, so it is
laid out by a program; the load test."""

from knotplan.core.plan.beads import Capacitor
from knotplan.core.plan.document import PlacedPart, Plan, Tie

BUSES = (("board.p7", "board.p8"), ("board.p26", "board.p28"))
"""data and clock of the board's two buses"""
NEAR_M = 0.05
"""cord from hub to hub along a bus: they stand side by side"""
FIRST, RESIDENT = 0x40, 0x50
"""address of a hub with all pads open; where the board's own memory answers on the second bus"""
RANK_A = 12.0
"""what 16 servos of a rank take when all of them stall, and a little more"""


def organ_shutters(hubs: int = 60, servos: int = 16, *, draft: bool = False) -> Plan:
    """Ranks of shutters, half of them on each bus, each rank with a supply of its own; folded to begin with.

    The first draft has the mistakes of somebody who was tired at the end of the row."""
    parts = [
        PlacedPart("logic-feed", "brick-12v", "Logic feed"),
        PlacedPart("logic", "buck-converter", "Logic 3.3 V", {"volts": "3.3 V"}),
        PlacedPart("ground", "ground-bar", "Ground bar"),
    ]
    ties = [
        _tie("logic-feed.zero", "ground.bar"),
        _tie("logic.in", "logic-feed.plus"),
        _tie("logic.gnd", "ground.bar"),
        _tie("ground.bar", "board.p9"),
    ]
    if not draft:
        parts.insert(0, PlacedPart("board-feed", "plug-brick", "Board feed", {"amperes": 4.0}))
        ties.append(_tie("board-feed.plug", "board.barrel"))
    half = (hubs + 1) // 2
    for number in range(hubs):
        more_parts, more_ties = _rank(number, half, servos, draft)
        parts += more_parts
        ties += more_ties
    return Plan(
        "capstan-34",
        "Organ shutters, first draft" if draft else "Organ shutters",
        parts=tuple(parts),
        ties=tuple(ties),
    )


def _tie(lead: str, to: str, *beads: Capacitor, metres: float = 0.0) -> Tie:
    return Tie(lead, lead, to, beads=beads, length_m=metres)


def _rank(number: int, half: int, servos: int, draft: bool) -> tuple[list[PlacedPart], list[Tie]]:
    """One hub with its supply and its servos. What the draft gets wrong: an address given twice, another
    that the board has itself, long cords and all pull-ups left on, servos on the logic supply, a supply
    whose ground was forgotten, a bulk capacitor left out."""
    name = f"{number + 1:02d}"
    hub, supply = f"rank-{name}", f"wind-{name}"
    place = number % half
    address = place - 1 if draft and number == 7 else place
    if not draft and number >= half and address >= RESIDENT - FIRST:
        address += 1
    pads: dict[str, str | float] = {f"a{k}": "bridged" for k in range(5) if address >> k & 1}
    if not draft:
        pads["pulls"] = "taken off"  # the board's own are enough for all
    sda, scl = BUSES[number // half]
    near = 0.0 if draft else NEAR_M
    parts = [
        PlacedPart(hub, "pwm-hub", f"Rank {number + 1}", pads, shows="folded"),
        PlacedPart(supply, "brick-5v", f"Wind {number + 1}", {"amperes": RANK_A * servos / 16}),
    ]
    vcc, vplus = "logic.out", f"{supply}.plus"
    if draft and number == 11:
        vplus = "logic.out"
    beads = () if draft and number == 19 else (Capacitor(1000e-6, 10.0),)
    ties = [
        _tie(f"{hub}.vcc", vcc),
        _tie(f"{hub}.gnd", "ground.bar"),
        _tie(f"{hub}.sda", sda, metres=near),
        _tie(f"{hub}.scl", scl, metres=near),
        _tie(f"{hub}.vplus", vplus, *beads),
    ]
    if not (draft and number == 15):
        ties.append(_tie(f"{supply}.zero", "ground.bar"))
    for k in range(servos):
        servo = f"shutter-{name}-{k + 1:02d}"
        parts.append(PlacedPart(servo, "micro-servo", f"Shutter {number + 1}.{k + 1}"))
        ties += [
            _tie(f"{servo}.signal", f"{hub}.ch{k}"),
            _tie(f"{servo}.power", f"{hub}.vplus"),
            _tie(f"{servo}.ground", f"{hub}.gnd"),
        ]
    return parts, ties
