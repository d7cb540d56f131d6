"""Describing a part: what the form shows and what the file says are the same thing."""

import msgspec
import pytest

from knotplan.catalog.load import Catalog, shipped
from knotplan.catalog.part.needs import Pulse, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.draft.part import AS_WRITTEN, PRESETS, LeadDraft, PartDraft, blank, compiled, from_tree
from knotplan.core.plan import edits
from knotplan.core.plan.document import CarriedPart, Plan
from knotplan.exchange import part_file, plan_file
from knotplan.exchange.part_file import PartFileError, dumps, loads
from knotplan.exchange.plan_file import PlanFileError

GAUGE = PartDraft(
    "Rain gauge",
    "tipping rain gauge",
    "sensor",
    "weather, water, tip",
    "",
    (
        LeadDraft("V+", "supply", 4.5, 6.0, "red"),
        LeadDraft("0 V", "ground", cord="black"),
        LeadDraft("TIP", "contact", cord="white"),
        LeadDraft("HEAT", "switched", 0.3, 5.0, "orange", False),
    ),
    0.02,
    0.15,
)


def test_a_blank_part_is_whole_already() -> None:
    kind = loads(dumps(compiled(blank())), "new-part")
    assert list(kind.make({}).leads) == ["vcc", "gnd", "out"]


def test_what_is_filled_in_comes_out() -> None:
    part = loads(dumps(compiled(GAUGE)), "rain-gauge").make({})
    assert part.words == ("weather", "water", "tip") and part.category == "sensor"
    assert part.leads["v"].needs == (Supply(4.5, 6.0),)
    assert part.elements["draws"].worst_a == 0.15 and not part.leads["heat"].required
    again = from_tree(compiled(GAUGE))
    assert [(x.title, x.need, x.low, x.high, x.cord, x.required) for x in again.leads] == [
        (x.title, x.need, x.low, x.high, x.cord, x.required) for x in GAUGE.leads
    ]


@pytest.mark.parametrize("part_id", shipped().part_ids())
def test_every_part_of_ours_passes_through_the_form_unchanged(part_id: str) -> None:
    tree = {k: v for k, v in shipped().kind(part_id).tree.items() if k != "id"}
    made = compiled(from_tree(tree))
    before, after = (loads(dumps(t), "copy").make({}) for t in (tree, made))
    assert msgspec.to_builtins(before) == msgspec.to_builtins(after)


@pytest.mark.parametrize("key", PRESETS)
def test_every_need_of_the_form_makes_a_sound_part(key: str) -> None:
    preset = PRESETS[key]
    lead = LeadDraft("X", key, preset.low[1] if preset.low else 0.0, preset.high[1] if preset.high else 0.0)
    tree = compiled(PartDraft("P", "p", leads=(lead, LeadDraft("GND", "ground"))))
    assert from_tree(tree).leads[0].need == key
    loads(dumps(tree), "p")


def test_a_copy_keeps_comments_and_what_the_form_does_not_show() -> None:
    text = shipped().part_path("micro-servo").read_text("utf-8")
    draft = from_tree({k: v for k, v in shipped().kind("micro-servo").tree.items() if k != "id"})
    assert draft.leads[0].need == AS_WRITTEN, "a servo's pulse has ends and levels"
    text_now = dumps(compiled(msgspec.structs.replace(draft, title="Strong servo")), "# my notes\n" + text)
    assert text_now.startswith("# my notes") and 'title = "Strong servo"' in text_now
    part = loads(text_now, "strong-servo").make({})
    assert isinstance(part.leads["signal"].needs[0], Pulse) and part.facts.servo is not None


WRONG = """title = "Thing"
summary = "a thing"
category = "sensor"
[leads.vcc]
title = "VCC"
cord = "red"
needs = [{ kind = "supply", least_v = 6.0, most_v = 3.0 }]
[leads.data]
title = "D"
cord = "green"
needs = [{ kind = "output", of = "vc", high_share = 0.7 }]
offers = { functions = ["pmw:0.1"], driver = "out" }
[elements.draws]
kind = "load"
a = "vdd"
b = "gndd"
usual_a = 1.0
worst_a = 2.0
"""


def test_everything_wrong_is_said_with_its_place_and_the_nearest_that_is_right() -> None:
    with pytest.raises(PartFileError) as caught:
        loads(WRONG, "thing")
    said = dict(caught.value.errors)
    assert any("least_v" in why for why in said.values())
    assert any(
        "did you mean 'vcc'" in why or "'vcc'" in why for place, why in said.items() if "data" in place
    )
    whys = [why for _, why in caught.value.errors]
    assert any("'pmw' is nothing that a contact can do" in why for why in whys) and any(
        "elements.draws" in p for p in said
    )
    assert all(place.startswith("line ") for place in said)


def test_every_departure_from_the_format_is_said_not_only_the_first() -> None:
    text = WRONG.replace('category = "sensor"', 'category = "sensr"\ncolour = 3').replace(
        'kind = "supply"', 'kind = "suply"'
    )
    text = (
        text.replace('of = "vc"', 'off = "vc"')
        .replace("usual_a = 1.0", 'usual_a = "much"')
        .replace('cord = "red"\n', "")
    )
    with pytest.raises(PartFileError) as caught:
        loads(text, "thing")
    said = {place.rpartition(", ")[2]: why for place, why in caught.value.errors}
    assert said[""] == "has an unknown key 'colour'; did you mean 'source'?"
    assert (
        "did you mean 'sensor'?" in said["category"]
        and "did you mean 'supply'?" in said["leads.vcc.needs[0].kind"]
    )
    assert said["leads.data.needs[0]"] == "has an unknown key 'off'; did you mean 'of'?"
    assert said["leads.vcc"] == "'cord' is a required property"
    assert said["elements.draws.usual_a"] == "'much' is not of type 'number'" and len(said) == 6


@pytest.mark.parametrize(
    ("right", "wrong", "place", "why"),
    [
        ("usual_a = 0.01", "usual_a = nan", "elements.draws.usual_a", "nan is no quantity"),
        ("worst_a = 0.02", "worst_a = inf", "elements.draws.worst_a", "inf is no quantity"),
        ("least_v = 3.0", "least_v = -inf", "leads.vcc.needs[0].least_v", "-inf is no quantity"),
        ("usual_a = 0.01", "usual_a = -0.01", "elements.draws.usual_a", "-0.01 is below 0"),
        (
            "usual_a = 0.01",
            "usual_a = 0.05",
            "elements.draws.usual_a",
            "0.05 A is above the worst case, 0.02 A",
        ),
        ('a = "vcc"', 'a = "vc"', "elements.draws.a", "'vc' is no lead; did you mean 'vcc'?"),
        ('b = "middle"', 'b = "gndd"', "elements.sense.b", "'gndd' is no lead; did you mean 'gnd'?"),
    ],
)
def test_no_number_that_is_none_and_no_end_that_leads_nowhere(
    right: str, wrong: str, place: str, why: str
) -> None:
    text = """title = "Gauge"
summary = "a gauge"
category = "sensor"
[leads]
vcc = { title = "VCC", cord = "red", needs = [{ kind = "supply", least_v = 3.0, most_v = 5.5 }] }
out = { title = "OUT", cord = "green", needs = [{ kind = "analog" }] }
gnd = { title = "GND", cord = "black", needs = [{ kind = "ground" }] }
[elements]
draws = { kind = "load", a = "vcc", b = "gnd", usual_a = 0.01, worst_a = 0.02 }
sense = { kind = "resistor", a = "out", b = "middle", ohm = [90.0, 100.0, 110.0] }
further = { kind = "resistor", a = "middle", b = "gnd", ohm = [90.0, 100.0, 110.0] }
"""
    loads(text, "gauge")
    with pytest.raises(PartFileError) as caught:
        loads(text.replace(right, wrong), "gauge")
    assert (place, why) in [(where.rpartition(", ")[2], said) for where, said in caught.value.errors]


@pytest.mark.parametrize(
    "text", ["", "title = ", "[leads]", 'title = "x"\nid = "y"', "repeat = [{ count = 9999999 }]", "\x00"]
)
def test_nonsense_is_an_error_and_nothing_else(text: str) -> None:
    with pytest.raises(PartFileError):
        loads(text, "thing")


def test_a_parameter_that_is_not_there_is_named() -> None:
    text = (
        dumps(compiled(GAUGE))
        .replace("worst_a = 0.15", 'worst_a = "=heta"')
        .replace("[leads", '[params.heat]\ntitle = "Heat"\ndefault = 1.0\n\n[leads', 1)
    )
    with pytest.raises(PartFileError, match="heta"):
        loads(text, "thing")


# --- own parts in the catalogue and in plans -----------------------------------------------------------


def own(tmp_path) -> Catalog:
    catalog = Catalog(own=tmp_path)
    (tmp_path / "parts").mkdir()
    (tmp_path / "parts" / "rain-gauge.toml").write_text(dumps(compiled(GAUGE)), "utf-8")
    return catalog


def test_ones_own_part_is_found_used_and_travels_with_the_plan(tmp_path) -> None:
    catalog = own(tmp_path)
    assert "rain-gauge" in catalog.own_part_ids() and any(o.name == "Rain gauge" for o in catalog.offers())
    lines = tuple(catalog.part_path("rain-gauge").read_text("utf-8").splitlines())
    plan = edits.add_part(
        edits.carry_part(Plan("bowline-40"), CarriedPart("rain-gauge", lines)), "rain-gauge", "Gauge"
    )
    elsewhere = plan_file.loads(plan_file.dumps(plan), shipped())  # where nobody has such a part
    assert elsewhere == plan
    assert Circuit(elsewhere, shipped()).parts["gauge"].title == "Rain gauge"
    assert edits.remove_part(plan, "gauge").carried_parts == ()


def test_a_broken_part_of_ones_own_is_left_out_and_said(tmp_path) -> None:
    catalog = own(tmp_path)
    (tmp_path / "parts" / "bad.toml").write_text(WRONG, "utf-8")
    assert not [o for o in catalog.offers() if o.part == "bad"] and [
        o for o in catalog.offers() if o.part == "rain-gauge"
    ]
    with pytest.raises(LookupError, match="cannot be used"):
        catalog.kind("bad")


@pytest.mark.parametrize(
    ("part_id", "text", "said"),
    [
        ("led", "", "comes with the program"),
        ("thing", WRONG, "least_v"),
        ("../x", dumps(compiled(GAUGE)), "no id"),
    ],
)
def test_a_plan_cannot_bring_an_unsound_part_or_one_of_our_names(part_id: str, text: str, said: str) -> None:
    plan = Plan("bowline-40", carried_parts=(CarriedPart(part_id, tuple(text.splitlines())),))
    with pytest.raises(PlanFileError, match=said):
        plan_file.loads(plan_file.dumps(plan), shipped())


def test_the_schema_names_every_field() -> None:
    assert {"leads", "elements", "facts", "drivers"} <= set(part_file.schema()["$defs"]["Part"]["properties"])
