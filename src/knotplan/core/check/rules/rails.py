"""The rule about rails that beads lead to."""

from collections.abc import Iterator

from knotplan.core.check.asked import from_circuit
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import railed
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import ties
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Bead, bead_name, rails_of
from knotplan.core.plan.document import Tie
from knotplan.core.plan.remedy import Remedy, remedy


@rule(
    "bead-loose",
    "Bead that leads to no supply",
    "stop",
    "A pull-up, a clamp or a level shifter works only from a rail that carries a voltage; without one it "
    "does nothing.",
    "Kirchhoff's laws",
    each=ties,
)
def bead_loose(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    for at, bead in enumerate(tie.beads):
        dead = [rail for _, rail in rails_of(bead) if not rail or c.supplies.origin(rail) is None]
        if dead:
            where = (
                f"leads to {c.titles.full(dead[0])}, which carries no voltage"
                if dead[0]
                else "is not joined to a rail yet"
            )
            yield Observation(
                f"The {bead_name(bead)} in {c.titles.of(tie.lead)} {where}.",
                (tie.lead,),
                remedies=from_circuit(_led, tie, at, bead),
                severity=None if dead[0] else "to-do",
            )


def _led(c: Circuit, tie: Tie, at: int, bead: Bead) -> Iterator[Remedy]:
    led = railed(c, tie, bead)
    rails = [rail for _, rail in rails_of(led)]
    if led != bead and all(rail and c.supplies.origin(rail) for rail in rails):
        where = " and ".join(dict.fromkeys(c.titles.full(rail) for rail in rails))
        yield remedy(f"Lead it to {where}", edits.change_bead, tie.id, at, led)
