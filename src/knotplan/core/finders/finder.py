"""What a finder is: its inputs, and what it finds."""

from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from knotplan.core.plan.assumptions import BY_ID as ASSUMPTIONS
from knotplan.core.quantity.series import SERIES, TOLERANCE, above, at_or_above, bands_words, below
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import code, farad_code, show


class FinderError(ValueError):
    """The inputs give no answer; the message lists everything that is wrong with them."""


class Input(Struct, frozen=True):
    """One input: a quantity in an SI unit, or one of some choices."""

    name: str
    title: str
    unit: str = ""
    default: float | str | None = None
    """nothing where it has to be given"""
    least: float = 0.0
    most: float = 1e12
    above: bool = True
    """it has to be above `least`, and not just there"""
    choices: tuple[str, ...] = ()
    whole: bool = False
    """a count"""
    help: str = ""
    assumes: str = ""
    """the assumption of a plan that is taken where it is asked from one"""
    nought: str = ""
    """what 0 stands for, where it stands for something else"""

    @property
    def asks(self) -> str:
        """Its title as a form shows it."""
        return f"{self.title} (0: {self.nought})" if self.nought else self.title

    def fault(self, value: float | str | None) -> str:
        """What is wrong with a value; empty where nothing is."""
        if value is None:
            return f"{self.title} is missing"
        if self.choices:
            return (
                ""
                if value in self.choices
                else f"{self.title}: {value!r} is none of {', '.join(self.choices)}"
            )
        if isinstance(value, str):
            return f"{self.title}: {value!r} is not a number"
        if not value <= self.most:
            return f"{self.title}: {show(value, self.unit)} is above {show(self.most, self.unit)}"
        if self.whole and value != round(value):
            return f"{self.title}: {value:g} is not a whole number"
        if value < self.least or (self.above and value == self.least):
            limit = f"{'above' if self.above else 'at least'} {show(self.least, self.unit)}"
            return f"{self.title}: {show(value, self.unit)} is not {limit}"
        return ""


def assumed(name: str, assumption: str) -> Input:
    """An input that a plan answers by one of its assumptions."""
    a = ASSUMPTIONS[assumption]
    usual = a.usual
    return Input(
        name,
        a.title,
        a.unit,
        usual,
        a.least,
        a.most,
        above=False,
        help=f"{a.source[0].upper()}{a.source[1:]}.",
        assumes=a.id,
    )


def series_input(usual: str, choices: tuple[str, ...] = tuple(SERIES)) -> Input:
    """Which series of preferred values the answer is taken from."""
    return Input(
        "series", "Drawer", default=usual, choices=choices, help="The preferred values that you have."
    )


SERIES_INPUT = series_input("E12")
TOLERANCE_INPUT = replace(assumed("tolerance", "tolerance"), nought="the drawer's")
"""beside the series of resistors"""
LOAD_INPUT = assumed("load_share", "resistor_load")
CAPACITORS = ("E3", "E6", "E12")
"""the series in which capacitors are sold"""


class Trial(Struct, frozen=True):
    """One value of a series, and what follows from it."""

    value: float
    results: tuple[Number, ...]
    fault: str = ""
    """why it is not the one"""


class Found(Struct, frozen=True):
    """The value that was found, between its neighbours, and the way to it."""

    what: str
    """what it is the value of: "base resistor" """
    unit: str
    exact: float
    chosen: Trial
    formula: str
    source: str
    lower: Trial | None = None
    higher: Trial | None = None
    also: tuple[tuple[str, float, str], ...] = ()
    """(what, value, unit) of a second component that goes with it"""
    cautions: tuple[str, ...] = ()
    series: str = ""
    tolerance: float = 0.05
    given: tuple[Number, ...] = ()
    """the inputs, with where they come from"""
    rating_v: float | None = None
    """what the component has to bear at least, where that is chosen too"""
    lines: tuple[str, ...] = ()
    """what a program or a table needs, as text"""

    @property
    def value(self) -> float:
        """The value that was chosen."""
        return self.chosen.value

    @property
    def marks(self) -> tuple[str, ...]:
        """What is printed on the component: the letter code, and colour bands of a resistor."""
        return marks(self.value, self.unit, self.tolerance) if self.series else ()


def marks(value: float, unit: str, tolerance: float = 0.05) -> tuple[str, ...]:
    """Letter code and colour bands (IEC 60062).

    >>> marks(4700, "Ω"), marks(100e-9, "F")
    (('4K7', 'yellow violet red gold'), ('100n',))
    """
    if unit == "Ω":
        return (code(value), bands_words(value, tolerance))
    return (farad_code(value),) if unit == "F" else ()


Values = Mapping[str, float | str]


class Asked(Struct, frozen=True):
    """The inputs of one question, checked: numbers by `number`, choices by `word`."""

    values: dict[str, float | str]

    def number(self, name: str) -> float:
        """A given number, in SI units; raises KeyError."""
        number = self.values[name]
        assert not isinstance(number, str), name
        return number

    @property
    def tolerance(self) -> float:
        """Of the resistors."""
        return self.number("tolerance")

    @property
    def load_share(self) -> float:
        """Of a resistor's rating that it is used at, at most."""
        return self.number("load_share")

    @property
    def usual_w(self) -> float:
        """What the usual small resistor is used at, at most."""
        return RATINGS_W[0] * self.load_share

    def word(self, name: str) -> str:
        """A given choice; raises KeyError."""
        return str(self.values[name])


class Finder(Struct, frozen=True):
    """One question of the bench."""

    id: str
    title: str
    question: str
    inputs: tuple[Input, ...]
    find: Callable[[Asked], Found]
    """raises FinderError where the inputs give no answer"""

    def asked(self, given: Values) -> Asked:
        """All inputs, defaults filled in; no tolerance stands for the one that is customary for the series.
        Raises FinderError with everything that is wrong."""
        values = {i.name: given.get(i.name, i.default) for i in self.inputs}
        known = {i.name for i in self.inputs}
        faults = [f"{n!r} is no input of this" for n in given if n not in known]
        faults += [fault for i in self.inputs if (fault := i.fault(values[i.name]))]
        if faults:
            raise FinderError("; ".join(faults))
        if values.get("tolerance") == 0:
            values["tolerance"] = TOLERANCE[str(values["series"])]
        return Asked({n: v for n, v in values.items() if v is not None})

    def __call__(self, given: Values, origins: Mapping[str, str] | None = None) -> Found:
        """The answer to some inputs; `origins` says where each comes from. Raises FinderError where no value
        keeps its own limits."""
        asked = self.asked(given)
        answer = self.find(asked)
        if answer.chosen.fault:
            nearest = f"with {show(answer.value, answer.unit)}, {answer.chosen.fault}"
            raise FinderError(
                "; ".join(
                    [
                        f"no {_in_a_line(self.title)} does: {nearest}",
                        *(c.rstrip(".") for c in answer.cautions),
                    ]
                )
            )
        where = origins or {}
        numbers = tuple(
            Number(_in_a_line(i.title), asked.number(i.name), i.unit, origin=where.get(i.name, ""))
            for i in self.inputs
            if not i.choices
        )
        series = str(asked.values.get("series", ""))
        series = answer.series or series
        tolerance = asked.tolerance if "tolerance" in asked.values else TOLERANCE.get(series, 0.05)
        return replace(answer, series=series, tolerance=tolerance, given=numbers)


def _in_a_line(title: str) -> str:
    """A title as it stands within a sentence: "LEDs in series" keeps its letters."""
    return title if title[:2].isupper() else title[0].lower() + title[1:]


MOST_STEPS = 60
"""so many values of a series are tried at most"""
At = Callable[[float], tuple[tuple[Number, ...], str]]
"""(results, what is wrong) of a value"""


def chosen(
    what: str,
    unit: str,
    exact: float,
    series: str,
    at: At,
    formula: str,
    source: str,
    cautions: tuple[str, ...] = (),
    rating_v: float | None = None,
) -> Found:
    """The next preferred value at or above an exact one, and on upwards until nothing is wrong with it."""
    first = value = at_or_above(exact, series)
    for _ in range(MOST_STEPS):
        if not at(value)[1]:
            break
        value = above(value, series)
    else:
        value = first
    low, here, high = (Trial(v, *at(v)) for v in (below(value, series), value, above(value, series)))
    return Found(what, unit, exact, here, formula, source, low, high, (), cautions, series, rating_v=rating_v)


def between(
    ratings: Sequence[float], k: int, at: Callable[[float], Trial]
) -> tuple[Trial, Trial | None, Trial | None]:
    """The rating number `k`, with those below and above it, as far as there are such."""
    return (
        at(ratings[k]),
        at(ratings[k - 1]) if k else None,
        at(ratings[k + 1]) if k + 1 < len(ratings) else None,
    )


def at_or_below(value: float, series: str) -> float:
    """The greatest preferred value that is not above `value`."""
    above = at_or_above(value, series)
    return above if above <= value * (1 + 1e-9) else below(above, series)


RATINGS_W = (0.25, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
"""watts that resistors are sold for; they are used at no more than half"""


def rating_for(watt: float, share: float) -> float | None:
    """The smallest rating that resistors are sold with of which `share` is enough for some heat; nothing
    where none is."""
    return next((w for w in RATINGS_W if w * share >= watt * (1 - 1e-12)), None)


def heat(what: str, watt: float, share: float) -> Number:
    """The heat of a resistor beside what one of the rating that it takes bears."""
    return Number(what, watt, "W", (rating_for(watt, share) or RATINGS_W[-1]) * share)


def warm(watt: float, share: float) -> tuple[str, ...]:
    """The caution about a resistor that wants more than the usual quarter of a watt; raises FinderError where
    none is large enough."""
    rating = rating_for(watt, share)
    if rating is None:
        raise FinderError(
            f"{show(watt, 'W', 2)} of heat in the resistor: none takes that; regulate the current instead"
        )
    return (
        ()
        if rating == RATINGS_W[0]
        else (f"{show(watt, 'W', 2)} of heat: take a resistor of {show(rating, 'W')}.",)
    )
