"""Faults of each kind, planted in each scene: Bring-up and Wire-up together name nearly all of them."""

from collections import Counter

import pytest
from tools.measure_bring_up import chosen, heard_of, tried

from knotplan.catalog.load import shipped
from knotplan.core.bringup.held import held
from knotplan.core.check.analysis import analyse
from knotplan.examples import SCENES, example

OF_NO_CORD = {"bus-off", "address-unexpected"}
"""what is in the system, or in no plan: the message says what to do"""


def test_faults_of_each_kind_in_each_scene_are_named() -> None:
    found = [f for scene in SCENES if scene != "organ-shutters" for f in tried(scene, each=2, seed=5)]
    kinds = Counter(f.trouble.kind for f in found)
    assert len(kinds) > 15 and len(found) > 90
    missed = [f"{f.scene} {f.trouble.id}" for f in found if not f.by]
    assert len(missed) <= 0.05 * len(found), missed
    assert sum(f.by == "bring-up" for f in found) > 30


@pytest.mark.parametrize("scene", [s for s in SCENES if s != "organ-shutters"])
def test_every_difference_leads_somewhere(scene: str) -> None:
    """To an edit, to steps of the plan, or to a line."""
    catalog = shipped()
    report = analyse(example(scene, catalog), catalog)
    ties = {t.id for t in report.circuit.plan.ties}
    for k, trouble in enumerate(chosen(report, 1, 3)):
        for d in held(report, catalog, heard_of(report, catalog, trouble, k)).differences:
            assert set(d.look) <= ties, d
            leads = d.remedies or d.look or (d.spot is not None and d.spot.line)
            assert leads or d.gravity == "note" or d.kind in OF_NO_CORD, (trouble.id, d)
            for remedy in d.remedies:
                assert remedy.apply(report.circuit.plan) != report.circuit.plan, d
