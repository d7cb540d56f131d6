"""Readings in a plan may be anything that a file may hold: each is told, and none is taken for what it is
not."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import everything
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.checks import standing
from knotplan.core.meter.expected import OVER_OHM, Expected
from knotplan.core.meter.points import Point
from knotplan.core.meter.ranking import Ranking
from knotplan.core.meter.table import Meter
from knotplan.core.meter.told import ReadingError, shown, typed
from knotplan.core.plan.wired import Reading
from knotplan.examples import example

TABLE = Meter(Circuit(example("mist-bench", everything()), everything())).table()
RANKING = Ranking(TABLE)
BY_ID = {p.id: p for p in TABLE.points}
LIMITS = st.none() | st.floats(allow_nan=False, allow_infinity=False)
VALUES = LIMITS | st.sampled_from([0.0, -0.3, 1e-300, 1e300, OVER_OHM])
ANY = st.builds(
    Reading,
    point=st.sampled_from(list(BY_ID)),
    value=VALUES,
    says=st.sampled_from(["", "", "ok", "no", "open"]),
    least=LIMITS,
    most=LIMITS,
)


@st.composite
def fresh(draw: st.DrawFn) -> Reading:
    """With what is expected now, so that it counts."""
    reading = draw(ANY)
    e = TABLE.planned[BY_ID[reading.point]]
    least, most = (x if math.isfinite(x) else None for x in (e.least, e.most))
    return Reading(reading.point, reading.value, reading.says, least, most)


@settings(max_examples=200, deadline=None)
@given(st.lists(ANY | fresh(), max_size=4, unique_by=lambda r: r.point))
def test_any_reading_is_told_and_weighed(readings: list[Reading]) -> None:
    for reading in readings:
        point = BY_ID[reading.point]
        stands = standing(point, TABLE.planned[point], reading)
        assert shown(reading, point)
        assert not reading.empty or stands == "open"
    answer = RANKING.answer(readings)
    shares = [r.share for r in answer.ranked]
    assert all(math.isfinite(s) and 0 <= s <= 1 for s in shares)
    assert shares == sorted(shares, reverse=True)


NUMBERS = st.one_of(st.floats(), st.integers(-(10**40), 10**40))


@given(st.sampled_from(TABLE.points), NUMBERS.map(str) | st.text(max_size=6))
def test_whatever_is_typed_becomes_a_reading_or_is_refused_in_words(point: Point, text: str) -> None:
    try:
        reading = typed(point, text, TABLE.planned[point])
    except ReadingError as error:
        assert len(str(error)) > 20
        return
    assert not reading.empty
    assert reading.value is None or (
        math.isfinite(reading.value) and (point.range == "volts" or reading.value >= 0)
    )
    assert standing(point, TABLE.planned[point], reading) in ("done", "wrong")


@pytest.mark.parametrize(
    ("point", "text", "word"),
    [
        (Point("ohms", "a.b", "c.d"), "-5", "no resistance is"),
        (Point("diode", "a.b", "c.d"), "-0.6", "exchange red and black"),
        (Point("volts", "a.b", stage="x"), "open", "a voltmeter is never open"),
        (Point("ohms", "a.b", "c.d"), "1e400", "too large"),
    ],
)
def test_what_a_range_never_shows_is_refused(point: Point, text: str, word: str) -> None:
    with pytest.raises(ReadingError, match=word):
        typed(point, text, Expected(1.0, 2.0, 3.0))
