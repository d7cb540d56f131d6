"""What `knotplan wire --format json` prints."""

from collections.abc import Mapping, Sequence

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.wiring.slips import Slip
from knotplan.core.wiring.state import State
from knotplan.core.wiring.steps import Step
from knotplan.core.wiring.told import Replug


class ReplugAnswer(Struct, frozen=True):
    """Something that has to be plugged otherwise than it is."""

    tasks: list[str]
    """the tasks that it settles"""
    do: str
    """what to do"""
    gone: bool
    """it is only to be taken away"""


class NeighbourAnswer(Struct, frozen=True):
    """A hole beside the one that is meant."""

    contact: str
    """its id"""
    title: str
    """all its names"""


class HarmAnswer(Struct, frozen=True):
    """A slip by one hole that does harm."""

    contact: str
    """the wrong hole"""
    why: str
    """what would happen"""


class StepAnswer(Struct, frozen=True):
    """One step at the bench."""

    task: str
    """its id, the same as long as it is the same thing to do"""
    stage: str
    """the stage of the work that it belongs to"""
    group: str
    """the heading that it stands under"""
    title: str
    """in few words"""
    do: str
    """what to do, whole"""
    state: str
    """open, done, changed or wrong"""
    lead: str
    """the lead that it is about, or empty"""
    to: str
    """the contact into which it goes, or empty"""
    cord: str
    """the cord's colour, or empty"""
    where: str
    """the hole, by counting"""
    neighbours: list[NeighbourAnswer]
    """the holes beside it"""
    harm: list[HarmAnswer]
    """slips that do harm; only with --slips"""


class WireAnswer(Struct, frozen=True):
    """The way from the plan to the bench."""

    replug: list[ReplugAnswer]
    """what is plugged, and has to be plugged otherwise"""
    steps: list[StepAnswer]
    """every step in its order"""


def answer(
    c: Circuit,
    steps: Sequence[Step],
    state: State,
    replug: Sequence[Replug],
    harm: Mapping[str, Sequence[Slip]],
) -> WireAnswer:
    """Every step, with what is done."""
    return WireAnswer(
        replug=[ReplugAnswer(list(r.tasks), r.do, r.gone) for r in replug],
        steps=[
            StepAnswer(
                task=s.task,
                stage=s.stage,
                group=s.group,
                title=s.title,
                do=s.do,
                state=state.mark(s.task),
                lead=s.lead,
                to=s.to,
                cord=s.colour,
                where=s.where.words if s.where else "",
                neighbours=[NeighbourAnswer(n, c.titles.full(n)) for n in s.neighbours],
                harm=[HarmAnswer(x.contact, x.why) for x in harm.get(s.task, ())],
            )
            for s in steps
        ],
    )
