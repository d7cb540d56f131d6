"""Rules about time: frequencies and steps of pulses, motors that cannot follow, relays, pixels."""

from collections.abc import Callable, Iterator
from functools import partial

from knotplan.catalog.part.facts import Servo
from knotplan.catalog.part.needs import Pulse
from knotplan.core.check.asked import from_circuit, given, on_demand
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.rules.windings import crossed
from knotplan.core.check.subjects import of_circuit, of_each, parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.units import pulsed
from knotplan.core.match.fit import Grade, candidates
from knotplan.core.plan import edits
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import at_most, show
from knotplan.core.timing import pixels, relay, servo, stepper
from knotplan.core.timing.capture import Capture, captures
from knotplan.core.timing.pulses import Shared, Timer, reach, timers, timers_of

SEEN_HZ = 100.0
"""slower pulses are seen to flicker"""
OFF, OFF_FRAME = 0.05, 0.2
"""by which share a frequency may be missed; a servo's frames matter less than the pulses in them"""


def _allowed(c: Circuit, lead: str) -> float:
    return OFF_FRAME if c.parts[split(lead)[0]].facts.servo is not None else OFF


@rule(
    "pulse-off",
    "Frequency that the timer cannot make",
    "care",
    "A timer divides its clock by whole steps and counts to a whole number; not every frequency comes out. A "
    "tone is then another one, and a servo's frames come too often or too seldom.",
    "catalogue: clock, divider steps and counter of the timer; f = clock / (divisor · counts)",
    each=of_each(timers_of),
)
def pulse_off(facts: Facts, shared: Shared) -> Iterator[Observation]:
    c = facts.circuit
    t = shared.timer
    uses = [u for u in shared.uses if abs(t.hz / u.hz - 1) > _allowed(c, u.lead) and u.hz == t.wanted_hz]
    if not uses or shared.counter is None:
        return
    off = abs(t.off)
    title = shared.title[0].upper() + shared.title[1:]
    yield Observation(
        f"{title} gives {show(t.hz, 'Hz', 4)} for {c.titles.of(uses[0].lead)}, which wants "
        f"{show(t.wanted_hz, 'Hz')}: {show(off, '%', 2)} off.",
        tuple(u.lead for u in uses),
        (
            Number("frequency", t.hz, "Hz", t.wanted_hz),
            Number("divisor", t.divisor, ""),
            Number("counts", t.counts, ""),
        ),
        from_circuit(_better_timer, uses[0].lead, _near),
        severity="note" if t.hz >= SEEN_HZ and all(_is_loose(c, u.lead) for u in uses) else None,
    )


def _is_loose(c: Circuit, lead: str) -> bool:
    """Only the mean of its pulses counts, and the maker has not asked for a frequency."""
    need, tie = c.needs.of(lead), c.ties.of(lead)
    return isinstance(need, Pulse) and need.loose and (tie is None or not tie.hertz)


def _better_timer(c: Circuit, lead: str, good: Callable[[Timer], bool]) -> Iterator[Remedy]:
    """A pin whose timer does better, among those that are free and have no consequence."""
    need = c.needs.of(lead)
    hz = getattr(need, "frequency_hz", 0.0)
    now = c.ties.of(lead)
    for f in candidates(c, lead):
        pin = c.contacts.pin(f.contact)
        if f.grade > Grade.GOOD or pin is None or (now is not None and f.contact == now.to):
            continue
        for job in pin.jobs("pwm"):
            spec = c.hardware.unit_spec(c.hardware.unit_id(f.contact, job))
            if spec is not None and spec.counter is not None and good(reach(spec.counter, hz)):
                yield remedy(
                    f"Move to {c.titles.full(f.contact)}, which makes it", edits.tie, lead, f.contact
                )
                return


@rule(
    "frame-short",
    "Frame shorter than its pulse",
    "stop",
    "A pulse has to end before the next one begins. In a frame that is shorter than its longest pulse the "
    "output simply stays high: the part stands at an end, or does not understand it.",
    "catalogue: longest pulse of the part; frame = 1 / frequency",
    each=of_each(pulsed),
)
def frame_short(facts: Facts, use: tuple[str, str, float]) -> Iterator[Observation]:
    c = facts.circuit
    _, lead, hz = use
    tie, need, servo_facts = c.ties.of(lead), c.needs.of(lead), c.parts[split(lead)[0]].facts.servo
    longest = servo_facts.most_s if servo_facts is not None else getattr(need, "most_s", None)
    if tie is None or not longest or longest < 1 / hz:
        return
    yield Observation(
        f"{c.titles.of(lead)} has pulses of up to {show(longest, 's')}, and at {show(hz, 'Hz')} a frame "
        f"lasts {show(1 / hz, 's')}.",
        (lead, tie.to),
        (Number("longest pulse", longest, "s", 1 / hz), Number("frequency", hz, "Hz", 1 / longest)),
        on_demand(_own_frame, tie),
    )


def _own_frame(tie: Tie) -> Iterator[Remedy]:
    if tie.hertz:
        yield remedy("Take the part's own frequency", edits.set_hertz, tie.id, 0.0)


@rule(
    "capture-shared",
    "Timer that measures and makes pulses",
    "care",
    "A timer that makes pulses begins to count anew with each of them. A longer pulse that is measured by "
    "the same timer is then taken for a shorter one.",
    "catalogue: which timer takes the time of a pin's edges; period = 1 / frequency",
    each=of_circuit(captures),
)
def capture_shared(facts: Facts, taken: Capture) -> Iterator[Observation]:
    c = facts.circuit
    shared = next((t for t in reversed(timers(c)) if t.unit == taken.timer), None) if taken.timer else None
    if shared is None or taken.longest_s <= 1 / shared.timer.hz:
        return
    lead = shared.uses[0].lead
    period = 1 / shared.timer.hz
    yield Observation(
        f"{c.titles.of(taken.lead)} has pulses of up to {show(taken.longest_s, 's')}; {shared.title}, "
        f"which measures them, starts anew every {show(period, 's')} for {c.titles.of(lead)}.",
        (taken.lead, *(u.lead for u in shared.uses)),
        (
            Number("longest pulse", taken.longest_s, "s", period),
            Number("frequency", shared.timer.hz, "Hz"),
        ),
        from_circuit(_off_the_timer, shared),
    )


def _off_the_timer(c: Circuit, shared: Shared) -> Iterator[Remedy]:
    """Every output of a timer on a pin of another one."""
    moved: dict[str, str] = {}
    for use in shared.uses:
        able = (
            f.contact
            for f in candidates(c, use.lead)
            if f.grade <= Grade.GOOD
            and f.contact not in moved.values()
            and (pin := c.contacts.pin(f.contact)) is not None
            and pin.jobs("pwm")
            and all(c.hardware.unit_id(f.contact, job) != shared.unit for job in pin.jobs("pwm"))
        )
        contact = next(able, "")
        if not contact:
            return
        moved[use.lead] = contact
    where = ", ".join(f"{c.titles.of(lead)} to {c.titles.full(to)}" for lead, to in moved.items())
    yield Remedy(f"Move {where}", tuple(Step(edits.tie, pair) for pair in moved.items()))


@rule(
    "servo-coarse",
    "Servo moved in coarse steps",
    "care",
    "A pulse can only be set in whole counts of its timer. With few of them between its ends, a servo "
    "moves in jerks.",
    "catalogue: counter of the timer; step = angle range · tick / pulse range",
    each=of_each(timers_of),
)
def servo_coarse(facts: Facts, shared: Shared) -> Iterator[Observation]:
    c = facts.circuit
    for u in shared.uses:
        s = c.parts[split(u.lead)[0]].facts.servo
        if s is None or servo.steps(s, shared.timer) >= servo.least_steps(s):
            continue
        step, steps = servo.finest(s, shared.timer), servo.steps(s, shared.timer)
        text = f"steps of {step:.2g}°" if s.degrees else f"{steps} steps"
        yield Observation(
            f"{c.titles.of(u.lead)} moves in {text}: {shared.title} sets pulses only to "
            f"{show(shared.timer.tick_s, 's')}.",
            (u.lead, u.contact),
            (
                Number("steps between the ends", steps, "", servo.least_steps(s), lower=True),
                Number("finest pulse", shared.timer.tick_s, "s"),
            ),
            from_circuit(_better_timer, u.lead, partial(_fine, s)),
        )


def _near(t: Timer) -> bool:
    return abs(t.off) <= OFF


def _fine(s: Servo, t: Timer) -> bool:
    return servo.steps(s, t) >= servo.least_steps(s) and abs(t.off) <= OFF_FRAME


@rule(
    "stepper-fast",
    "Stepper asked for more than it follows",
    "care",
    "Above its start-stop rate a stepper loses steps unless it is brought there by a ramp; above its fastest "
    "rate it loses them in any case, and nobody notices until it stands somewhere else.",
    "catalogue: start-stop rate, fastest rate, acceleration; steps/s = turns/min · steps per turn / 60",
    each=parts,
)
def stepper_fast(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    part = c.parts[part_id]
    s = part.facts.stepper
    if s is None or not s.start_stop_hz or "rpm" not in c.placed[part_id].settings:
        return
    rpm = stepper.asked_rpm(c, part_id)
    hz = stepper.full_hz(s, rpm)
    beyond = s.most_hz and hz > s.most_hz * (1 + 1e-9)
    if not beyond and (hz <= s.start_stop_hz * (1 + 1e-9) or c.placed[part_id].settings.get("ramp") == "yes"):
        return
    name, most = c.placed[part_id].name, s.most_hz if beyond else s.start_stop_hz
    how = "it can follow" if beyond else "without a ramp it can follow"
    yield Observation(
        f"{name} is to turn {rpm:g} times a minute, {show(hz, 'Hz')} in full steps; {how} "
        f"up to {show(most, 'Hz')}.",
        (part_id,),
        (
            Number("full steps a second", hz, "Hz", most),
            Number("turns a minute", rpm, "", stepper.rpm_at(s, most)),
            Number("ramp", stepper.ramp_s(s, min(rpm, stepper.rpm_at(s, s.most_hz or hz))), "s"),
        ),
        from_circuit(_slower, part_id, bool(beyond)),
        "stop" if beyond else None,
    )


def _slower(c: Circuit, part_id: str, beyond: bool) -> Iterator[Remedy]:
    s = c.parts[part_id].facts.stepper
    assert s is not None
    if not beyond and s.ramp_hz_per_s:
        took = stepper.ramp_s(s, stepper.asked_rpm(c, part_id))
        yield remedy(
            f"Bring it there by a ramp of {show(took, 's')}",
            edits.set_program_setting,
            part_id,
            "ramp",
            "yes",
        )
    usual = stepper.usual_rpm(s)
    steps = (
        Step(edits.set_program_setting, (part_id, "rpm", usual)),
        Step(edits.set_program_setting, (part_id, "ramp", None)),
    )
    yield Remedy(f"Turn {usual:g} times a minute", steps)


@rule(
    "coil-order",
    "Coils out of stepping order",
    "note",
    "A program that switches the driver's inputs one after another has to meet the coils in stepping order; "
    "otherwise the field jumps to and fro and the motor buzzes where it stands.",
    "catalogue: stepping order of the leads; the fields of the coils added as vectors",
    each=parts,
)
def coil_order(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    w = stepper.wired(c, part_id) if c.parts[part_id].facts.stepper and not crossed(c, part_id) else None
    if w is None or stepper.turn(w.natural, "full").does != "buzzes":
        return
    if w.natural == w.pairs and all("bridge" in c.contacts.pins[x].functions for x in w.contacts):
        return  # each winding on its own bridge, one end after the other: that is how bridges are wired
    names = ", ".join(c.titles.own(w.leads[k]) for k in w.natural)
    right = ", ".join(c.titles.own(t.lead) for t in stepper.input_ties(c, w))
    yield Observation(
        f"{c.placed[part_id].name} is wired to its driver as {names}: switched in the driver's order it only "
        f"buzzes. List the pins in the program as {right}, or exchange the wires.",
        w.leads,
        (
            Number(
                "the field's way through a cycle",
                stepper.turn(w.natural, "full").degrees,
                "°",
                360.0,
                lower=True,
            ),
        ),
        from_circuit(_in_order, w),
    )


def _in_order(c: Circuit, w: stepper.Wired) -> Iterator[Remedy]:
    """Every coil on the driver's contact that is its turn."""
    contacts = [w.contacts[k] for k in w.natural]
    steps = tuple(
        Step(edits.tie, (lead, contact))
        for lead, contact, now in zip(w.leads, contacts, w.contacts, strict=True)
        if contact != now
    )
    yield Remedy(f"Tie the coils of {c.placed[w.part].name} in stepping order", steps)


@rule(
    "relay-fast",
    "Relay switched faster than it moves",
    "care",
    "A contact takes its time to close and to open, and wears out with each switching; switched faster it "
    "chatters, or does nothing at all.",
    "catalogue: operate and release time, least interval between switchings",
    each=parts,
)
def relay_fast(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    cycle = relay.cycle(c, part_id)
    if cycle is None or not cycle.fault:
        return
    short = {
        key: least
        for key, now, least in (
            ("on_s", cycle.on_s, cycle.least_on_s),
            ("off_s", cycle.off_s, cycle.least_off_s),
        )
        if now < least
    }
    slower = Remedy(
        f"Leave {show(max(short.values()), 's')} between",
        tuple(Step(edits.set_program_setting, (part_id, key, least)) for key, least in short.items()),
    )
    yield Observation(
        f"{c.placed[part_id].name} cannot follow: {cycle.fault}.",
        (part_id,),
        (
            Number("on", cycle.on_s, "s", cycle.least_on_s, lower=True),
            Number("off", cycle.off_s, "s", cycle.least_off_s, lower=True),
        ),
        given(slower),
    )


@rule(
    "pixels-slow",
    "Chain too long for its frames",
    "care",
    "The data of a chain go out one bit after another. The longer the chain, the fewer frames a second it "
    "can show.",
    "catalogue: bits, bit time and latch gap; frame = pixels · bits · bit time + gap",
    each=of_circuit(pixels.chains),
)
def pixels_slow(facts: Facts, chain: pixels.Chain) -> Iterator[Observation]:
    c = facts.circuit
    hz = pixels.asked_hz(c, chain.parts[0])
    if chain.most_hz < hz * (1 - 1e-9):
        name, most = c.placed[chain.parts[0]].name, at_most(chain.most_hz)
        fewer = remedy(
            f"Show {most:g} frames a second", edits.set_program_setting, chain.parts[0], "refresh", most
        )
        yield Observation(
            f"{name} is to show {hz:g} frames a second; {chain.count} pixels take {show(chain.frame_s, 's')} "
            f"each, {most:g} a second. At {hz:g} frames, {chain.longest_by_time(hz)} pixels fit.",
            chain.parts[:1],
            (
                Number("frame", chain.frame_s, "s", 1 / hz),
                Number("pixels", chain.count, "", chain.longest_by_time(hz)),
            ),
            given(fewer),
        )


@rule(
    "pixels-memory",
    "More pixels than the memory holds",
    "stop",
    "A program keeps three or four bytes for each pixel, beside everything else. Where they do not fit, it "
    "does not start, or stops at odd moments.",
    "catalogue: memory of the board; bytes = pixels · bits / 8",
    each=of_circuit(pixels.chains),
)
def pixels_memory(facts: Facts, chain: pixels.Chain) -> Iterator[Observation]:
    c = facts.circuit
    most = chain.longest_by_memory(c.board.memory_bytes)
    if most is not None and chain.count > most:
        yield Observation(
            f"{c.placed[chain.parts[0]].name} needs {chain.bytes} bytes for {chain.count} pixels; "
            f"{c.board.title} has {c.board.memory_bytes}, of which {show(pixels.MEMORY_SHARE, '%')} may be "
            f"taken: {most} pixels.",
            chain.parts[:1],
            (Number("bytes", chain.bytes, "", c.board.memory_bytes * pixels.MEMORY_SHARE),),
            from_circuit(_shorter, chain, most),
        )


def _shorter(c: Circuit, chain: pixels.Chain, most: int) -> Iterator[Remedy]:
    """The last part of the chain with as many pixels fewer as it takes, where its length can be chosen."""
    last = chain.parts[-1]
    part = c.parts[last]
    name = part.parameter("pixels")
    left = int(part.facts.pixels.count) - (chain.count - most) if part.facts.pixels else 0
    if name and not part.params[name].choices and left >= (part.params[name].least or 1):
        title = f"Shorten {c.placed[last].name} to {left} pixels"
        yield remedy(title, edits.set_param, last, name, float(left))
