"""What has to hold of any plan, whatever was done to it."""

import json
from typing import Any

import msgspec
from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import Report
from knotplan.core.drawing.loom.picture import picture
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.drawing.loom.view import Selection, look
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.match.fit import fits
from knotplan.core.plan.document import Plan
from knotplan.core.plan.validity.faults import faults
from knotplan.core.text.buses import overview
from knotplan.core.text.pin_table import pin_rows
from knotplan.core.text.timing import describe
from knotplan.core.timing.lanes import lanes
from knotplan.exchange.answers.check import answer
from knotplan.exchange.exports import EXPORTS
from knotplan.exchange.exports.export import CannotExportError
from knotplan.exchange.plan_file import dumps, loads

FAILED = ("rule-failed", "engine-failed")


def plain(plan: Plan) -> tuple[Plan, Any]:
    """A plan that can be compared: a board is equal to itself only, its values are compared in its place."""
    return replace(plan, carried=None), msgspec.to_builtins(plan.carried)


def opens_again(plan: Plan, catalog: Catalog) -> None:
    """What was saved can be read, and is the same plan."""
    assert list(faults(plan, catalog)) == []
    again = loads(dumps(plan), catalog)
    assert plain(again) == plain(plan)
    assert dumps(again) == dumps(plan)


def analysed(plan: Plan, catalog: Catalog) -> Report:
    """The report; no check of it failed."""
    report = analyse(plan, catalog)
    assert not [f.message for f in report.findings if f.rule in FAILED]
    return report


def drawn_and_handed_over(report: Report) -> None:
    """Everything that is drawn and written of a report."""
    c = report.circuit
    picture(report, lay_out(c), look(report, "load", Selection()), LIGHT)
    for lead in c.contacts.leads()[:20]:
        fits(c, lead)
    overview(report)
    lanes(c)
    pin_rows(c)
    for part in list(c.parts)[:20]:
        describe(report, part)
    json.dumps(msgspec.to_builtins(answer(report)), allow_nan=False)
    for export in EXPORTS:
        try:
            assert export.make(report, "")
        except CannotExportError as error:  # not every scheme names every pin; it says which
            assert str(error)
