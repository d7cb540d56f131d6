"""Every part of the catalogue: whole, searchable, and what a maker needs to know of it."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.catalog.part.check import faults, kind_faults
from knotplan.catalog.part.needs import Ground, Supply, Switched
from knotplan.catalog.search import found
from knotplan.core.drawing.palette import CORDS
from tests.conftest import lay, look_at

CATALOG = shipped()
PARTS = CATALOG.part_ids()


@pytest.mark.parametrize("part_id", PARTS)
def test_nothing_in_a_part_file_disagrees(part_id: str) -> None:
    assert kind_faults(CATALOG.kind(part_id)) == []


@given(st.data())
@settings(max_examples=200, deadline=None)
def test_any_choice_of_parameters_makes_a_sound_part(data: st.DataObject) -> None:
    kind = CATALOG.kind(data.draw(st.sampled_from(PARTS)))
    chosen = {n: data.draw(st.sampled_from(p.choices)) for n, p in kind.params.items() if p.choices}
    assert faults(kind.make(chosen)) == []


@pytest.mark.parametrize("part_id", PARTS)
def test_what_people_call_it_and_usual_cords(part_id: str) -> None:
    part = CATALOG.part(part_id, {})
    assert len(set(part.words)) >= 3
    assert all(lead.cord in CORDS for lead in part.leads.values())


@pytest.mark.parametrize("part_id", PARTS)
def test_what_is_fed_has_a_way_back(part_id: str) -> None:
    """Current that comes in over a supply lead leaves over a ground, or over
    something that switches it to ground."""
    part = CATALOG.part(part_id, {})
    needs = [n for lead in part.leads.values() for n in lead.needs]
    if any(isinstance(n, Supply) and not n.signal for n in needs):
        assert any(
            isinstance(n, Ground) or (isinstance(n, Switched) and n.by in ("low", "bridge")) for n in needs
        )


@pytest.mark.parametrize(
    ("asked", "part_id"),
    [
        ("more pins", "port-expander"),
        ("step-down", "buck-converter"),
        ("horn", "relay-module"),
        ("dusk", "light-resistor"),
        ("gps", "positioning-receiver"),
        ("distance", "echo-ranger"),
        ("same address", "bus-switch"),
        ("4 relays", "relay-module"),
        ("strip", "pixel-strip"),
        ("water", "pump"),
        ("driven either way", "dc-motor"),
        ("i2c data", "eeprom"),
        ("pulses", "micro-servo"),
        ("metal servo", "micro-servo"),
        ("h-bridge", "motor-bridge"),
        ("battery", "cell-pack"),
    ],
)
def test_a_part_is_found_by_what_people_call_it_and_by_what_it_does(asked: str, part_id: str) -> None:
    assert part_id in {f.offer.part for f in found(CATALOG.offers(), asked)}


def test_every_usual_kind_is_offered_by_itself() -> None:
    texts = [o.text for o in CATALOG.offers()]
    assert len(set(texts)) == len(texts) >= 100
    assert {
        "Green LED",
        "Relay module – 8 relays, inputs active low",
        "Coil driver – 4-way Darlington sink driver",
    } <= set(texts)


@pytest.mark.parametrize("part_id", CATALOG.part_ids())
def test_the_remedies_of_an_untied_lead_settle_it_and_tie_it_right(part_id: str) -> None:
    """A 12 V solenoid is fed from 12 V, not from whatever is at hand."""
    report = look_at(lay("bowline-40", {"X": part_id}, {}))
    for finding in (f for f in report.findings if f.rule == "lead-untied"):
        for remedy in finding.remedies:
            after = look_at(remedy.apply(report.circuit.plan)).findings
            assert finding.key not in {f.key for f in after}, remedy.title
            assert not {"need-unmet", "supplies-exchanged", "uart-crossed"} & {f.rule for f in after}, (
                remedy.title
            )
