"""Values that the plan itself asks for: their inputs come from it, and what they find goes into it."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.catalog.part.elements import Load
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import Report
from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError
from knotplan.core.finders.in_plan import Proposal, proposals
from knotplan.core.plan.beads import PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Plan
from knotplan.examples import example
from tests.conftest import lay


def asked(report: Report, lead: str) -> dict[str, Proposal]:
    tie = report.circuit.ties.of(lead)
    assert tie is not None
    return {p.finder: p for p in proposals(report.circuit, report.points, tie)}


def by_name(plan: Plan, lead: str) -> dict[str, Proposal]:
    return asked(analyse(plan, shipped()), lead)


def on_clove(what: str) -> str:
    """A pin of Clove 22 on a rail, or on ground."""
    return next(
        f"board.{p}" for p, pin in shipped().board("clove-22").pins.items() if what in (pin.rail, pin.kind)
    )


@pytest.mark.parametrize(
    "scene", ["harbour-light", "mist-bench", "kite-winder", "seed-drawers", "badge-wall"]
)
def test_each_proposal_of_a_scene_has_an_answer_and_its_edit_settles_it(scene: str) -> None:
    plan = example(scene, shipped())
    report = analyse(plan, shipped())
    seen = 0
    for tie in plan.ties:
        for p in proposals(report.circuit, report.points, tie):
            found = BY_ID[p.finder](p.values, p.origins)
            assert all(
                n.origin
                for n in found.given
                if n.name in {i.title.lower() for i in BY_ID[p.finder].inputs if i.name in p.given}
            )
            remedy = p.remedy(found)
            if remedy is None:
                continue
            changed = analyse(remedy.apply(plan), shipped())
            again = asked(changed, tie.lead).get(p.finder)
            if again is not None and p.finder not in ("debounce", "pull", "divider", "sensor"):
                assert again.remedy(BY_ID[p.finder](again.values, again.origins)) is None, (
                    p.finder,
                    tie.lead,
                )
            seen += 1
    assert seen > 3


def test_base_resistor_of_a_transistor_takes_its_load_from_the_plan() -> None:
    parts = {"bell": ("relay", {}), "switch": ("npn-transistor", {})}
    plan = lay(
        "bowline-40",
        parts,
        {"bell.a1": "p1", "bell.a2": "switch.collector", "switch.base": "p11", "switch.emitter": "p17"},
    )
    found = by_name(plan, "switch.base")["base"]
    coil = shipped().part("relay", {}).elements["coil"]
    assert found.values["load"] == pytest.approx(5.25 / coil.ohm.min, rel=0.02)
    answer = BY_ID["base"](found.values)
    remedy = found.remedy(answer)
    assert remedy is not None
    bead = remedy.apply(plan).tie("switch.base").beads[0]
    assert isinstance(bead, SeriesResistor) and bead.ohm == answer.value
    report = analyse(remedy.apply(plan), shipped())
    running = [r for r in report.points.pins["switch.collector"] if r.case.moment == "running"]
    assert max(r.max for r in running) <= 1e-6, "it only sinks"
    assert min(r.typ for r in running) == pytest.approx(-5.0 / coil.ohm.typ, rel=0.05)
    saturated = min(
        r.typ
        for r in report.points.volts[report.circuit.nets.of("switch.collector")]
        if r.case.moment == "running" and r.case.pin("board.p11") == "high"
    )
    assert saturated < 0.3


def test_what_a_hub_passes_on_counts_for_its_cord_and_fuse() -> None:
    """Four micro servos of 650 mA at worst and 120 mA usually on a hub
    behind a converter of 12 V (by hand)."""
    parts = {"hub": ("pwm-hub", {}), "buck": ("buck-converter", {}), "feed": ("brick-12v", {})} | {
        f"s{k}": ("micro-servo", {}) for k in range(4)
    }
    ties = {
        "hub.vplus": "buck.out",
        "hub.vcc": "p2",
        "hub.gnd": "p5",
        "hub.sda": "p7",
        "hub.scl": "p8",
        "buck.in": "feed.plus",
        "buck.gnd": "p5",
        "feed.zero": "p5",
    }
    for k in range(4):
        ties |= {f"s{k}.power": "hub.vplus", f"s{k}.ground": "hub.gnd", f"s{k}.signal": f"hub.ch{k}"}
    plan = lay("bowline-40", parts, ties)
    servo = shipped().part("micro-servo", {}).elements["motor"]
    assert isinstance(servo, Load)
    hub, buck = by_name(plan, "hub.vplus"), by_name(plan, "buck.in")
    assert hub["cord"].values["current"] == pytest.approx(4 * servo.worst_a)
    assert hub["fuse"].values["peak"] == pytest.approx(4 * servo.worst_a)
    assert buck["heat"].values["current"] == pytest.approx(4 * servo.worst_a)
    feed, source = shipped().part("brick-12v", {}).source, shipped().part("buck-converter", {}).source
    assert feed is not None and source is not None and source.efficiency is not None
    at_input = 4 * servo.worst_a * source.volts.typ / (feed.volts.min * source.efficiency)
    assert buck["cord"].values["current"] == pytest.approx(at_input)


def test_five_volts_into_a_3_3_volt_input_asks_for_a_divider() -> None:
    plan = lay(
        "bowline-40",
        {"level": ("echo-ranger", {})},
        {"level.vcc": "p1", "level.gnd": "p17", "level.echo": "p11"},
    )
    found = by_name(plan, "level.echo")["divider"]
    remedy = found.remedy(BY_ID["divider"](found.values))
    assert remedy is not None
    changed = remedy.apply(plan)
    assert {type(b) for b in changed.tie("level.echo").beads} == {SeriesResistor, PullDown}
    report = analyse(changed, shipped())
    before = {f.rule for f in analyse(plan, shipped()).findings}
    assert "input-over-voltage" in before and "input-over-voltage" not in {f.rule for f in report.findings}


def test_a_bare_sensor_asks_for_its_second_resistor_then_says_how_finely_it_is_read() -> None:
    plan = lay("clove-22", {"heat": ("thermistor", {})}, {"heat.one": "w4", "heat.other": on_clove("ground")})
    found = by_name(plan, "heat.one")
    assert "reading" not in found
    remedy = found["sensor"].remedy(BY_ID["sensor"](found["sensor"].values))
    assert remedy is not None
    changed = remedy.apply(plan)
    assert any(isinstance(b, PullUp | PullDown) for b in changed.tie("heat.one").beads)
    reading = by_name(changed, "heat.one")["reading"]
    answer = BY_ID["reading"](reading.values)
    assert reading.values["law"] == "thermistor"
    assert 0.02 < answer.value < 1.0 and any("ln(r" in line for line in answer.lines)


def test_a_knob_says_what_share_of_the_scale_it_uses() -> None:
    plan = lay(
        "clove-22",
        {"knob": ("knob", {})},
        {"knob.top": on_clove("5v"), "knob.wiper": "w4", "knob.bottom": on_clove("ground")},
    )
    found = by_name(plan, "knob.wiper")["converter"]
    answer = BY_ID["converter"](found.values)
    assert next(
        n.value for n in answer.chosen.results if n.name == "share of the scale in use"
    ) == pytest.approx(1, abs=0.01)
    assert answer.value == pytest.approx(100 / 1024, rel=0.01)


def test_what_has_no_answer_says_why() -> None:
    with pytest.raises(FinderError, match="no pair of E12 values"):
        BY_ID["divider"]({"volts": 5.0, "source_most": 1e-3})


def test_a_grid_of_lights_takes_its_drivers_figures_from_the_catalogue() -> None:
    plan = lay(
        "clove-22", {"sign": ("led-grid", {})}, {"sign.vcc": on_clove("5v"), "sign.gnd": on_clove("ground")}
    )
    found = by_name(plan, "sign.vcc")["set-current"]
    answer = BY_ID["set-current"](found.values)
    assert answer.exact == pytest.approx(100 * 3.8 / 0.02) and found.now == 10e3
    remedy = found.remedy(answer)
    assert remedy is not None
    assert remedy.apply(plan).part("sign").params["set_ohm"] == answer.value
    again = by_name(remedy.apply(plan), "sign.vcc")["set-current"]
    assert again.remedy(BY_ID["set-current"](again.values)) is None


def test_a_coil_driver_says_how_hot_it_gets() -> None:
    """Four outputs, each with what the engine finds, over 0.75 V and an ohm."""
    report = analyse(example("harbour-light", shipped()), shipped())
    found = asked(report, "lens.blue")["heat"]
    amps = float(found.values["current"])
    answer = BY_ID["heat"](found.values)
    assert found.values["channels"] == 4.0 and 0.1 < amps < 0.2
    assert answer.value == pytest.approx(4 * amps * (0.75 + amps * 1.0))
