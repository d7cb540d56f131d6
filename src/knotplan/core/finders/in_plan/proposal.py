"""A question that a tie raises, with its inputs taken from the plan and the place for what is found."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Element
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.finders.finder import Found
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Bead, Capacitor, Clamp, Fuse, PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.written import show

Given = dict[str, tuple[float | str, str]]
"""input -> (value, where it comes from)"""


class Proposal(Struct, frozen=True):
    """A question that a tie raises."""

    finder: str
    tie: Tie
    about: str
    """what it is about, in the words of the plan"""
    given: Given
    bead: Bead | None = None
    """what the found value becomes, as a sample of its kind"""
    param: str = ""
    """the part's parameter that it becomes"""
    now_mm2: float = 0.0
    """copper of the cord as it is"""
    now_param: float = 0.0
    """the part's parameter as it is"""

    @property
    def values(self) -> dict[str, float | str]:
        """What is given to the finder, by input."""
        return {name: value for name, (value, _) in self.given.items()}

    @property
    def origins(self) -> dict[str, str]:
        """Where each given value comes from, in words."""
        return {name: origin for name, (_, origin) in self.given.items()}

    @property
    def now(self) -> float | None:
        """The value that is in the tie already."""
        at = self._at()
        return self.now_mm2 or self.now_param or None if at is None else _value(self.tie.beads[at])

    def _at(self) -> int | None:
        kind = type(self.bead)
        return next(
            (k for k, b in enumerate(self.tie.beads) if self.bead is not None and isinstance(b, kind)), None
        )

    def remedy(self, found: Found) -> Remedy | None:
        """The edit that puts the found value in; nothing where it is there, or has no place."""
        text = show(found.value, found.unit)
        if self.finder == "cord":
            return (
                None
                if self.now_mm2 >= found.value * (1 - 1e-9)
                else remedy(f"Take a cord of {text}", edits.set_cord, self.tie.id, None, found.value)
            )
        if self.param:
            if self.now == found.value:
                return None
            return remedy(
                f"Set it to {text}", edits.set_param, split(self.tie.lead)[0], self.param, found.value
            )
        if self.bead is None:
            return None
        if isinstance(self.bead, Clamp):
            return (
                remedy("Put a clamp diode in", edits.add_bead, self.tie.id, self.bead)
                if self._at() is None
                else None
            )
        if (
            isinstance(self.bead, Capacitor)
            and self.finder != "debounce"
            and (self.now or 0.0) >= found.value
        ):
            return None  # more does no harm
        at, bead = self._at(), _with_value(self.bead, found)
        steps = [
            Step(edits.add_bead, (self.tie.id, bead))
            if at is None
            else Step(edits.change_bead, (self.tie.id, at, bead))
        ]
        if self.finder == "divider" and not any(isinstance(b, PullDown) for b in self.tie.beads):
            steps.append(Step(edits.add_bead, (self.tie.id, PullDown(found.also[0][1], found.tolerance))))
        if at is not None and self.tie.beads[at] == bead and len(steps) == 1:
            return None
        return Remedy(
            f"{'Put' if at is None else 'Change it to'} {text}{' in' if at is None else ''}", tuple(steps)
        )


def _value(bead: Bead) -> float | None:
    return next(
        (v for name in ("ohm", "farad", "amps") if (v := getattr(bead, name, None)) is not None), None
    )


def _with_value(bead: Bead, answer: Found) -> Bead:
    """The sample with the found value."""
    match bead:
        case SeriesResistor():
            return SeriesResistor(answer.value, answer.tolerance, bead.rating_w)
        case PullUp(rail=rail):
            return PullUp(answer.value, answer.tolerance, rail=rail)
        case PullDown():
            return PullDown(answer.value, answer.tolerance)
        case Capacitor():
            return Capacitor(answer.value, answer.rating_v or bead.volts)
        case Fuse():
            return Fuse(answer.value)
    return bead


def elements_at(c: Circuit, tie: Tie) -> Iterator[Element]:
    """The elements that a tie's lead is an end of."""
    part_id, lead = split(tie.lead)
    for e in c.parts[part_id].elements.values():
        if lead in (e.a, e.b, getattr(e, "wiper", "")):
            yield e


def driven(c: Circuit, tie: Tie) -> Given | None:
    """What the pin that drives a tie gives."""
    pin = c.contacts.pin(tie.to)
    if pin is None or pin.kind != "io" or not pin.driver or c.supplies.rail_volts(tie.to) is None:
        return None
    driver, volts, where = (
        c.hardware.driver(tie.to),
        c.supplies.rail_volts(tie.to),
        f"catalogue, {c.titles.full(tie.to)}",
    )
    assert volts is not None
    return {
        "high": (volts.typ, where),
        "pin_a": (driver.recommended_a, where),
        "source_ohm": (driver.high_ohm.typ, where),
    }


def only(given: Given, *names: str) -> Given:
    """Those of the given inputs that a finder asks for."""
    return {n: given[n] for n in names}
