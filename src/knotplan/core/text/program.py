"""Numbers for the program, besides the pins: addresses, buses, counts, sequences, tables, rates."""

import re
from collections.abc import Iterator

from msgspec import Struct

from knotplan.core.buses.addresses import address_of, bus_of, trunk
from knotplan.core.buses.numbers import number_of
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.text.timing import mapping_of, steps_of
from knotplan.core.timing import pixels, stepper
from knotplan.core.timing.capture import levels
from knotplan.core.timing.codes import analog_leads, measured_codes
from knotplan.core.timing.program_settings import pulsed_leads
from knotplan.core.timing.pulses import timer_of, timers

Value = int | float | str | tuple[int, ...] | tuple[tuple[int, ...], ...]


class Constant(Struct, frozen=True):
    """One number, or a table of them."""

    name: str
    value: Value
    remark: str
    hexadecimal: bool = False


TAKEN = re.compile(
    r"E[0-9A-Z][A-Z0-9]*|SIG[A-Z_]+|FE_[A-Z_]+|LC_[A-Z_]+|(PRI|SCN)[dioxXuA-Z0-9]+|U?INT[A-Z0-9_]*_(MAX|MIN|C)|ATOMIC_[A-Z_]+|"
    r"(CHAR|SCHAR|UCHAR|SHRT|USHRT|LONG|ULONG|LLONG|ULLONG|PTRDIFF|SIZE|WCHAR|WINT|RAND|MB_CUR|MB_LEN|FOPEN|FILENAME|TMP|L_TMPNAM)"
    r"_?(MAX|MIN|BIT)?|(FLT|DBL|LDBL|DECIMAL)_[A-Z0-9_]+|M_[A-Z0-9_]+|HUGE_VAL[FL]?|FP_[A-Z_]+|MATH_[A-Z]+|EXIT_[A-Z]+|SEEK_[A-Z]+|"
    r"CLOCKS_PER_SEC|TIME_UTC|CHAR_BIT|BUFSIZ|NULL|NAN|INFINITY|I|TRUE|FALSE|BOOL|ASSERT|STDIN|STDOUT|STDERR|NDEBUG|ERRNO|"
    r"CMPLX[FL]?|WEOF|ONCE_FLAG_INIT|TSS_[A-Z_]+|MB_[A-Z_]+|L_[A-Z]+"
)
"""macros that the standard library of C has or keeps for itself (C11 7.31 and annex B)"""


def word(text: str, before: str = "N") -> str:
    """A name as programs write constants; `before` leads what a program or C's own library could not have so.

    >>> word("Fog horn 2"), word("5 V brick"), word("int max"), word("EOF", "PIN_")
    ('FOG_HORN_2', 'N5_V_BRICK', 'NINT_MAX', 'PIN_EOF')
    """
    cleaned = re.sub(r"[\W_]+", "_", text, flags=re.ASCII).strip("_").upper() or "PART"
    return f"{before}{cleaned}" if cleaned[0].isdigit() or TAKEN.fullmatch(cleaned) else cleaned


def free(name: str, taken: set[str]) -> str:
    """The name, or with the first number behind it that makes it one of its own; it is taken from now on."""
    number, text = 1, name
    while text in taken:
        number += 1
        text = f"{name}_{number}"
    taken.add(text)
    return text


def constants(report: Report) -> list[Constant]:
    """All of them, parts in their order; parts of one kind with the same numbers have them once."""
    c = report.circuit
    return _once(c, [k for part_id in c.parts for k in (*_of_part(c, part_id), *_of_hub(c, part_id))])


_Made = tuple[str, str, Constant]
"""(part, what follows the part's name, the constant)"""


def _once(c: Circuit, mades: list[_Made]) -> list[Constant]:
    """Numbers that all of many parts of a kind have in common stand under the kind's name."""
    groups: dict[tuple[str, str], list[Constant]] = {}
    for part_id, tail, k in mades:
        groups.setdefault((c.placed[part_id].part, tail), []).append(k)
    common = {key for key, ks in groups.items() if len(ks) >= MANY and len({repr(k.value) for k in ks}) == 1}
    unique: list[Constant] = []
    names: set[tuple[str, str]] = set()
    for part_id, tail, k in mades:
        key = (c.placed[part_id].part, tail)
        if key not in common:
            unique.append(k)
        elif key not in names:
            names.add(key)
            title = c.parts[part_id].title
            remark = k.remark.removeprefix(f"{c.placed[part_id].name}: ")
            unique.append(
                Constant(f"{word(title)}_{tail}", k.value, f"all {len(groups[key])}: {remark}", k.hexadecimal)
            )
    return unique


MANY = 5
"""from so many parts on that have a number in common it is written once"""


def _of_part(c: Circuit, part_id: str) -> Iterator[_Made]:
    name = c.placed[part_id].name

    def made(tail: str, value: Value, remark: str, hexadecimal: bool = False) -> _Made:
        return part_id, tail, Constant(f"{word(name)}_{tail}", value, remark, hexadecimal)

    for tail, value, remark, hexadecimal in _numbers(c, part_id):
        yield made(tail, value, remark, hexadecimal)


_Number = tuple[str, Value, str, bool]


def _numbers(c: Circuit, part_id: str) -> Iterator[_Number]:
    facts, name = c.parts[part_id].facts, c.placed[part_id].name
    bus, address = bus_of(c, part_id) if facts.i2c else None, address_of(c, part_id)
    if bus is not None and address is not None:
        root = trunk(c, bus)[-1]
        number = number_of(c, root.unit)
        yield "ADDRESS", address, f"{name}, of 7 bits", True
        if number is not None:
            behind = ", behind its switch" if root != bus else ""
            yield "BUS", number, f"{name}: the bus as the system counts it{behind}", False
    yield from _spoken(c, part_id)
    yield from _moving(c, part_id)
    if facts.relay is not None:
        yield "LEAST_MS", round(facts.relay.least_interval_s * 1e3), f"{name}: between two switchings", False
    chain = pixels.chain_of(c, part_id)
    if chain is not None and chain.parts[0] == part_id:
        yield "PIXELS", chain.count, f"{name}: in the whole chain", False
        yield "FRAME_US", round(chain.frame_s * 1e6), f"{name}: one frame with its gap", False
    m = mapping_of(c, part_id)
    if m is not None and facts.radio is not None:
        one, two = (round(x * 1e6) for x in levels(facts.radio))
        yield "LEVELS_US", (one, two), f"{name}: between a switch's three positions", False
        yield "ENDS_US", (m.least, m.most), f"{name}: become {m.low} to {m.high}", False
    yield from _measured(c, part_id)


def _measured(c: Circuit, part_id: str) -> Iterator[_Number]:
    """Codes that a converter has shown at both ends of what it measures."""
    mine = [lead for lead in analog_leads(c) if split(lead)[0] == part_id]
    for lead in mine:
        codes = measured_codes(c, lead)
        if codes is not None:
            tail = "CODES" if len(mine) == 1 else f"{word(split(lead)[1])}_CODES"
            yield (
                tail,
                (round(codes[0]), round(codes[1])),
                f"{c.titles.of(lead)}: measured at both ends",
                False,
            )


def _spoken(c: Circuit, part_id: str) -> Iterator[_Number]:
    """What a UART or an SPI controller is set to."""
    name = c.placed[part_id].name
    for link in links(c):
        if link.part == part_id:
            yield "BAUD", round(link.baud), f"{name}, {link.frame}", False
    for k in controllers(c):
        if any(d.part == part_id for d in k.devices):
            spec = c.parts[part_id].facts.spi
            yield "SPI_HZ", int(k.hz), f"{name}: {k.title}, at most", False
            if spec is not None:
                mode = next((m for m in k.modes if m in spec.modes), spec.modes[0])
                yield "SPI_MODE", mode, f"{name}: polarity and phase", False


def _moving(c: Circuit, part_id: str) -> Iterator[_Number]:
    """Servos, steppers and lights that are dimmed."""
    facts, name = c.parts[part_id].facts, c.placed[part_id].name
    for lead in pulsed_leads(c, part_id):
        shared = timer_of(c, lead)
        if shared is None:
            continue
        if facts.servo is not None:
            s, t = facts.servo, shared.timer
            what = f"0 to {s.degrees:g} degrees" if s.degrees else "full speed back to full speed on"
            if shared.unit.on_board:
                yield "PULSE_US", (round(s.least_s * 1e6), round(s.most_s * 1e6)), f"{name}: {what}", False
            else:
                yield (
                    "COUNTS",
                    (t.count(s.least_s), t.count(s.most_s)),
                    f"{name}: {what}, of {t.counts}",
                    False,
                )
        else:
            counts = steps_of(c, part_id, shared)
            tail = "STEPS" if len(pulsed_leads(c, part_id)) == 1 else f"{word(split(lead)[1])}_STEPS"
            yield (
                tail,
                counts,
                f"{name}: steps of brightness, of {counts[-1]} at {show(shared.timer.hz, 'Hz', 4)}",
                False,
            )
    s2 = facts.stepper
    if s2 is not None:
        mode, rpm, driver = (
            stepper.asked_mode(c, part_id),
            stepper.asked_rpm(c, part_id),
            stepper.driver_of(c, part_id),
        )
        micro = stepper.microsteps(c, driver) if driver else 1
        mode = "full" if driver else mode  # a step and direction driver makes its own sequence
        r = stepper.rounding(s2, mode, micro=micro)
        exact = f"exactly {r.exact}" if r.exact.denominator > 1 else "exactly"
        kind = f"steps of 1/{micro}" if micro > 1 else f"{mode} steps"
        hz = stepper.step_hz(s2, mode, rpm) * micro
        yield "STEPS_PER_TURN", r.whole, f"{name}, {kind}: {exact}", False
        yield "STEP_US", round(1e6 / hz), f"{name}: {rpm:g} turns a minute", False
        w = stepper.wired(c, part_id)
        if w is not None:
            names = ", ".join(c.titles.own(t.lead) for t in stepper.input_ties(c, w))
            yield "SEQUENCE", stepper.SEQUENCES[mode], f"{name}: levels of {names}", False


def _of_hub(c: Circuit, part_id: str) -> Iterator[_Made]:
    """What a hub's counter is set to."""
    for shared in timers(c) if c.parts[part_id].is_hub else ():
        if shared.unit.owner == part_id and shared.counter is not None:
            name = c.placed[part_id].name
            remark = f"{name}: gives {show(shared.timer.hz, 'Hz', 5)}"
            yield part_id, "PRESCALE", Constant(f"{word(name)}_PRESCALE", shared.timer.written, remark)
