"""What transistors, coils and motors ask for: base and gate resistors,
clamps, the heat of what switches them."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Bipolar, Coil, Element, Fet, Led, Load, Motor
from knotplan.catalog.part.needs import Pulse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.readings import Points
from knotplan.core.finders.in_plan.proposal import Proposal, driven, elements_at, only
from knotplan.core.plan.beads import Clamp, SeriesResistor
from knotplan.core.plan.document import BOARD, Tie, split


def _load_amps(c: Circuit, contact: str) -> float:
    """What hangs on a switch's contact draws at worst."""
    total = 0.0
    for t in c.ties.at.get(contact, ()):
        for e in c.parts[split(t.lead)[0]].elements.values():
            if split(t.lead)[1] in (e.a, e.b):
                origin = c.supplies.origin(t.lead) or next(
                    (
                        o
                        for n in c.parts[split(t.lead)[0]].leads
                        if (o := c.supplies.origin(f"{split(t.lead)[0]}.{n}"))
                    ),
                    None,
                )
                volts = origin.volts.max if origin else 5.0
                total += _most(e, volts)
    return total


def _most(e: Element, volts: float) -> float:
    """What an element takes at most, A."""
    match e:
        case Coil(ohm=ohm):
            return volts / ohm.min
        case Motor(stall_a=amps) | Load(worst_a=amps) | Led(wished_a=amps):
            return amps
    return 0.0


def of_transistors(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    """What to ask about the base or gate of a transistor."""
    drive, part_id = driven(c, tie), split(tie.lead)[0]
    e, about = (
        next((e for e in elements_at(c, tie) if isinstance(e, Bipolar | Fet)), None),
        c.titles.of(tie.lead),
    )
    if drive is None or e is None or split(tie.lead)[1] != e.a:
        return
    if isinstance(e, Bipolar):
        amps = _load_amps(c, f"{part_id}.{e.collector}")
        if amps > 0:
            yield Proposal(
                "base",
                tie,
                about,
                {
                    **drive,
                    "load": (amps, "plan: what hangs on the collector"),
                    "series": (c.series, "plan"),
                },
                SeriesResistor(1000.0),
            )
    else:
        need = c.needs.of(tie.lead)
        hertz = need.frequency_hz if isinstance(need, Pulse) else 1.0
        yield Proposal(
            "gate",
            tie,
            about,
            {
                **only(drive, "high", "pin_a"),
                "frequency": (hertz, "catalogue, " + about),
                "leak": (c.hardware.driver(tie.to).leak_a, f"catalogue, {c.titles.full(tie.to)}"),
                "series": (c.series, "plan"),
            },
            SeriesResistor(220.0),
        )


def of_loads(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    """What to ask about a load that is switched: its clamp, its heat."""
    e = next((e for e in elements_at(c, tie) if isinstance(e, Coil | Motor)), None)
    pin, part_id = c.contacts.pin(tie.to), split(tie.lead)[0]
    if e is None or pin is None or not {"sink", "source"} & set(pin.functions):
        return
    where = f"catalogue, {c.placed[part_id].name}"
    supply = next(
        (
            t.to
            for n in c.parts[part_id].leads
            if (t := c.ties.of(f"{part_id}.{n}")) and c.supplies.origin(t.to)
        ),
        "",
    )
    origin = c.supplies.origin(supply) if supply else None
    if origin is None:
        return
    ohm = e.ohm.typ if isinstance(e, Coil) else e.volts / e.stall_a
    henry = e.henry if isinstance(e, Coil) else 1e-3
    need, clamps = c.needs.of(tie.lead), c.hardware.driver(tie.to).clamps
    clamped = e.clamped or bool(clamps and f"{split(tie.to)[0]}.{clamps}" in c.ties.at)
    yield Proposal(
        "clamp",
        tie,
        c.titles.of(tie.lead),
        {
            "supply": (origin.volts.typ, origin.title),
            "ohm": (ohm, where),
            "henry": (henry, where if isinstance(e, Coil) else "about, for a small motor"),
            "frequency": (need.frequency_hz if isinstance(need, Pulse) else 1.0, where),
        },
        None if clamped else Clamp(supply),
    )


def of_switches(c: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    """The heat of what switches a load."""
    pin, part_id = c.contacts.pin(tie.to), split(tie.to)[0]
    if pin is None or part_id == BOARD or not {"sink", "source", "bridge"} & set(pin.functions):
        return
    running = [r for r in points.pins.get(tie.to, []) if r.case.moment == "running"]
    amps, driver = max((r.most for r in running), default=0.0), c.hardware.driver(tie.to)
    if amps < 1e-3 or driver.element:
        return
    used = sum(split(t)[0] == part_id for t in c.ties.holders)
    where, drops = f"catalogue, {c.placed[part_id].name}", driver.low_drop_v > 0
    yield Proposal(
        "heat",
        tie,
        c.placed[part_id].name,
        {
            "kind": ("transistor with a drop" if drops else "transistor with a resistance", where),
            "volts_out": (driver.low_drop_v + amps * driver.low_ohm.typ, where),
            "ohm": (driver.low_ohm.max, where),
            "current": (amps, "engine: worst"),
            "channels": (float(used), "plan: outputs in use"),
            "theta": (100.0 if drops else 60.0, "usual for its package"),
        },
    )
