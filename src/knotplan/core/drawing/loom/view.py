"""What the loom is asked to show: the lens, the selection, and what follows for the pins."""

from typing import Literal

from msgspec import Struct

from knotplan.catalog.part.needs import Gives
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Fit, fits, leads_for

Lens = Literal["fit", "volts", "load", "power-on", "sharing"]
Kind = Literal["", "part", "lead", "pin", "tie"]


class Selection(Struct, frozen=True):
    """One thing in the plan."""

    kind: Kind = ""
    id: str = ""
    of: str = ""
    """the lead of a selected tie"""
    others: tuple[str, ...] = ()
    """parts that are selected besides"""

    @property
    def parts(self) -> tuple[str, ...]:
        """All selected parts."""
        return (self.id, *self.others) if self.kind == "part" else ()

    @property
    def lead(self) -> str:
        """The lead that pins answer to, for a lead or the tie of a lead."""
        return self.id if self.kind == "lead" else self.of


class LoomView(Struct, frozen=True):
    """Lens and selection, with the answers of the pins where a lead is selected."""

    lens: Lens = "fit"
    selection: Selection = Selection()
    answers: dict[str, Fit] = {}


def look(report: Report, lens: Lens, selection: Selection) -> LoomView:
    """The view of a report through a lens, with the answers to what is selected."""
    return LoomView(lens, selection, _answers(report.circuit, selection) if lens == "fit" else {})


def _answers(c: Circuit, selection: Selection) -> dict[str, Fit]:
    """The pins' answers to a selected lead; to a selected pin or supply, those of the leads without a tie."""
    lead = c.contacts.lead(selection.lead) if selection.lead else None
    if lead is not None and not isinstance(lead.needs[0], Gives):
        return {f.contact: f for f in fits(c, selection.lead)}
    offer = selection.lead or (selection.id if selection.kind == "pin" else "")
    return {asked: answer for asked, answer in leads_for(c, offer) if asked not in c.ties.at} if offer else {}
