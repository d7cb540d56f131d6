"""What can be said of what the program does with a part: the fields of the Timing view."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.needs import Pulse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.timing import lightness, pixels, servo, stepper
from knotplan.core.timing.lanes import lanes
from knotplan.core.timing.lanes.measured import USUAL_M
from knotplan.core.timing.lanes.pulsed import HALF
from knotplan.core.timing.lanes.switched import on_off
from knotplan.core.timing.lanes.uarts import TEXT
from knotplan.core.timing.pulses import timer_of


class ProgramSetting(Struct, frozen=True):
    """One thing that the program decides."""

    key: str
    title: str
    value: float | str
    unit: str = ""
    least: float | None = None
    most: float | None = None
    choices: tuple[tuple[str, str], ...] = ()
    """(value, words)"""
    tip: str = ""
    part: str = ""
    """whose it is, where it is another part's: a driver's"""


LAW_WORDS = {"lightness": "evenly seen", "doubling": "doubling", "even": "even in time"}
LEVELS = 16.0


def program_settings(c: Circuit, part_id: str) -> list[ProgramSetting]:
    """What the program decides about a part, with what it is now."""
    return list(_program_settings(c, part_id))


def pulsed_leads(c: Circuit, part_id: str) -> list[str]:
    """The part's leads whose pulses a timer makes."""
    return [
        lead
        for name in c.parts[part_id].leads
        if isinstance(c.needs.of(lead := f"{part_id}.{name}"), Pulse) and timer_of(c, lead) is not None
    ]


def _program_settings(c: Circuit, part_id: str) -> Iterator[ProgramSetting]:
    yield from _of_pulses(c, part_id)
    if c.parts[part_id].facts.stepper is not None:
        yield from _of_stepper(c, part_id)
    yield from _of_data(c, part_id)
    if _switched(c, part_id):
        on, off = on_off(c, part_id)
        yield ProgramSetting("on_s", "On for", on, "s", 1e-9, 1e6, tip=SHOWN)
        yield ProgramSetting("off_s", "Off for", off, "s", 1e-9, 1e6, tip=SHOWN)
    yield from _of_measured(c, part_id)


SHOWN = "What the lane shows"


def _of_pulses(c: Circuit, part_id: str) -> Iterator[ProgramSetting]:
    """Where a servo stands, or how bright a light is and in which steps it gets there."""
    placed, s = c.placed[part_id], c.parts[part_id].facts.servo
    if s is not None:
        low, high = servo.ends(s)
        title, unit = ("Stands at", "°") if s.degrees else ("Turns at", "%")
        yield ProgramSetting("at", title, placed.setting("at", servo.middle(s)), unit, low, high, tip=SHOWN)
    elif pulsed_leads(c, part_id):
        yield ProgramSetting(
            "duty",
            "Share on",
            placed.setting("duty", HALF),
            "%",
            0.0,
            1.0,
            tip="Of the time, as the lane shows it",
        )
        yield ProgramSetting(
            "law",
            "Steps",
            str(placed.settings.get("law", "lightness")),
            choices=tuple(LAW_WORDS.items()),
            tip="By lightness as the eye sees it (CIE 1976), each twice the last, or evenly in time",
        )
        yield ProgramSetting(
            "levels",
            "How many steps",
            placed.setting("levels", LEVELS),
            "",
            2,
            256,
            tip="In the table for the program",
        )


def _of_stepper(c: Circuit, part_id: str) -> Iterator[ProgramSetting]:
    """How it is stepped, how fast, which way, and whether it is brought there slowly."""
    settings, driver = c.placed[part_id].settings, stepper.driver_of(c, part_id)
    if not driver:
        words = {"wave": "one coil", "full": "two coils", "half": "half steps"}
        yield ProgramSetting(
            "mode",
            "Steps",
            stepper.asked_mode(c, part_id),
            choices=tuple(words.items()),
            tip="The sequence of coils",
        )
    yield ProgramSetting(
        "rpm",
        "Turns a minute",
        stepper.asked_rpm(c, part_id),
        "",
        1e-3,
        1e5,
        tip="Of the shaft, behind its gears",
    )
    ways = (("forwards", "forwards"), ("backwards", "backwards"))
    yield ProgramSetting(
        "way", "Turns", str(settings.get("way", "forwards")), choices=ways, tip="Which way the sequence goes"
    )
    facts = c.parts[part_id].facts.stepper
    if facts is not None and facts.ramp_hz_per_s:
        yield ProgramSetting(
            "ramp",
            "Ramp",
            str(settings.get("ramp", "no")),
            choices=(("no", "none"), ("yes", "up to its speed")),
            tip="Whether the program brings it there slowly",
        )
    if driver:
        micro = c.placed[driver].setting("microsteps", 1.0)
        yield ProgramSetting(
            "microsteps", "Microsteps", micro, "", 1, 256, tip="As the driver's pads are set", part=driver
        )


def _of_data(c: Circuit, part_id: str) -> Iterator[ProgramSetting]:
    """What is sent."""
    facts, settings = c.parts[part_id].facts, c.placed[part_id].settings
    if facts.pixels is not None:
        yield ProgramSetting(
            "refresh",
            "Frames a second",
            pixels.asked_hz(c, part_id),
            "",
            0.1,
            1000,
            tip="What the program aims at",
        )
    if facts.uart is not None:
        yield ProgramSetting("text", "Says", str(settings.get("text", TEXT)), tip=SHOWN)
    if facts.spi is not None and facts.grid is None:
        yield ProgramSetting(
            "words",
            "Words in hex",
            str(settings.get("words", "")),
            tip="What the lane shows, parted by spaces",
        )


def _of_measured(c: Circuit, part_id: str) -> Iterator[ProgramSetting]:
    """What comes in, and what a program makes of it."""
    placed, radio = c.placed[part_id], c.parts[part_id].facts.radio
    if any(lane.part == part_id and lane.kind == "measured" for lane in lanes(c)):
        if radio is not None:
            yield ProgramSetting(
                "pulse", "Pulse", placed.setting("pulse", radio.middle_s), "s", 1e-6, 0.02, tip=SHOWN
            )
        else:
            yield ProgramSetting(
                "metres", "Distance", placed.setting("metres", USUAL_M), "m", 0.01, 100, tip=SHOWN
            )
    if radio is not None:
        tip = "For the mapping in the table"
        yield ProgramSetting(
            "low_s", "Measured at one end", placed.setting("low_s", radio.least_s), "s", 0, 10, tip=tip
        )
        yield ProgramSetting(
            "high_s", "Measured at the other", placed.setting("high_s", radio.most_s), "s", 0, 10, tip=tip
        )
        yield ProgramSetting("to_low", "Becomes, from", placed.setting("to_low", 0.0), "", -1e6, 1e6, tip=tip)
        yield ProgramSetting("to_high", "to", placed.setting("to_high", 255.0), "", -1e6, 1e6, tip=tip)


def _switched(c: Circuit, part_id: str) -> bool:
    """It has a lane that goes on and off."""
    return any(
        lane.part == part_id and lane.kind in ("relay", "level") and lane.wave.period_s for lane in lanes(c)
    )


def law_of(c: Circuit, part_id: str) -> lightness.Law:
    """How the steps of a part's brightness are spread."""
    text = c.placed[part_id].settings.get("law", "lightness")
    return next((x for x in lightness.LAWS if x == text), "lightness")


def levels_of(c: Circuit, part_id: str) -> int:
    """How many steps of brightness a light is given."""
    return max(2, min(256, round(c.placed[part_id].setting("levels", LEVELS))))
