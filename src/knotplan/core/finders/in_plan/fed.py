"""What data lines and feeds ask for: data resistors, capacitors, cords, fuses,
feeds of chains, heat of regulators."""

from collections.abc import Iterator

from knotplan.catalog.part.needs import Stream, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import NOTHING, carried, cord_of, cord_ohm, parent_contact
from knotplan.core.finders.in_plan.proposal import Proposal, driven, only
from knotplan.core.plan.beads import Capacitor, Fuse, SeriesResistor
from knotplan.core.plan.document import Tie, split

PER_METRE_F, INPUT_F = 60e-12, 10e-12
"""capacitance of a metre of cord beside its ground, and of an input (NXP
UM10204, 7.2, and facts of the catalogue)"""


def of_lines(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    """What to ask about a bus or data line."""
    need, drive = c.needs.of(tie.lead), driven(c, tie)
    if isinstance(need, Stream) and need.protocol == "pixels" and drive is not None:
        length = cord_of(c, tie).length_m
        yield Proposal(
            "data",
            tie,
            c.titles.of(tie.lead),
            {
                **only(drive, "high", "source_ohm"),
                "length": (length, "plan"),
                "series": (c.series, "plan"),
                "capacitance": (INPUT_F + PER_METRE_F * length, "cord's length and one input"),
                "shortest": (need.finest_s, f"catalogue, {c.placed[split(tie.lead)[0]].name}"),
            },
            SeriesResistor(330.0),
        )
    part_id = split(tie.lead)[0]
    fixed = c.parts[part_id].facts.current_set
    if fixed is not None and isinstance(need, Supply):
        where = f"catalogue, {c.placed[part_id].name}"
        yield Proposal(
            "set-current",
            tie,
            c.placed[part_id].name,
            {
                "set_v": (fixed.volts, where),
                "mirror": (fixed.gain, where),
                "least_ohm": (fixed.least_ohm, where),
                "most": (fixed.most_a, where),
                "lights": (fixed.lights, where),
                "rows": (fixed.rows, where),
                "series": (c.series, "plan"),
            },
            param=fixed.param,
            now_param=float(
                c.placed[part_id].params.get(fixed.param, c.parts[part_id].params[fixed.param].default)
            ),
        )


def of_feeds(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    """What to ask about a supply lead: fuse, cord, capacitor."""
    need, origin = c.needs.of(tie.lead), c.supplies.origin(tie.to)
    part_id, name = split(tie.lead)
    if not isinstance(need, Supply) or origin is None:
        return
    about, part = c.titles.of(tie.lead), c.parts[part_id]
    usual, worst = carried(c).get(tie.lead, NOTHING)
    where, cord = f"catalogue, {c.placed[part_id].name}", cord_of(c, tie)
    if part.facts.pixels is not None:
        px = part.facts.pixels
        ohm = cord_ohm(2 * cord.length_m, cord.mm2)
        yield Proposal(
            "pixels",
            tie,
            about,
            {
                "count": (px.count, where),
                "current": (px.full_a, where),
                "supply": (origin.volts.typ, origin.title),
                "least": (px.least_v, where),
                "cord_ohm": (ohm, f"cord of {cord.words}"),
            },
        )
    if part.source is not None and part.source.fed_from == name:
        yield _heat(c, tie)
    if worst <= 0:
        return
    if need.jerks or part.facts.pixels is not None:
        yield Proposal(
            "bulk",
            tie,
            about,
            {"current": (max(worst - usual, 1e-3), where), "supply": (origin.volts.typ, origin.title)},
            Capacitor(470e-6),
        )
    elif need.signal:
        yield Proposal(
            "decoupling",
            tie,
            about,
            {"current": (max(worst, 1e-3), where), "supply": (origin.volts.typ, origin.title)},
            Capacitor(100e-9),
        )
    yield Proposal(
        "cord",
        tie,
        about,
        {
            "length": (cord.length_m, "plan, or the usual"),
            "current": (worst, where),
            "supply": (origin.volts.typ, origin.title),
        },
        now_mm2=cord.mm2,
    )
    if worst > 0.3:
        yield Proposal(
            "fuse",
            tie,
            about,
            {
                "current": (usual if need.jerks else worst, where),
                "peak": (worst, where),
                "mm2": (cord.mm2, f"cord of {cord.words}"),
            },
            Fuse(),
        )


def _heat(c: Circuit, tie: Tie) -> Proposal:
    part_id = split(tie.lead)[0]
    source, origin = c.parts[part_id].source, c.supplies.origin(tie.to)
    assert source is not None and origin is not None
    amps = sum(
        worst
        for lead, (_, worst) in carried(c).items()
        if parent_contact(c, lead) == f"{part_id}.{source.plus}"
    )
    kind = "switching regulator" if source.efficiency else "linear regulator"
    return Proposal(
        "heat",
        tie,
        c.placed[part_id].name,
        {
            "kind": (kind, "catalogue"),
            "volts_in": (origin.volts.max, origin.title),
            "volts_out": (source.volts.typ, "catalogue"),
            "current": (max(amps, 1e-3), "plan: what hangs on it"),
            "efficiency": (source.efficiency or 0.88, "catalogue"),
        },
    )
