"""Everyday edits, one of each kind, of a small bench and of a large one."""

from collections.abc import Iterator

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Capacitor, SeriesResistor
from knotplan.core.plan.document import Plan
from knotplan.examples import example
from knotplan.examples.organ_shutters import organ_shutters

Kinds = Iterator[tuple[str, Plan, Plan]]
"""(kind, plan, the plan after it)"""


def edits_of_demo() -> Kinds:
    plan = example("harbour-light", shipped())
    yield "tie moved", plan, edits.tie(plan, "flag.signal", "board.p24")
    yield "untied", plan, edits.untie(plan, "flag.signal")
    yield "bead's value", plan, edits.change_bead(plan, "lamp.anode", 0, SeriesResistor(220.0))
    yield "role", plan, edits.set_role(plan, "flag.signal", "pennant")
    yield "name", plan, edits.rename_part(plan, "flag", "Pennant")
    yield "part added", plan, edits.add_part(plan, "micro-servo", "Second flag")
    yield "part deleted", plan, edits.remove_part(plan, "flag")
    yield "parameter", plan, edits.set_param(plan, "quay", "count", 300.0)
    yield "cord", plan, edits.set_cord(plan, "flag.power", 2.0, 0.14)
    yield "colour", plan, edits.recolour(plan, "flag.signal", "green")


def edits_of_organ(hubs: int = 60) -> Kinds:
    plan = organ_shutters(hubs)
    lead, part = "shutter-01-01.signal", "shutter-01-01"
    free = edits.untie(plan, "shutter-01-02.signal")
    channel = next(t.to for t in plan.ties if t.lead == "shutter-01-02.signal")
    bead = edits.change_bead(plan, "rank-01.vplus", 0, Capacitor(470e-6, 10.0))
    yield "servo on another channel", free, edits.tie(free, lead, channel)
    yield "untied", plan, edits.untie(plan, lead)
    yield "bead's value", plan, bead
    yield "role", plan, edits.set_role(plan, lead, "louvre")
    yield "name", plan, edits.rename_part(plan, part, "Louvre")
    yield "part added", plan, edits.add_part(plan, "micro-servo", "One more")
    yield "part deleted", plan, edits.remove_part(plan, part)
    yield "parameter", plan, edits.set_param(plan, "wind-03", "amperes", 9.0)
    yield "cord", plan, edits.set_cord(plan, "rank-03.vplus", 1.0, 0.5)
    yield "colour", plan, edits.recolour(plan, lead, "green")
