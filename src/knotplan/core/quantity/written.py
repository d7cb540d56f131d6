"""Numbers as people write them: SI prefixes, and the letter code of IEC 60062.

>>> parse("4K7", "Ω"), parse("330R", "Ω"), parse("R47", "Ω"), parse("100n", "F"), parse("12 mA", "A")
(4700.0, 330.0, 0.47, 1e-07, 0.012)
>>> show(0.012, "A"), show(4700, "Ω"), show(0.00145, "s"), show(0, "A")
('12 mA', '4.7 kΩ', '1.45 ms', '0 A')
"""

import math
import re
from collections.abc import Sequence

PREFIX = {"p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3, "": 0, "k": 3, "K": 3, "M": 6, "G": 9}
_SHOWN = {-12: "p", -9: "n", -6: "µ", -3: "m", 0: "", 3: "k", 6: "M", 9: "G"}

UNPREFIXED = ("", "mm²", "°C", "K", "K/W", "°", "lx", "bar", "% r.h.")
"""units that are written without prefixes"""
NOTHING = {"V": 5e-4, "A": 5e-8}
"""below this a quantity of the unit is shown as 0"""

_PLAIN = re.compile(
    r"([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)\s*([pnuµμmkKMGRr]?)\s*([A-Za-zΩ%]*)"
)
_CODED = re.compile(r"(\d*)([pnuµμmkKMGRr])(\d+)\s*([A-Za-zΩ]*)")
VOLTS = re.compile(r"(\d{1,4})[Vv](\d{1,4})")
THOUSANDS = re.compile(r"[+-]?[1-9]\d{0,2}(,\d{3})+(?!\d)")
LONGEST = 60
"""letters of a number"""


class QuantityError(ValueError):
    """The text is not a quantity; the message says what would be."""


def parse(text: str, unit: str) -> float:
    """The value in the SI unit; raises QuantityError.

    Takes plain numbers, SI prefixes and the letter in place of the point (IEC 60062, clause 4).
    """
    if unit == "%" and text.strip().endswith("%"):  # a share: "5 %" is 0.05, and so is a plain 0.05
        return parse(text.strip().removesuffix("%"), "") / 100
    if len(text) > LONGEST:
        raise QuantityError(f"{text[:12]!r}… is longer than any number")
    if THOUSANDS.match(text.strip()):
        whole, point = text.strip().replace(",", ""), text.strip().replace(",", ".", 1)
        raise QuantityError(f"{text.strip()!r} can mean two numbers: write {whole} or {point}")
    if unit == "V" and (volts := VOLTS.fullmatch(text.strip())):  # as rails are called: 3V3
        return float(f"{volts[1]}.{volts[2]}")
    tidy = text.strip().removesuffix("ohms").removesuffix("ohm").removesuffix(unit).strip()
    if coded := _CODED.fullmatch(tidy):
        whole, letter, part, rest = coded.groups()
        digits = f"{whole or 0}.{part}"
    elif plain := _PLAIN.fullmatch(tidy):
        digits, letter, rest = plain.groups()
        digits = digits.replace(",", ".")
    else:
        raise QuantityError(f"{text!r} is not a number such as {_example(unit)}")
    if rest and rest != unit:
        raise QuantityError(f"{text!r} is in {rest}, but {unit} is wanted, such as {_example(unit)}")
    value = (
        float(f"{digits}e{PREFIX[letter.replace('R', '').replace('r', '')]}")
        if "e" not in digits.lower()
        else float(digits) * 10.0 ** PREFIX[letter.replace("R", "").replace("r", "")]
    )
    if not math.isfinite(value):
        raise QuantityError(f"{text!r} is too large")
    return value


def _example(unit: str) -> str:
    return {"Ω": "330, 4.7k or 4K7", "A": "12m or 0.012", "V": "3.3", "F": "100n"}.get(unit, f"1.5 {unit}")


def show(value: float, unit: str = "", digits: int = 3) -> str:
    """The value with a prefix and so many significant digits; what no bench meter shows is nothing.

    >>> show(0.25, "mm²"), show(0.05, "%"), show(124.7, "°C"), show(1.004, "%", 2)
    ('0.25 mm²', '5 %', '125 °C', '100 %')
    """
    share = value * 100
    if not math.isfinite(share):
        return f"{value:g} {unit}".strip()
    if unit == "%":
        shown = round(share) if abs(share) >= 10**digits else float(f"{share:.{digits}g}")
        return f"{shown:.10g} %"
    if unit in UNPREFIXED:
        shown = (
            round(value) if abs(value) >= 10**digits else float(f"{value:.{digits}g}")
        )  # codes and counts stay whole
        return f"{shown:.10g} {unit}".strip()
    if abs(value) < NOTHING.get(unit, 0.0):
        value = 0.0
    if value == 0:
        return f"{value:g} {unit}".strip()
    exponent = math.floor(math.log10(abs(value)) / 3 + 1e-12) * 3
    exponent = max(-12, min(0 if unit == "s" else 9, exponent))  # nobody counts in kiloseconds
    scaled = value / 10.0**exponent
    shown = round(scaled) if abs(scaled) >= 10**digits else float(f"{scaled:.{digits}g}")
    if abs(shown) >= 1000 and exponent < 9 and unit != "s":
        shown, exponent = shown / 1000, exponent + 3
    return f"{shown:.{10}g} {_SHOWN[exponent]}{unit}".strip()


def at_most(value: float, digits: int = 2) -> float:
    """A limit with so many digits, never rounded up.

    >>> at_most(81.97), at_most(0.2999), at_most(1234.0, 3)
    (81.0, 0.29, 1230.0)
    """
    scale = 10.0 ** (digits - 1 - math.floor(math.log10(value)))
    return float(f"{math.floor(value * scale * (1 + 1e-12)) / scale:.{digits}g}")


def beside(value: float, limit: float, unit: str) -> str:
    """A value beside its limit, in the limit's unit; less than a ten-thousandth of it or so is nothing.

    >>> beside(0.8508, 1.5, "A"), beside(0.0542, 0.06, "A"), beside(1e-6, 0.1, "A"), beside(2.0, 0.5, "A")
    ('0.851 of 1.5 A', '54.2 of 60 mA', '0 of 100 mA', '2000 of 500 mA')
    """
    exponent = max(-12, min(9, math.floor(math.log10(limit) / 3 + 1e-12) * 3))
    step = math.floor(math.log10(limit)) - 3 - exponent
    shown = round(float(f"{value / 10.0**exponent:.3g}"), -step)
    return f"{shown:.10g} of {limit / 10.0**exponent:.4g} {_SHOWN[exponent]}{unit}"


def code(ohm: float) -> str:
    """A resistance in the letter code of IEC 60062.

    >>> code(4700), code(330), code(0.47), code(1e6), code(180)
    ('4K7', '330R', 'R47', '1M', '180R')
    """
    for factor, letter in ((1e6, "M"), (1e3, "K"), (1.0, "R")):
        if ohm >= factor or factor == 1.0:
            text = f"{ohm / factor:.6g}"
            if "." in text:
                return text.removeprefix("0").replace(".", letter)
            return text + letter
    raise AssertionError("unreachable")


def farad_code(farad: float) -> str:
    """A capacitance in the letter code of IEC 60062; large ones stay in microfarads, as they are printed.

    >>> farad_code(100e-9), farad_code(4.7e-6), farad_code(22e-12), farad_code(1e-3)
    ('100n', '4u7', '22p', '1000u')
    """
    factor, letter = next(
        (f, at) for f, at in ((1e-6, "u"), (1e-9, "n"), (1e-12, "p")) if farad >= f * 0.9999 or at == "p"
    )
    text = f"{farad / factor:.6g}"
    return text.removeprefix("0").replace(".", letter) if "." in text else text + letter


def counted(number: int, thing: str) -> str:
    """A number of things, in words that agree.

    >>> counted(1, "tie"), counted(2, "tie"), counted(3, "supply"), counted(2, "address")
    ('1 tie', '2 ties', '3 supplies', '2 addresses')
    """
    if number == 1:
        return f"1 {thing}"
    if thing.endswith("y"):
        return f"{number} {thing[:-1]}ies"
    return f"{number} {thing}es" if thing.endswith("ss") else f"{number} {thing}s"


def listed(names: Sequence[str]) -> str:
    """Several names in a sentence.

    >>> listed(["Lamp"]), listed(["Lamp", "Bell"]), listed(["Lamp", "Bell", "Door"])
    ('Lamp', 'Lamp and Bell', 'Lamp, Bell and Door')
    """
    return " and ".join(filter(None, [", ".join(names[:-1]), names[-1]])) if names else ""
