"""An address as somebody wrote it down: of seven bits or with the read/write
bit behind, in hex, decimal or binary."""

import re
from collections.abc import Collection

from msgspec import Struct

from knotplan.core.buses.addresses import FREE, reserved

_HEX = re.compile(r"(?:0[xX]|\$|#)([0-9A-Fa-f]{1,2})|([0-9A-Fa-f]{1,2})[hH]")
_BINARY = re.compile(r"(?:0[bB])?([01]{7,8})")
_PLAIN = re.compile(r"[0-9A-Fa-f]{1,3}")


class Meaning(Struct, frozen=True):
    """One way to read what was written."""

    address: int
    """of 7 bits"""
    how: str
    """in words: "hex, with the write bit" """
    eight: bool
    """it was written with the read/write bit"""
    likely: bool = True
    """it is an address that the device can have"""


class AddressError(ValueError):
    """The text is no address; the message says what would be."""


def read(text: str, can_be: Collection[int] = FREE) -> list[Meaning]:
    """What a written address can mean, the likeliest first; raises AddressError.

    An address of eight bits is the one of seven shifted left, with the read/write
    bit last (NXP UM10204 clause 3.1.10).

    >>> [(hex(m.address), m.how) for m in read("0x91")]
    [('0x48', 'hex, of eight bits with the read bit')]
    >>> [(hex(m.address), m.how) for m in read("72", {0x48})][0]
    ('0x48', 'decimal')
    """
    tidy = text.strip().replace("_", "").replace(" ", "")
    meanings = [
        Meaning(
            value >> 1 if eight else value,
            _how(base, value if eight else None),
            eight,
            (value >> 1 if eight else value) in can_be,
        )
        for base, value, eight in _values(tidy)
    ]
    sound = [m for m in dict.fromkeys(meanings) if m.address in FREE]
    if not sound:
        why = next(
            (f"{m.address:#04x} is reserved: {reserved(m.address)}" for m in meanings if reserved(m.address)),
            "",
        )
        raise AddressError(
            f"{text!r} is no address"
            + (f" ({why})" if why else "")
            + "; write it as 0x48, 72 or 1001000, or of "
            "eight bits as 0x90"
        )
    return sorted(sound, key=lambda m: (not m.likely, m.eight))


def _values(text: str) -> list[tuple[str, int, bool]]:
    """(base, value, of eight bits) of every way to read some digits."""
    if match := _HEX.fullmatch(text):
        return _both("hex", int(match[1] or match[2], 16))
    if match := _BINARY.fullmatch(text):
        return [("binary", int(match[1], 2), len(match[1]) == 8)]
    if not _PLAIN.fullmatch(text):
        return []
    plain = _both("decimal", int(text)) if text.isdecimal() and int(text) < 256 else []
    return plain + (_both("hex", int(text, 16)) if len(text) <= 2 else [])


def _both(base: str, value: int) -> list[tuple[str, int, bool]]:
    return ([(base, value, False)] if value < 128 else []) + [(base, value, True)]


def _how(base: str, eight: int | None) -> str:
    if eight is None:
        return base
    return f"{base}, of eight bits with the {'read' if eight & 1 else 'write'} bit"


def forms(address: int) -> tuple[tuple[str, str], ...]:
    """An address in every form in which programs and data sheets write it.

    >>> dict(forms(0x48))["to write, of eight bits"]
    '0x90'
    """
    return (
        ("of seven bits", f"0x{address:02X}"),
        ("decimal", str(address)),
        ("binary", f"{address:07b}"),
        ("to write, of eight bits", f"0x{address << 1:02X}"),
        ("to read, of eight bits", f"0x{address << 1 | 1:02X}"),
    )
