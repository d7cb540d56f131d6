"""What a part is made of, as the engine sees it: its equivalent circuit, between leads and inner nodes."""

from typing import Literal

import msgspec

from knotplan.catalog.quantities import Range


class _Element(msgspec.Struct, frozen=True, forbid_unknown_fields=True, tag_field="kind"):
    a: str
    """its first end: a lead, or an inner node"""
    b: str
    """its other end: a lead, or an inner node"""


class Resistor(_Element, tag="resistor"):
    """Between leads, or a lead and an inner node (any name that no lead has)."""

    ohm: Range
    """its resistance, Ω"""


class Diode(_Element, tag="diode"):
    """A junction from `a` (anode) to `b`, through two points of its typical curve, (A, V) each."""

    points: tuple[tuple[float, float], tuple[float, float]]
    """two points of its typical curve, (A, V) each"""
    spread_v: float = 0.0
    """how far the forward voltage of a specimen lies from the typical one"""


class Zener(_Element, tag="zener"):
    """A diode from `a` (anode) to `b` that lets current through backwards from its voltage on."""

    volts: float
    """the voltage from which it lets current through backwards, V"""
    at_a: float
    """the current at which it has that voltage"""
    slope_ohm: float
    """its dynamic resistance there"""
    spread_v: float = 0.0
    """how far a specimen lies from that, V"""


class Bipolar(_Element, tag="bipolar"):
    """A bipolar transistor: base `a`, emitter `b`, collector."""

    collector: str
    """the end of its collector"""
    gain: Range
    """current gain"""
    points: tuple[tuple[float, float], tuple[float, float]]
    """base-emitter voltage over emitter current, (A, V) each"""
    type: Literal["npn", "pnp"] = "npn"
    """npn or pnp"""
    spread_v: float = 0.03
    """how far a specimen's base-emitter voltage lies from the typical one, V"""
    collector_ohm: float = 0.5
    """in series with its collector: what the saturation voltage rises with"""


class Fet(_Element, tag="fet"):
    """An enhancement field-effect transistor: gate `a`, source `b`, drain."""

    drain: str
    """the end of its drain"""
    points: tuple[tuple[float, float], tuple[float, float]]
    """on-resistance over gate voltage, (V, ohm) each"""
    type: Literal["n", "p"] = "n"
    """n or p channel"""
    spread_v: float = 0.3
    """how far a specimen's threshold lies from the typical one"""
    most_gate_v: float = 20.0
    """most voltage between gate and source, V"""


class Led(_Element, tag="led"):
    """A diode that is meant to be seen."""

    points: tuple[tuple[float, float], tuple[float, float]]
    """two points of its typical curve, (A, V) each"""
    spread_v: float
    """how far the forward voltage of a specimen lies from the typical one, V"""
    wished_a: float
    """the current that is wished for, A"""
    most_a: float
    """the current that it bears, A"""
    visible_a: float
    """below this it can hardly be seen by daylight"""
    intensity_cd: float
    """typical luminous intensity at `intensity_at_a`; proportional to current below that"""
    intensity_at_a: float
    """the current at which that holds, A"""


class Opto(_Element, tag="opto"):
    """The LED of an optocoupler or an input transistor's junction: what switches a module's input."""

    points: tuple[tuple[float, float], tuple[float, float]]
    """two points of its typical curve, (A, V) each"""
    spread_v: float
    """how far the forward voltage of a specimen lies from the typical one, V"""
    on_a: float
    """the current at which it surely switches, A"""
    off_a: float
    """the current at which it surely does not, A"""
    most_a: float
    """the current that it bears, A"""


class Switch(_Element, tag="switch"):
    """A contact that people or things open and close."""

    ohm: float = 0.1
    """its resistance when closed, Ω"""
    opposite: str = ""
    """the contact that is closed while this one is open: of a change-over"""


class Track(_Element, tag="track"):
    """A potentiometer's track from `a` to `b`; its wiper stands anywhere on it."""

    wiper: str
    """the end of its wiper"""
    ohm: float
    """the whole track, Ω"""
    tolerance: float = 0.2
    """of the whole track, as a share"""
    most_w: float = 0.0
    """what the whole track bears; 0 where nobody knows"""


class Varies(_Element, tag="varies"):
    """A resistor that senses: by light, heat, force or moisture it lies anywhere between two values."""

    least_ohm: float
    """the least, Ω"""
    most_ohm: float
    """the most, Ω"""
    when_least: str = ""
    """what makes it least: "bright light" """
    when_most: str = ""
    """what makes it most"""
    watt_per_kelvin: float = 0.0
    """in still air: so much power warms it by a kelvin; 0 where that does not matter"""


class Talks(_Element, tag="talks"):
    """An output of the part: it holds the lead `a` high (towards the lead
    `b`) or low (towards the lead `low`)."""

    low: str
    """its ground"""
    high_ohm: Range
    """inner resistance when high, Ω"""
    low_ohm: Range
    """inner resistance when low, Ω"""
    high_drop_v: float = 0.0
    """how far its high stays below its supply"""
    most_v: float = 0.0
    """its high where the part has a regulator of its own, whatever its
    supply; 0 where it follows the supply"""


class Coil(_Element, tag="coil"):
    """A winding: a resistance that goes on driving its current when it is switched off."""

    ohm: Range
    """its resistance, Ω"""
    henry: float
    """its inductance, H"""
    clamped: bool = False
    """the part itself carries a diode across it"""


class Motor(_Element, tag="motor"):
    """A brushed motor: what it draws between its leads, turning and stalled."""

    usual_a: float
    """what it draws turning, A"""
    stall_a: float
    """what it draws stalled, A"""
    volts: float
    """at which these hold"""
    clamped: bool = False
    """the part itself carries a diode across it"""


class Load(_Element, tag="load"):
    """What a part draws from the supply between its leads `a` and `b`, in amperes."""

    usual_a: float
    """usually, A"""
    worst_a: float
    """at worst, A"""
    reason: str = ""
    """when the worst case happens: "stalled" """
    times: float = 1.0
    """so many of them; both currents are those of one (and of all, once the part is made)"""

    def __post_init__(self) -> None:
        if self.times != 1:
            for name in ("usual_a", "worst_a"):
                msgspec.structs.force_setattr(self, name, getattr(self, name) * self.times)
            msgspec.structs.force_setattr(self, "times", 1.0)


Element = (
    Resistor
    | Diode
    | Zener
    | Bipolar
    | Fet
    | Led
    | Opto
    | Switch
    | Track
    | Varies
    | Talks
    | Coil
    | Motor
    | Load
)
