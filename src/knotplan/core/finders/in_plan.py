"""Which values belong to a tie of the plan: each finder with its inputs taken from the plan, and where the value goes."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.elements import Bipolar, Coil, Fet, Led, Load, Motor, Switch, Track, Varies
from knotplan.catalog.needs import Analog, Input, Pulse, Stream, Supply
from knotplan.core import edits
from knotplan.core.beads import Bead, Capacitor, Clamp, Fuse, PullDown, PullUp, SeriesResistor
from knotplan.core.circuit import Circuit
from knotplan.core.copper import cord_of, cord_ohm
from knotplan.core.edits import Remedy, Step, remedy
from knotplan.core.finders.finder import Found
from knotplan.core.plan import BOARD, Tie, split
from knotplan.core.quantity import show
from knotplan.core.readings import Points

Given = dict[str, tuple[float | str, str]]
"""input -> (value, where it comes from)"""
PER_METRE_F, INPUT_F = 60e-12, 10e-12
"""capacitance of a metre of cord beside its ground, and of an input (NXP UM10204, 7.2, and facts of the catalogue)"""


class Proposal(Struct, frozen=True):
    """A question that a tie raises."""

    finder: str
    tie: Tie
    about: str
    """what it is about, in the words of the plan"""
    given: Given
    bead: Bead | None = None
    """what the found value becomes, as a sample of its kind"""
    param: str = ""
    """the part's parameter that it becomes"""
    now_mm2: float = 0.0
    """copper of the cord as it is"""
    now_param: float = 0.0
    """the part's parameter as it is"""

    @property
    def values(self) -> dict[str, float | str]:
        return {name: value for name, (value, _) in self.given.items()}

    @property
    def origins(self) -> dict[str, str]:
        return {name: origin for name, (_, origin) in self.given.items()}

    @property
    def now(self) -> float | None:
        """The value that is in the tie already."""
        at = self._at()
        return self.now_mm2 or self.now_param or None if at is None else _value(self.tie.beads[at])

    def _at(self) -> int | None:
        kind = type(self.bead)
        return next((k for k, b in enumerate(self.tie.beads) if self.bead is not None and isinstance(b, kind)), None)

    def remedy(self, found: Found) -> Remedy | None:
        """The edit that puts the found value in; nothing where it is there, or has no place."""
        said = show(found.value, found.unit)
        if self.finder == "cord":
            return None if self.now_mm2 >= found.value * (1 - 1e-9) else \
                remedy(f"Take a cord of {said}", edits.set_cord, self.tie.id, None, found.value)  # fmt: skip
        if self.param:
            if self.now == found.value:
                return None
            return remedy(f"Set it to {said}", edits.set_param, split(self.tie.lead)[0], self.param, found.value)
        if self.bead is None:
            return None
        if isinstance(self.bead, Clamp):
            return remedy("Put a clamp diode in", edits.add_bead, self.tie.id, self.bead) if self._at() is None else None
        if isinstance(self.bead, Capacitor) and self.finder != "debounce" and (self.now or 0.0) >= found.value:
            return None  # more does no harm
        at, bead = self._at(), _with_value(self.bead, found)
        steps = [Step(edits.add_bead, (self.tie.id, bead)) if at is None else Step(edits.change_bead, (self.tie.id, at, bead))]
        if self.finder == "divider" and not any(isinstance(b, PullDown) for b in self.tie.beads):
            steps.append(Step(edits.add_bead, (self.tie.id, PullDown(found.also[0][1], found.tolerance))))
        if at is not None and self.tie.beads[at] == bead and len(steps) == 1:
            return None
        return Remedy(f"{'Put' if at is None else 'Change it to'} {said}{' in' if at is None else ''}", tuple(steps))


def _value(bead: Bead) -> float | None:
    return next((v for name in ("ohm", "farad", "amps") if (v := getattr(bead, name, None)) is not None), None)


def _with_value(bead: Bead, found: Found) -> Bead:
    """The sample with the found value."""
    match bead:
        case SeriesResistor():
            return SeriesResistor(found.value, found.tolerance, bead.rating_w)
        case PullUp(rail=rail):
            return PullUp(found.value, found.tolerance, rail=rail)
        case PullDown():
            return PullDown(found.value, found.tolerance)
        case Capacitor():
            rating = next((n.value for n in found.chosen.results if n.name == "rating at least"), bead.volts)
            return Capacitor(found.value, rating)
        case Fuse():
            return Fuse(found.value)
    return bead


def proposals(circuit: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    """Every question of a tie, the most telling first. An LED's resistor has a finder of its own (`knotplan.core.led`)."""
    yield from _transistors(circuit, points, tie)
    yield from _loads(circuit, tie)
    yield from _switches(circuit, points, tie)
    yield from _inputs(circuit, points, tie)
    yield from _lines(circuit, tie)
    yield from _feeds(circuit, tie)


def _element(c: Circuit, tie: Tie, kind: type) -> tuple[str, object] | None:
    """(name, element) of a kind on the tie's lead."""
    part_id, lead = split(tie.lead)
    ends = ("a", "b", "wiper")
    return next(((n, e) for n, e in c.parts[part_id].elements.items()
                 if isinstance(e, kind) and lead in [getattr(e, end, None) for end in ends]), None)  # fmt: skip


def _driven(c: Circuit, tie: Tie) -> Given | None:
    """What the pin that drives a tie gives."""
    pin = c.pin(tie.to)
    if pin is None or pin.kind != "io" or not pin.driver or c.rail_volts(tie.to) is None:
        return None
    driver, volts, where = c.driver(tie.to), c.rail_volts(tie.to), f"catalogue, {c.full_title(tie.to)}"
    assert volts is not None
    return {"high": (volts.typ, where), "pin_a": (driver.recommended_a, where), "source_ohm": (driver.high_ohm.typ, where)}


def _only(given: Given, *names: str) -> Given:
    return {n: given[n] for n in names}


def _load_amps(c: Circuit, contact: str) -> float:
    """What hangs on a switch's contact draws at worst."""
    total = 0.0
    for t in c.ties_at.get(contact, ()):
        for e in c.parts[split(t.lead)[0]].elements.values():
            if split(t.lead)[1] in (e.a, e.b):
                origin = c.origin(t.lead) or next((o for n in c.parts[split(t.lead)[0]].leads
                                                   if (o := c.origin(f"{split(t.lead)[0]}.{n}"))), None)  # fmt: skip
                volts = origin.volts.max if origin else 5.0
                total += volts / e.ohm.min if isinstance(e, Coil) else e.stall_a if isinstance(e, Motor) else \
                    e.worst_a if isinstance(e, Load) else e.wished_a if isinstance(e, Led) else 0.0  # fmt: skip
    return total


def _transistors(c: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    drive, part_id = _driven(c, tie), split(tie.lead)[0]
    found = _element(c, tie, Bipolar | Fet)  # type: ignore[arg-type]
    if drive is None or found is None or split(tie.lead)[1] != found[1].a:  # type: ignore[attr-defined]
        return
    e, about = found[1], c.title(tie.lead)
    if isinstance(e, Bipolar):
        amps = _load_amps(c, f"{part_id}.{e.collector}")
        if amps > 0:
            yield Proposal("base", tie, about, {**drive, "load": (amps, "plan: what hangs on the collector"),
                                                "series": (c.plan.series, "plan")}, SeriesResistor(1000.0))  # fmt: skip
    else:
        need = c.need(tie.lead)
        hertz = need.frequency_hz if isinstance(need, Pulse) else 1.0
        yield Proposal("gate", tie, about, {**_only(drive, "high", "pin_a"), "frequency": (hertz, "catalogue, " + about),
                                            "leak": (c.driver(tie.to).leak_a, f"catalogue, {c.full_title(tie.to)}"),
                                            "series": (c.plan.series, "plan")}, SeriesResistor(220.0))  # fmt: skip


def _loads(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    found = _element(c, tie, Coil | Motor)  # type: ignore[arg-type]
    pin, part_id = c.pin(tie.to), split(tie.lead)[0]
    if found is None or pin is None or not {"sink", "source"} & set(pin.functions):
        return
    e, where = found[1], f"catalogue, {c.placed[part_id].name}"
    supply = next((t.to for n in c.parts[part_id].leads if (t := c.tie_of(f"{part_id}.{n}")) and c.origin(t.to)), "")
    origin = c.origin(supply) if supply else None
    if origin is None:
        return
    ohm = e.ohm.typ if isinstance(e, Coil) else e.volts / e.stall_a  # type: ignore[attr-defined]
    henry = e.henry if isinstance(e, Coil) else 1e-3
    need, clamps = c.need(tie.lead), c.driver(tie.to).clamps
    clamped = e.clamped or bool(clamps and f"{split(tie.to)[0]}.{clamps}" in c.ties_at)  # type: ignore[attr-defined]
    yield Proposal("clamp", tie, c.title(tie.lead), {
        "supply": (origin.volts.typ, origin.title), "ohm": (ohm, where),
        "henry": (henry, where if isinstance(e, Coil) else "about, for a small motor"),
        "frequency": (need.frequency_hz if isinstance(need, Pulse) else 1.0, where)},
        None if clamped else Clamp(supply))  # fmt: skip


def _switches(c: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    """The heat of what switches a load."""
    pin, part_id = c.pin(tie.to), split(tie.to)[0]
    if pin is None or part_id == BOARD or not {"sink", "source", "bridge"} & set(pin.functions):
        return
    running = [r for r in points.pins.get(tie.to, []) if r.case.moment == "running"]
    amps, driver = max((r.most for r in running), default=0.0), c.driver(tie.to)
    if amps < 1e-3 or driver.element:
        return
    used = sum(split(t)[0] == part_id for t in c.holders)
    where, drops = f"catalogue, {c.placed[part_id].name}", driver.low_drop_v > 0
    yield Proposal("heat", tie, c.placed[part_id].name, {
        "kind": ("transistor with a drop" if drops else "transistor with a resistance", where),
        "volts_out": (driver.low_drop_v + amps * driver.low_ohm.typ, where), "ohm": (driver.low_ohm.max, where),
        "current": (amps, "engine: worst"), "channels": (float(used), "plan: outputs in use"),
        "theta": (100.0 if drops else 60.0, "usual for its package")})  # fmt: skip


def _inputs(c: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    pin, need = c.pin(tie.to), c.need(tie.lead)
    if pin is None or pin.kind != "io" or not pin.driver or not isinstance(need, Input | Analog):
        return
    driver, volts, where = c.driver(tie.to), c.rail_volts(tie.to), f"catalogue, {c.full_title(tie.to)}"
    if volts is None:
        return
    about, part_id = c.title(tie.lead), split(tie.lead)[0]
    most = max((r.max for r in points.volts.get(c.net(tie.lead), [])), default=0.0)
    divided = any(isinstance(b, SeriesResistor) for b in tie.beads) and any(isinstance(b, PullDown) for b in tie.beads)
    if most > min(driver.max_v, volts.max + 0.3) or divided:
        yield Proposal("divider", tie, about, {
            "volts": (max(most, volts.max * 1.01), "engine: most at the lead"), "wanted": (volts.min, where),
            "load": (volts.typ / driver.leak_a, where), "series": (c.plan.series, "plan")}, SeriesResistor(1000.0))  # fmt: skip
    if isinstance(need, Input) and (need.contact or need.open_drain):
        yield Proposal("pull", tie, about, {
            "supply": (volts.typ, where), "leak": (driver.leak_a, where),
            "high_share": (min(0.99, max(0.31, driver.input_high_v / volts.typ)), where),
            "series": (c.plan.series, "plan")}, PullUp(10e3, rail=c.rail_contact(tie.to)))  # fmt: skip
    if isinstance(need, Input) and need.contact and _element(c, tie, Switch):
        pull = next((b.ohm for b in tie.beads if isinstance(b, PullUp)), driver.pull_up_ohm.typ if driver.pull_up_ohm else 10e3)
        series_ohm = next((b.ohm for b in tie.beads if isinstance(b, SeriesResistor)), 0.0)
        yield Proposal("debounce", tie, about, {
            "supply": (volts.typ, where), "pull": (pull, "plan, or the pin's own"), "series_ohm": (series_ohm, "plan"),
            "low_share": (driver.input_low_v / volts.typ, where),
            "high_share": (min(0.95, driver.input_high_v / volts.typ), where)}, Capacitor(1e-6))  # fmt: skip
    if isinstance(need, Analog):
        yield from _measured(c, points, tie, part_id)


def converter_of(c: Circuit, contact: str) -> tuple[int, float, str] | None:
    """(bits, reference V, title) of the converter behind a pin in use."""
    pin = c.pin(contact)
    for job in pin.jobs("adc") if pin else ():
        unit = c.owner(contact).converters.get(job.unit)
        if unit is None:
            continue
        if split(contact)[0] == BOARD:
            rail = c.board.rails.get(unit.reference)
            return (unit.bits, rail.volts.typ, unit.title) if rail else None
        origin = c.origin(f"{split(contact)[0]}.{unit.reference}")
        return (unit.bits, origin.volts.typ, unit.title) if origin else None
    return None


def _measured(c: Circuit, points: Points, tie: Tie, part_id: str) -> Iterator[Proposal]:
    unit, about, name = converter_of(c, tie.to), c.title(tie.lead), c.placed[part_id].name
    if unit is None:
        return
    bits, reference, title = unit
    sensor, found = c.parts[part_id].facts.sensor, _element(c, tie, Varies)
    if found is not None and isinstance(found[1], Varies):
        e, rail = found[1], c.rail_contact(tie.to)
        other = f"{part_id}.{e.b if split(tie.lead)[1] == e.a else e.a}"
        grounded = c.is_ground(other) or c.tie_of(other) is None
        bead: Bead = PullUp(10e3, rail=rail) if grounded else PullDown(10e3)
        yield Proposal("sensor", tie, about, {
            "least": (e.least_ohm, f"catalogue, {name}"), "most": (e.most_ohm, f"catalogue, {name}"),
            "supply": (reference, title), "bits": (float(bits), title),
            "place": ("between pin and ground" if grounded else "between supply and pin", "plan"),
            "series": (c.plan.series, "plan")}, bead)  # fmt: skip
        second = next((b.ohm for b in tie.beads if isinstance(b, PullUp | PullDown)), None)
        if second is not None and sensor is not None and sensor.unit in ("°C", "lx", "%", "N"):
            yield _read_back(c, tie, e, second, grounded, bits)
            return
    readings = [r for r in points.volts.get(c.net(tie.to), []) if r.case.moment == "running"]
    low, high = min((r.typ for r in readings), default=0.0), max((r.typ for r in readings), default=0.0)
    if high - low < 1e-3:
        return
    track = _element(c, tie, Track)
    ohm = track[1].ohm / 4 if track and isinstance(track[1], Track) else _source_ohm(c, tie, found[1] if found else None)
    ends = (sensor.least, sensor.most, sensor.unit) if sensor and sensor.unit in ("°C", "lx", "%") else (0.0, 100.0, "%")
    yield Proposal("converter", tie, about, {
        "reference": (reference, title), "bits": (float(bits), title), "low": (max(0.0, low), "engine"), "high": (high, "engine"),
        "at_low": (ends[0], f"catalogue, {name}"), "at_high": (ends[1], f"catalogue, {name}"), "unit": (ends[2], "catalogue"),
        "source": (ohm, "engine: at the worst position")})  # fmt: skip


def _read_back(c: Circuit, tie: Tie, e: Varies, second: float, grounded: bool, bits: int) -> Proposal:
    """What a sensor with its second resistor is read as; light is brightest where its resistor is least."""
    part_id = split(tie.lead)[0]
    sensor, where = c.parts[part_id].facts.sensor, f"catalogue, {c.placed[part_id].name}"
    assert sensor is not None
    law = {"°C": "thermistor", "lx": "power law"}.get(sensor.unit, "straight in the logarithm")
    falls = sensor.unit in ("°C", "lx", "N")  # more of it, less resistance
    at_least, at_most = (sensor.most, sensor.least) if falls else (sensor.least, sensor.most)
    return Proposal("reading", tie, c.title(tie.lead), {
        "least": (e.least_ohm, where), "most": (e.most_ohm, where), "at_least": (at_least, where), "at_most": (at_most, where),
        "law": (law, "by what it measures"), "second": (second, "plan"), "bits": (float(bits), "catalogue"),
        "place": ("between pin and ground" if grounded else "between supply and pin", "plan"),
        "unit": (sensor.unit, "catalogue")})  # fmt: skip


def _source_ohm(c: Circuit, tie: Tie, e: object) -> float:
    """The greatest resistance that a converter sees into a divider: of both sides in parallel."""
    second = next((b.ohm for b in tie.beads if isinstance(b, PullUp | PullDown)), 0.0)
    if isinstance(e, Varies) and second:
        return second * e.most_ohm / (second + e.most_ohm)
    return sum(b.ohm for b in tie.beads if isinstance(b, SeriesResistor))


def _lines(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    need, drive = c.need(tie.lead), _driven(c, tie)
    if isinstance(need, Stream) and need.protocol == "pixels" and drive is not None:
        length = cord_of(c, tie).length_m
        yield Proposal("data", tie, c.title(tie.lead), {
            **_only(drive, "high", "source_ohm"), "length": (length, "plan"), "series": (c.plan.series, "plan"),
            "capacitance": (INPUT_F + PER_METRE_F * length, "cord's length and one input"),
            "shortest": (need.finest_s, f"catalogue, {c.placed[split(tie.lead)[0]].name}")}, SeriesResistor(330.0))  # fmt: skip
    part_id = split(tie.lead)[0]
    fixed = c.parts[part_id].facts.current_set
    if fixed is not None and isinstance(need, Supply):
        where = f"catalogue, {c.placed[part_id].name}"
        yield Proposal("set-current", tie, c.placed[part_id].name, {
            "set_v": (fixed.volts, where), "mirror": (fixed.gain, where), "least_ohm": (fixed.least_ohm, where),
            "most": (fixed.most_a, where), "lights": (fixed.lights, where), "rows": (fixed.rows, where),
            "series": (c.plan.series, "plan")}, param=fixed.param,
            now_param=float(c.placed[part_id].params.get(fixed.param, c.parts[part_id].params[fixed.param].default)))  # fmt: skip


def load_of(c: Circuit, lead: str) -> tuple[float, float]:
    """(usual, worst) amperes that a part draws at one of its supply leads."""
    part_id, name = split(lead)
    loads = [e for e in c.parts[part_id].elements.values() if isinstance(e, Load) and e.a == name]
    return sum(e.usual_a for e in loads), sum(e.worst_a for e in loads)


def _feeds(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    need, origin = c.need(tie.lead), c.origin(tie.to)
    part_id, name = split(tie.lead)
    if not isinstance(need, Supply) or origin is None:
        return
    about, part = c.title(tie.lead), c.parts[part_id]
    usual, worst = load_of(c, tie.lead)
    where, cord = f"catalogue, {c.placed[part_id].name}", cord_of(c, tie)
    if part.facts.pixels is not None:
        px = part.facts.pixels
        ohm = cord_ohm(2 * cord.length_m, cord.mm2)
        yield Proposal("pixels", tie, about, {
            "count": (px.count, where), "current": (px.full_a, where), "supply": (origin.volts.typ, origin.title),
            "least": (px.least_v, where), "cord_ohm": (ohm, f"cord of {cord.words}")})  # fmt: skip
    if part.source is not None and part.source.fed_from == name:
        yield _heat(c, tie)
    if worst <= 0:
        return
    if need.jerks or part.facts.pixels is not None:
        yield Proposal("bulk", tie, about, {"current": (max(worst - usual, 1e-3), where),
                                            "supply": (origin.volts.typ, origin.title)}, Capacitor(470e-6))  # fmt: skip
    elif need.signal:
        yield Proposal("decoupling", tie, about, {"current": (max(worst, 1e-3), where),
                                                  "supply": (origin.volts.typ, origin.title)}, Capacitor(100e-9))  # fmt: skip
    yield Proposal("cord", tie, about, {"length": (cord.length_m, "plan, or the usual"), "current": (worst, where),
                                        "supply": (origin.volts.typ, origin.title)}, now_mm2=cord.mm2)  # fmt: skip
    if worst > 0.3:
        yield Proposal("fuse", tie, about, {"current": (usual if need.jerks else worst, where), "peak": (worst, where),
                                            "mm2": (cord.mm2, f"cord of {cord.words}")}, Fuse())  # fmt: skip


def _heat(c: Circuit, tie: Tie) -> Proposal:
    part_id = split(tie.lead)[0]
    source, origin = c.parts[part_id].source, c.origin(tie.to)
    assert source is not None and origin is not None
    out = c.net(f"{part_id}.{source.plus}")
    amps = sum(e.worst_a for p, part in c.parts.items() for e in part.elements.values()
               if isinstance(e, Load) and c.fed_by(f"{p}.{e.a}") == out)  # fmt: skip
    kind = "switching regulator" if source.efficiency else "linear regulator"
    return Proposal("heat", tie, c.placed[part_id].name, {
        "kind": (kind, "catalogue"), "volts_in": (origin.volts.max, origin.title), "volts_out": (source.volts.typ, "catalogue"),
        "current": (max(amps, 1e-3), "plan: what hangs on it"),
        "efficiency": (source.efficiency or 0.88, "catalogue")})  # fmt: skip
