"""Sensors, pulses that are measured, and light grids."""

from knotplan.catalog.part.facts import Sensor
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.text.timing.piece import Pieces, Table
from knotplan.core.timing import capture, grid


def of_sensors(c: Circuit, part_id: str) -> Pieces:
    """What a sensor measures."""
    sensor = c.parts[part_id].facts.sensor
    if sensor is not None:
        yield sensor_text(sensor), ""


def sensor_text(s: Sensor) -> str:
    """Its range, its finest step, how far a reading may be off, and how long one takes."""
    unit = s.unit and f" {s.unit}"
    least, most = (f"{end:g}".replace("-", "−") for end in (s.least, s.most))
    return (
        f"Measures {s.measures} from {least} to {most}{unit}, in steps of {s.finest:g}{unit}, correct to "
        f"within {s.accuracy:g}{unit}; a reading takes {show(s.seconds, 's')}."
    )


def of_captures(c: Circuit, part_id: str) -> Pieces:
    """What there is to say about pulses that are measured."""
    radio = c.parts[part_id].facts.radio
    for made in capture.captures(c):
        if split(made.lead)[0] != part_id:
            continue
        if made.tick_s:
            yield (
                f"{c.titles.of(made.lead)}: {made.by} measures to {show(made.tick_s, 's')}.",
                "" if made.good else "care",
            )
        else:
            yield f"{c.titles.of(made.lead)}: {made.by} measures it, and the reading jumps.", "care"
    if radio is None:
        return
    one, two = capture.levels(radio)
    yield f"A three-position switch: below {show(one, 's')}, between, and above {show(two, 's')}.", ""

    m = mapping_of(c, part_id)
    if m is not None:
        rows = tuple(
            (f"{us} µs", str(m.at(us))) for us in range(m.least, m.most + 1, max(1, (m.most - m.least) // 4))
        )
        yield Table("From pulse to value", ("pulse", "value"), rows)


def mapping_of(c: Circuit, part_id: str) -> capture.Mapping | None:
    """From measured ends, in microseconds, to the range that the program wants."""
    radio = c.parts[part_id].facts.radio
    if radio is None:
        return None
    usual = {"low_s": radio.least_s, "high_s": radio.most_s, "to_low": 0.0, "to_high": 255.0}
    low, high, to_low, to_high = (c.placed[part_id].setting(k, value) for k, value in usual.items())
    return capture.Mapping(round(low * 1e6), round(high * 1e6), round(to_low), round(to_high))


def of_grids(c: Circuit, part_id: str) -> Pieces:
    """What there is to say about a grid of lights."""
    for sign in grid.signs(c):
        if part_id not in sign.parts:
            continue
        k = sign.parts.index(part_id)
        g = sign.grids[k]
        before = sum(x.columns for x in sign.grids[:k])
        yield (
            f"Module {k + 1} of {len(sign.parts)} from the controller; its words go out as number "
            f"{len(sign.parts) - k} of {len(sign.parts)}, the farthest first.",
            "",
        )
        last = before + g.columns
        yield (
            f"Columns {before + 1} to {last} of {sign.columns} counted from 1, {before} to {last - 1} "
            f"counted from 0; lies {g.turned if g.turned == 'as printed' else 'turned by ' + g.turned}.",
            "",
        )
        yield f"Each row is lit for {show(grid.row_s(g), 's')}, {g.scan_hz:g} times a second.", "faint"
        current = c.parts[part_id].facts.current_set
        if current is not None:
            ohm = float(
                c.placed[part_id].params.get(current.param, c.parts[part_id].params[current.param].default)
            )
            peak, mean = grid.light_a(current, ohm)
            yield (
                f"{show(ohm, 'Ω')} set {show(peak, 'A')} while a row is lit, {show(mean, 'A')} on average; "
                f"the lights bear {show(current.most_a, 'A')}.",
                "care" if peak > current.most_a else "",
            )
        corners = [(0, 0), (g.columns - 1, 0), (0, g.rows - 1), (g.columns - 1, g.rows - 1)]
        rows = []
        for x, y in corners:
            light = sign.light(before + x, y)
            rows.append(
                (
                    f"{before + x}, {y}",
                    f"{before + x + 1}, {y + 1}",
                    str(light.row + 1),
                    f"0x{1 << light.bit:02X}",
                )
            )
        yield Table("Its corners: column and row", ("from 0", "from 1", "register", "data"), tuple(rows))
