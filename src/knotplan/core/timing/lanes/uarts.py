"""Bytes on UARTs."""

from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import show
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.wave import Mark, bits_wave

TEXT = "Hi!"
MOST_BYTES = 64


def uart_bits(data: bytes, frame: str) -> list[int]:
    """Start, data with the least significant bit first, parity, stop.

    >>> uart_bits(b"U", "8N1")
    [0, 1, 0, 1, 0, 1, 0, 1, 0, 1]
    """
    size, parity, stop = int(frame[0]), frame[1].upper(), int(float(frame[2:]))
    line: list[int] = []
    for byte in data:
        bits = [byte >> n & 1 for n in range(size)]
        odd = sum(bits) % 2
        check = {"E": [odd], "O": [1 - odd]}.get(parity, [])
        line += [0, *bits, *check, *[1] * stop]
    return line


def uarts(c: Circuit) -> Lanes:
    """Both directions of every UART, with the text that is asked for."""
    for link in links(c):
        text = str(c.placed[link.part].settings.get("text", TEXT)) or TEXT
        data = text.encode("utf-8")[:MOST_BYTES]
        for line in link.lines:
            bit_s = 1 / (link.reached.hz if link.reached and not line.sends else link.baud)
            length = link.bits * bit_s
            marks = tuple(Mark(k * length, (k + 1) * length, _letter(b)) for k, b in enumerate(data))
            wave = bits_wave(uart_bits(data, link.frame), bit_s, length * len(data) * 2, marks=marks)
            yield made(
                c,
                line.lead,
                line.contact,
                "uart",
                f"{link.baud:g} baud, {link.frame}: {show(length, 's')} a byte",
                wave,
            )


def _letter(byte: int) -> str:
    return f"{chr(byte)} {byte:02X}" if 32 <= byte < 127 else f"{byte:02X}"
