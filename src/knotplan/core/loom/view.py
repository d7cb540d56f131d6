"""What the loom is asked to show: the lens, the selection, and what follows for the pins."""

from typing import Literal

from msgspec import Struct

from knotplan.core.fit import Fit, fits
from knotplan.core.report import Report

Lens = Literal["fit", "load"]
Kind = Literal["", "part", "lead", "pin", "tie"]


class Selection(Struct, frozen=True):
    """One thing in the plan."""

    kind: Kind = ""
    id: str = ""

    @property
    def lead(self) -> str:
        """The lead that pins answer to, for a lead or the tie of a lead."""
        return self.id if self.kind == "lead" else self.id.partition("~")[0] if self.kind == "tie" else ""


class LoomView(Struct, frozen=True):
    """Lens and selection, with the answers of the pins where a lead is selected."""

    lens: Lens = "fit"
    selection: Selection = Selection()
    answers: dict[str, Fit] = {}


def look(report: Report, lens: Lens, selection: Selection) -> LoomView:
    """The view of a report through a lens, with every pin's answer to a selected lead."""
    lead = selection.lead
    asked = lens == "fit" and lead and report.circuit.lead(lead) is not None
    answers = {f.contact: f for f in fits(report.circuit, lead)} if asked else {}
    return LoomView(lens, selection, answers)
