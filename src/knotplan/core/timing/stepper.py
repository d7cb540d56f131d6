"""Steppers: sequences, steps per turn as exact fractions, speeds, ramps, and what
a coil list in the wrong order does."""

import cmath
import math
from collections.abc import Sequence
from fractions import Fraction
from typing import Literal, get_args

from msgspec import Struct

from knotplan.catalog.part.facts import Stepper
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Tie, split

Mode = Literal["wave", "full", "half"]
MODES: tuple[Mode, ...] = get_args(Mode)
SEQUENCES: dict[Mode, tuple[tuple[int, int, int, int], ...]] = {
    "wave": ((1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, 0, 1)),
    "full": ((1, 1, 0, 0), (0, 1, 1, 0), (0, 0, 1, 1), (1, 0, 0, 1)),
    "half": (
        (1, 0, 0, 0),
        (1, 1, 0, 0),
        (0, 1, 0, 0),
        (0, 1, 1, 0),
        (0, 0, 1, 0),
        (0, 0, 1, 1),
        (0, 0, 0, 1),
        (1, 0, 0, 1),
    ),
}
"""which of the four coils are on, in stepping order; of two windings the
ends are taken as coils: A, B, A', B'"""
COILS_ON: dict[Mode, float] = {"wave": 1.0, "full": 2.0, "half": 1.5}
"""on average"""
TORQUE: dict[Mode, float] = {"wave": 1.0, "full": math.sqrt(2), "half": 1.0}
"""least torque of the cycle against one coil alone: two coils at a right angle add up to √2"""
SAFE = 0.8
"""of the start-stop rate: where a motor is planned to run when nobody says"""


def steps_per_turn(s: Stepper, mode: Mode = "full") -> Fraction:
    """Exact: 360 / step angle * driven teeth / driving teeth, doubled in half steps.

    >>> float(steps_per_turn(Stepper(11.25, (8910, 567424))))
    2037.8864197530863
    """
    full = Fraction(360) / Fraction(str(s.step_degrees)) * Fraction(s.gear_teeth[1], s.gear_teeth[0])
    return full * 2 if mode == "half" else full


class Rounding(Struct, frozen=True):
    """What is lost by counting a turn as a whole number of steps."""

    whole: int
    exact: Fraction
    degrees_per_turn: float
    """too far in each turn"""

    @property
    def turns_to_one_step(self) -> float:
        """After so many turns it is one step off; infinite where the count is exact."""
        off = abs(float(self.whole - self.exact))
        return 1 / off if off else math.inf


def rounding(s: Stepper, mode: Mode, whole: int | None = None, micro: int = 1) -> Rounding:
    """The error of a whole number of steps for a turn: of the nearest one, where none is given. `micro`: into
    how many a driver divides each step.

    >>> round(rounding(Stepper(11.25, (8910, 567424)), "full", 2048).degrees_per_turn, 2)
    1.79
    """
    exact = steps_per_turn(s, mode) * micro
    taken = round(exact) if whole is None else whole
    return Rounding(taken, exact, float((taken - exact) / exact * 360))


def step_hz(s: Stepper, mode: Mode, rpm: float) -> float:
    """Steps a second: rpm * steps per turn / 60; a step's period is its inverse."""
    return rpm * float(steps_per_turn(s, mode)) / 60


def full_hz(s: Stepper, rpm: float) -> float:
    """The same in full steps, by which motors are rated."""
    return step_hz(s, "full", rpm)


def rpm_at(s: Stepper, hz: float) -> float:
    """Turns a minute at a rate of full steps."""
    return hz * 60 / float(steps_per_turn(s, "full"))


def usual_rpm(s: Stepper) -> float:
    """A speed that it follows without a ramp, of two figures."""
    top = rpm_at(s, SAFE * s.start_stop_hz) if s.start_stop_hz else 10.0
    scale = float(10 ** (1 - math.floor(math.log10(top))))
    return math.floor(top * scale) / scale


def ramp_s(s: Stepper, rpm: float) -> float:
    """How long it takes from the start-stop rate to a speed: (f - f_0) /
    acceleration; 0 where no ramp is needed."""
    over = full_hz(s, rpm) - s.start_stop_hz
    return over / s.ramp_hz_per_s if over > 0 and s.ramp_hz_per_s else 0.0


class Turn(Struct, frozen=True):
    """What a motor does when its coils are switched in some order."""

    degrees: float
    """electrical, in one cycle of the sequence: 360 is right, -360 is backwards"""
    does: Literal["turns", "turns backwards", "buzzes"]


def turn(order: Sequence[int], mode: Mode) -> Turn:
    """The field's way through one cycle, where `order[k]` is the place in stepping order of the k-th coil
    that a program switches. The coils lie a quarter of an electrical turn apart, fields add up as vectors;
    where the field vanishes or jumps by half a turn, the rotor does not know which way to go.

    >>> turn((0, 1, 2, 3), "full").does, turn((0, 2, 1, 3), "full").does, turn((3, 2, 1, 0), "wave").does
    ('turns', 'buzzes', 'turns backwards')
    """
    fields = [sum(1j ** order[k] for k, on in enumerate(row) if on) for row in SEQUENCES[mode]]
    if any(abs(f) < 1e-9 for f in fields):
        return Turn(0.0, "buzzes")
    whole = 0.0
    for a, b in zip(fields, [*fields[1:], fields[0]], strict=True):
        jump = math.degrees(cmath.phase(b / a))
        if abs(abs(jump) - 180) < 1e-6:
            return Turn(0.0, "buzzes")
        whole += jump
    whole = round(whole)
    if whole == 360:
        return Turn(whole, "turns")
    return Turn(whole, "turns backwards" if whole == -360 else "buzzes")


class Wired(Struct, frozen=True):
    """A stepper and the four contacts that switch its coils."""

    part: str
    leads: tuple[str, ...]
    """in stepping order"""
    contacts: tuple[str, ...]
    """what each of them is tied to"""
    inputs: tuple[str, ...]
    """the contact that a program sets for each of them: the driver's input is tied to it"""
    natural: tuple[int, ...]
    """the places in stepping order, in the order of the driver's contacts: (0,
    1, 2, 3) where the wires lie in order"""

    @property
    def pairs(self) -> tuple[int, ...]:
        """The places in the order of programs that list both ends of a winding one after the other."""
        return (0, 2, 1, 3)


def wired(c: Circuit, part_id: str) -> Wired | None:
    """How a stepper's coils are wired to a driver that has an input for each;
    nothing for a step and direction driver."""
    facts = c.parts[part_id].facts.stepper
    if facts is None or len(facts.order) != 4:
        return None
    leads = [f"{part_id}.{name}" for name in facts.order]
    ties = [c.ties.of(lead) for lead in leads]
    if any(t is None for t in ties):
        return None
    contacts = [t.to for t in ties if t is not None]
    inputs = [_input(c, contact) for contact in contacts]
    if not all(inputs) or len(set(inputs)) != 4:
        return None
    names = list(c.contacts.pins)
    natural = sorted(range(4), key=lambda k: names.index(contacts[k]))
    return Wired(part_id, tuple(leads), tuple(contacts), tuple(inputs), tuple(natural))


def _input(c: Circuit, contact: str) -> str:
    """The contact that a program sets, behind the driver's input."""
    lead = c.contacts.lead(contact)
    name = lead.offers.driven_by if lead is not None and lead.offers is not None else ""
    tie = c.ties.of(f"{split(contact)[0]}.{name}") if name else None
    return tie.to if tie is not None else ""


def driver_of(c: Circuit, part_id: str) -> str:
    """The step and direction driver to which a stepper's windings are tied, if they are."""
    ties = [t for name in c.parts[part_id].leads if (t := c.ties.of(f"{part_id}.{name}")) is not None]
    owners = {split(t.to)[0] for t in ties}
    if len(owners) != 1:
        return ""
    owner = owners.pop()
    return owner if owner in c.parts and {"step", "dir"} <= set(c.parts[owner].leads) else ""


def microsteps(c: Circuit, driver: str) -> int:
    """Into how many a step and direction driver divides each full step, as its pads are set."""
    return max(1, round(c.placed[driver].setting("microsteps", 1.0)))


def asked_mode(c: Circuit, part_id: str) -> Mode:
    """The sequence that the program uses: full steps where nobody says."""
    mode = c.placed[part_id].settings.get("mode", "full")
    return next((m for m in MODES if m == mode), "full")


def asked_rpm(c: Circuit, part_id: str) -> float:
    """Turns a minute that the plan asks for."""
    facts = c.parts[part_id].facts.stepper
    return c.placed[part_id].setting("rpm", usual_rpm(facts) if facts else 0.0, 0.0)


def input_ties(c: Circuit, w: Wired) -> list[Tie]:
    """The ties of the driver's inputs, in stepping order."""
    return [
        t
        for contact in w.contacts
        if (lead := c.contacts.lead(contact)) is not None
        and lead.offers is not None
        and (t := c.ties.of(f"{split(contact)[0]}.{lead.offers.driven_by}")) is not None
    ]
