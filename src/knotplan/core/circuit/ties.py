"""The ties of a plan, by what they join."""

from collections.abc import Iterable, Iterator, Mapping

from knotplan.catalog.board.pin import Pin
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.memory.given import Given
from knotplan.core.memory.memory import Memory
from knotplan.core.memory.question import table, taken_over
from knotplan.core.plan.document import Tie

TIES = Given[str, Tie]("ties")


class Ties:
    """Which ties are at a contact, and which signal pins are held by ties."""

    def __init__(self, memory: Memory, ties: tuple[Tie, ...], contacts: Contacts):
        self.memory, self._contacts = memory, contacts
        memory.about(self)
        self.by_id = TIES.give(memory, {tie.id: tie for tie in ties})

    def __iter__(self) -> Iterator[Tie]:
        """All of them, in the order of the plan."""
        return iter(self.by_id.values())

    def others(self) -> list[Tie] | None:
        """While an edit is followed: the ties that are not as they were, as they were and as they are.
        Nothing where that is not known, or where their order has changed as well."""
        before, now = TIES.before(self.memory), dict(self.by_id.items())
        if before is None or [x for x in before if x in now] != [x for x in now if x in before]:
            return None
        old = [tie for tie in before.values() if now.get(tie.id) is not tie]
        return old + [tie for tie in now.values() if before.get(tie.id) is not tie]

    def in_order(self, ties: Iterable[Tie]) -> list[Tie]:
        """Some ties, as the plan has them."""
        wanted = {tie.id: tie for tie in ties}
        return [wanted[tie_id] for tie_id in self.by_id if tie_id in wanted]

    @table
    def at(self) -> dict[str, list[Tie]]:
        """The ties at each contact that has some. To look up: its own order means nothing."""
        known, others = Ties.at.known(self), self.others()
        if not known or others is None:
            at: dict[str, list[Tie]] = {}
            for tie in self:
                at.setdefault(tie.lead, []).append(tie)
                at.setdefault(tie.to, []).append(tie)
            return at
        return self._changed_at(known, others)

    def _changed_at(self, known: Mapping[str, list[Tie]], others: list[Tie]) -> dict[str, list[Tie]]:
        """By difference: only the contacts of ties that are not as they were."""
        at, ids = dict(known), {tie.id for tie in others}
        new = [self.by_id[tie_id] for tie_id in ids if tie_id in self.by_id]
        for contact in {end for tie in others for end in (tie.lead, tie.to)}:
            here = [tie for tie in at.pop(contact, ()) if tie.id not in ids]
            here += [tie for tie in new if contact in (tie.lead, tie.to)]
            if here:
                at[contact] = self.in_order(here)
        return at

    @table
    def _first(self) -> dict[str, Tie]:
        """The first tie of each lead that has one."""
        first: dict[str, Tie] = {}
        for tie in self:
            first.setdefault(tie.lead, tie)
        return first

    def of(self, lead: str) -> Tie | None:
        """The first tie of a lead."""
        return self._first.get(lead)

    def other_end(self, tie: Tie, contact: str) -> str:
        """The end of a tie that is not this contact."""
        return tie.to if contact == tie.lead else tie.lead

    @table
    def holders(self) -> dict[str, list[Tie]]:
        """The ties on each signal pin, of the board or of a hub: {contact: ties}."""
        ties: dict[str, list[Tie]] = {}
        others: set[str] = set()
        for tie in self:
            if tie.to in ties:
                ties[tie.to].append(tie)
            elif tie.to not in others:
                pin = self._contacts.pin(tie.to)
                if pin is not None and pin.kind == "io":
                    ties[tie.to] = [tie]
                else:
                    others.add(tie.to)
        return taken_over(ties, Ties.holders.known(self))

    @table
    def held(self) -> dict[str, Tie]:
        """Every tie on a signal pin, pin by pin, by its id."""
        return {tie.id: tie for ties in self.holders.values() for tie in ties}

    def on_pins(self) -> Iterator[tuple[str, Pin, Tie]]:
        """(contact, pin, tie) of every tie on a signal pin."""
        for contact, ties in self.holders.items():
            for tie in ties:
                yield contact, self._contacts.pins[contact], tie
