"""What each lead needs, as its tie is meant to meet it."""

from msgspec.structs import replace

from knotplan.catalog.board.function import ANY
from knotplan.catalog.part.needs import (
    Bus,
    Driven,
    Feed,
    Gives,
    Ground,
    Need,
    Output,
    Pulse,
    Stream,
    Supply,
    Switched,
)
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.circuit.nets import Nets
from knotplan.core.circuit.supplies import Supplies
from knotplan.core.circuit.ties import Ties
from knotplan.core.memory.memory import Memory
from knotplan.core.memory.question import question
from knotplan.core.plan.beads import SeriesResistor
from knotplan.core.plan.document import Tie, split

SWITCHING = {"sink": ("low",), "source": ("high",), "bridge": ("bridge", "low", "high")}
"""functions that switch the current of a load, and which ways each can do it"""


class Needs:
    """Needs of leads, with what is tied taken into account."""

    def __init__(self, memory: Memory, contacts: Contacts, ties: Ties, nets: Nets, supplies: Supplies):
        self.memory = memory
        memory.about(self)
        self._contacts, self._ties, self._nets, self._supplies = contacts, ties, nets, supplies

    @question
    def of(self, lead: str) -> Need:
        """The alternative of a lead's needs that its tie is meant to meet (the first when untied)."""
        return self.wished(lead, self._meant(lead))

    def pulses(self, lead: str) -> Pulse | None:
        """The alternative of a lead that is pulses, as its maker wants them; nothing where it takes none."""
        spec = self._contacts.lead(lead)
        own = next((n for n in spec.needs if isinstance(n, Pulse)), None) if spec else None
        wished = self.wished(lead, own) if own is not None else None
        return wished if isinstance(wished, Pulse) else None

    def wish(self, lead: str, hertz: float) -> float:
        """What a tie keeps of a frequency that is asked for: nothing where the part has it by itself."""
        spec = self._contacts.lead(lead)
        usual = spec.needs[0] if spec is not None else None
        return 0.0 if isinstance(usual, Pulse) and usual.frequency_hz == hertz else hertz

    def asked(self, lead: str) -> tuple[Need, ...]:
        """The alternatives that are left: where the maker wants pulses, those alone."""
        spec, tie = self._contacts.lead(lead), self._ties.of(lead)
        needs = spec.needs if spec is not None else ()
        pulses = tuple(n for n in needs if isinstance(n, Pulse)) if tie is not None and tie.hertz else ()
        return pulses or needs

    def wished(self, lead: str, need: Need) -> Need:
        """With the frequency that the maker wants, where the tie says one."""
        tie = self._ties.of(lead)
        return (
            replace(need, frequency_hz=tie.hertz)
            if tie is not None and tie.hertz and isinstance(need, Pulse)
            else need
        )

    def _meant(self, lead: str) -> Need:
        spec = self._contacts.lead(lead)
        assert spec is not None, lead
        tie = self._ties.of(lead)
        if tie is None:
            return spec.needs[0]
        pin = self._contacts.pin(tie.to)
        if pin is not None and pin.kind != "contact":
            kind = {"supply": Supply, "ground": Ground}.get(pin.kind)
            if kind is None:
                able = next((SWITCHING[f] for f in pin.functions if f in SWITCHING), ())
                signals = [n for n in spec.needs if not isinstance(n, Supply | Ground)]
                if self._steps(lead):
                    signals.sort(key=lambda n: not isinstance(n, Output))
                elif tie.hertz:  # the maker wants pulses
                    signals.sort(key=lambda n: not isinstance(n, Pulse))
                meant = (n for n in signals if (isinstance(n, Switched) and n.by in able) == bool(able))
                return next(meant, (signals or spec.needs)[0])
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        if pin is not None:
            kind = (
                Ground if self._nets.is_ground(f"{split(tie.to)[0]}.{self._contacts.via(tie.to)}") else Supply
            )
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        given = self._contacts.lead(tie.to)
        if given is not None:
            kind = Supply if isinstance(given.needs[0], Gives) else type(given.needs[0])
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        return next((n for n in spec.needs if isinstance(n, Feed)), spec.needs[0])

    def _steps(self, lead: str) -> bool:
        """An input of a hub whose output is an end of a stepper's winding: it is switched from step to step,
        and wants no pulses of its own."""
        part_id, name = split(lead)
        hub = self._contacts.owner(lead)
        outputs = [out for given, out in hub.channels if given == name] if isinstance(hub, Part) else []
        held = [t for out in outputs for t in self._ties.at.get(f"{part_id}.{out}", ())]
        return any(
            isinstance(motor := self._contacts.owner(t.lead), Part) and motor.facts.stepper is not None
            for t in held
            if split(t.lead)[0] != part_id
        )

    def turned(self, lead: str) -> bool:
        """The part is tied the other way round: the lead, or its other end, has what the other one usually
        has."""
        part_id, name = split(lead)
        part = self._contacts.owner(lead)
        if not isinstance(part, Part) or name not in part.other_end:
            return False
        ends = [end for end in (name, part.other_end[name]) if self._ties.of(f"{part_id}.{end}") is not None]
        return any(
            part.leads[end].needs.index(self._meant(f"{part_id}.{end}")) >= part.own_needs(end)
            for end in ends
        )

    def required(self, lead: str) -> bool:
        """The part cannot do what it is meant to without this lead."""
        spec = self._contacts.lead(lead)
        return spec is not None and (spec.required or bool(self.called_for_by(lead)))

    def called_for_by(self, lead: str) -> str:
        """The contact of a hub whose use makes this lead necessary, if that is why."""
        part_id, name = split(lead)
        hub = self._contacts.owner(lead)
        calling = hub.calling.get(name, ()) if isinstance(hub, Part) else ()
        return next((x for x in (f"{part_id}.{n}" for n in calling) if x in self._ties.at), "")

    def drives(self, lead: str) -> bool:
        """The lead is driven by what it is tied to."""
        need = self.of(lead)
        return isinstance(need, Driven) or (isinstance(need, Bus) and need.driven)

    def driven_over(self, tie: Tie) -> bool:
        """The lead is driven by the pin that this tie leads to; a line with data both
        ways is only heard over one of two."""
        if not self.drives(tie.lead):
            return False
        need, pin = self.of(tie.lead), self._contacts.pin(tie.to)
        if not (isinstance(need, Bus) and need.role == "mosi" and pin is not None):
            return True
        jobs = pin.jobs("spi")
        if any(job.instance == ANY for job in jobs):
            return tie == self._spoken_over(tie.lead)
        channels = {job.channel for job in jobs}
        return "miso" not in channels or "mosi" in channels

    def _spoken_over(self, lead: str) -> Tie | None:
        """Of a line for data both ways at two pins of any function: the tie with the resistor is the one that
        is spoken over, else the first."""
        ties = [t for t in self._ties.at.get(lead, ()) if t.lead == lead]
        damped = (t for t in ties if any(isinstance(b, SeriesResistor) for b in t.beads))
        return next(damped, self._ties.of(lead))

    def levels(self, lead: str) -> tuple[float | None, float | None]:
        """(least high, most low) in volts that a lead takes; shares are of
        the part's own supply at its highest."""
        need = self.of(lead)
        if not isinstance(need, Output | Pulse | Stream | Bus):
            return None, None
        high, low = need.high_v, None if isinstance(need, Bus) else need.low_v
        own = self._supplies.origin(f"{split(lead)[0]}.{need.of}") if need.of else None
        if own is not None:
            high = need.high_share * own.volts.max if need.high_share else high
            low = need.low_share * own.volts.min if not isinstance(need, Bus) and need.low_share else low
        return high, low
