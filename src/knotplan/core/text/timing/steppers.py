"""Steppers: exact steps, speeds, what holding costs, and the sequences in both orders."""

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.keys import of_part
from knotplan.core.quantity.written import show
from knotplan.core.text.timing.piece import Pieces, Table
from knotplan.core.timing import stepper


def of_steppers(report: Report, part_id: str) -> Pieces:
    """What there is to say about a stepper."""
    c = report.circuit
    s = c.parts[part_id].facts.stepper
    if s is None:
        return
    mode, rpm = stepper.asked_mode(c, part_id), stepper.asked_rpm(c, part_id)
    exact, r = stepper.steps_per_turn(s, mode), stepper.rounding(s, mode)
    if exact.denominator == 1:
        yield f"{exact} steps make a turn exactly.", ""
    else:
        yield (
            f"A turn is {exact.numerator}/{exact.denominator} = {float(exact):.4f} steps. Counted as "
            f"{r.whole}, it is {abs(r.degrees_per_turn):.2g}° off after one turn, and a whole step after "
            f"{r.turns_to_one_step:.3g}.",
            "",
        )
    round_gear = round(s.gear_teeth[1] / s.gear_teeth[0])
    if s.gear_teeth[1] != round_gear * s.gear_teeth[0]:
        steps = round(round_gear * 360 / s.step_degrees) * (2 if mode == "half" else 1)
        off = abs(stepper.rounding(s, mode, steps).degrees_per_turn)
        yield (
            f"Its gear is {s.gear_teeth[1]}:{s.gear_teeth[0]}, and not {round_gear}:1: counted like that, "
            f"{steps} steps, it is {off:.3g}° off after each turn.",
            "care",
        )
    hz = stepper.step_hz(s, mode, rpm)
    yield f"{rpm:g} turns a minute: a step every {show(1 / hz, 's', 4)}, {show(hz, 'Hz')}.", ""
    if s.start_stop_hz:
        top = stepper.rpm_at(s, s.start_stop_hz)
        yield (
            f"Without a ramp it follows up to {show(s.start_stop_hz, 'Hz')} in full steps, {top:.3g} turns a "
            "minute.",
            "faint",
        )
    if s.most_hz and s.ramp_hz_per_s:
        fastest = stepper.rpm_at(s, s.most_hz)
        yield (
            f"With one it reaches {fastest:.3g} turns a minute, in {show(stepper.ramp_s(s, fastest), 's')}.",
            "faint",
        )
    yield from _holding(report, part_id, mode)
    yield from _tables(c, part_id, mode)


def _holding(report: Report, part_id: str, mode: stepper.Mode) -> Pieces:
    """What flows while it stands, by the engine."""
    part = report.circuit.parts[part_id]
    readings = [r for name in part.elements for r in report.points.bars.get(of_part(part_id, name), [])]
    amps = max((r.most for r in readings), default=0.0)
    if amps > 1e-3:
        held = {
            "wave": show(amps, "A"),
            "full": show(2 * amps, "A"),
            "half": f"{show(amps, 'A')} or {show(2 * amps, 'A')}, with one coil or two,",
        }[mode]
        yield (
            f"Held where it stands it draws {held} ({show(amps, 'A')} a coil) and gets warm; "
            "released it draws nothing and holds by its gears and magnets alone.",
            "",
        )
    holds = report.circuit.parts[part_id].facts.stepper
    if holds is not None and holds.holding_nm:
        yield f"Energised with its rated current, its shaft holds {holds.holding_nm:g} N·m.", "faint"
    yield (
        f"Torque against one coil: {stepper.TORQUE[mode]:.2f}; {stepper.COILS_ON[mode]:g} coils on on "
        "average.",
        "faint",
    )


def _tables(c: Circuit, part_id: str, mode: stepper.Mode) -> Pieces:
    w = stepper.wired(c, part_id)
    if w is None:
        return
    names = [c.titles.own(t.lead) for t in stepper.input_ties(c, w)]
    rows = stepper.SEQUENCES[mode]
    heads = tuple(names[k] for k in w.natural)
    yield Table(
        "In the order of the wiring",
        ("step", *heads),
        tuple((str(k + 1), *("on" if row[i] else "·" for i in w.natural)) for k, row in enumerate(rows)),
    )
    orders = (("coil after coil", (0, 1, 2, 3)), ("both ends of a winding together", w.pairs))
    does = {"turns": "turns", "turns backwards": "turns backwards", "buzzes": "buzzes and stands still"}
    listed = []
    for title, order in orders:
        mixed = stepper.turn(order if order != (0, 1, 2, 3) else w.pairs, mode)
        listed.append((title, ", ".join(names[k] for k in order), does[mixed.does]))
    yield Table(
        "For the program's list of coils", ("the program wants", "so list", "mixed up, it"), tuple(listed)
    )
