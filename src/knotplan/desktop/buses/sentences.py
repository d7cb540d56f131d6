"""What there is to say of each kind of bus: (text, tone), each number beside what it is compared with."""

from knotplan.core.buses.i2c import I2cBus, some
from knotplan.core.buses.single import SLOT_S, SingleLine
from knotplan.core.buses.spi import Controller
from knotplan.core.buses.uart import EDGE, GOOD, Link
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import show

Sentences = list[tuple[str, str]]
MOST_PULLS = 4


def i2c_lines(c: Circuit, bus: I2cBus) -> Sentences:
    """Pull-ups, capacitance and levels of its slower line, and of every section behind a level shifter."""
    sentences: Sentences = []
    for section in bus.sections:
        if section.role != "sda" or not section.devices:
            continue
        strong = sorted(section.pulls, key=lambda p: p.ohm.typ)
        pulls = [f"{show(p.ohm.typ, 'Ω')} {p.what} to {show(p.volts.typ, 'V')}" for p in strong]
        if pulls:
            sentences.append((f"Pulled up by {some(pulls, MOST_PULLS)}.", ""))
        cords = sum(w.metres for w in section.weights)
        sentences.append(
            (
                f"{show(section.farad, 'F')} on each line: {len(section.weights)} contacts and cords, "
                f"{cords:.3g} m of cord; {bus.mode.title} counts with {show(bus.mode.farad, 'F')}.",
                "",
            )
        )
        weak = section.weakest
        if weak is not None and section.ohm is not None:
            tone = "" if section.pulled_a <= weak.amps else "care"
            sentences.append(
                (
                    f"Who pulls it low takes {show(section.pulled_a, 'A')} at worst; {weak.what} bears "
                    f"{show(weak.amps, 'A')} and leaves {show(section.low_v(weak), 'V')}.",
                    tone,
                )
            )
    return sentences


def spi_lines(c: Circuit, k: Controller) -> Sentences:
    """Clock, modes and cords."""
    sentences: Sentences = []
    if k.reached is not None:
        sentences.append(
            (
                f"Divided by {k.reached.divisor:g} it runs at {show(k.reached.hz, 'Hz')}; {k.limited_by} "
                f"bears {show(k.most_hz, 'Hz')}.",
                "",
            )
        )
    else:
        sentences.append((f"At most {show(k.most_hz, 'Hz')}: {k.limited_by}.", ""))
    if k.modes:
        sentences.append((f"Mode {' or '.join(map(str, k.modes))} is understood by all of them.", ""))
    else:
        sentences.append(("They have no mode in common: the program sets it anew for each.", "care"))
    orders = {f.msb_first for d in k.devices if (f := c.parts[d.part].facts.spi) is not None}
    if len(orders) == 1:
        sentences.append((f"{'Most' if True in orders else 'Least'} significant bit first.", ""))
    else:
        sentences.append(("Their bit orders differ: the program sets it anew for each.", "care"))
    for select in k.selects:
        if len(select.devices) > 1:
            names = some([c.placed[d.part].name for d in select.devices])
            sentences.append(
                (
                    f"{names} stand in a chain: {select.bits} bits go out at once, those for the last one "
                    "first.",
                    "",
                )
            )
    if k.software:
        sentences.append(
            ("The program makes each edge itself, which leaves it little time for anything else.", "care")
        )
    return sentences


def uart_lines(c: Circuit, link: Link) -> Sentences:
    """Both ends' rates and what a byte takes."""
    sentences: Sentences = []
    if link.reached is not None:
        off = abs(link.reached.error)
        text = f"{link.reached.hz:.1f} baud, {off:.2%} off"
        sentences.append((f"Divided by {link.reached.divisor:g} the board makes {text}.", ""))
        if link.error > EDGE:
            tone = "stop"
        elif link.error > GOOD:
            tone = "care"
        else:
            tone = ""
        sentences.append(
            (
                f"Both ends together are at worst {show(link.error, '%', 2)} apart; {show(GOOD, '%')} are "
                "safe.",
                tone,
            )
        )
    else:
        sentences.append(("The catalogue does not say how this board makes its rate.", "faint"))
    sentences.append(
        (f"A byte takes {show(link.bits / link.baud, 's')}: {link.bytes_per_s:.0f} bytes a second.", "faint")
    )
    wrong = [line for line in link.lines if not line.crossed]
    if wrong:
        sentences.append(
            (f"{some([c.titles.of(x.lead) for x in wrong])}: both ends do the same. Exchange them.", "stop")
        )
    if link.console:
        sentences.append((f"These pins are those of the board's {link.console}.", "care"))
    return sentences


def line_lines(c: Circuit, line: SingleLine) -> Sentences:
    """Pull-up, cord and time of a single line."""
    sentences: Sentences = [
        (f"{line.metres:.3g} m of cord and {len(line.parts)} parts: {show(line.farad, 'F')}.", "")
    ]
    one_wire = line.protocol == "one-wire"
    if line.ohm is None:
        sentences.append(("Nothing pulls it up: between messages it floats.", "stop"))
    elif one_wire and line.rise_s is not None:
        tone = "care" if line.rise_s > SLOT_S else ""
        sentences.append(
            (f"It rises in {show(line.rise_s, 's')}; {show(SLOT_S, 's')} are left for that.", tone)
        )
        sentences.append(
            (f"Its pull-up may be {show(line.least_ohm, 'Ω')} to {show(line.most_ohm, 'Ω')}.", "faint")
        )
    if line.parasitic:
        names = some([c.placed[p].name for p in line.parasitic])
        sentences.append(
            (
                f"Without a supply of its own: {names}. {show(line.convert_a, 'A')} while one measures, over "
                f"at most {show(line.feeding_ohm or 0, 'Ω')}.",
                "care",
            )
        )
    if line.timed:
        sentences.append((f"The pin keeps the time, to {show(line.finest_s, 's')}.", ""))
    else:
        sentences.append(
            (
                f"The pin does not keep the time: {show(line.finest_s, 's')} are to be told apart, and the "
                "system interrupts the program.",
                "care",
            )
        )
    return sentences
