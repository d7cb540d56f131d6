"""The fuse of a feed: it protects the cord, and lets the load work."""

from knotplan.core.circuit.copper import bears
from knotplan.core.finders.finder import Asked, Finder, FinderError, Found, Input, Trial, assumed, between
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

RATINGS = (
    0.1,
    0.125,
    0.16,
    0.2,
    0.25,
    0.315,
    0.4,
    0.5,
    0.63,
    0.8,
    1.0,
    1.25,
    1.6,
    2.0,
    2.5,
    3.15,
    4.0,
    5.0,
    6.3,
    8.0,
    10.0,
    12.5,
    16.0,
    20.0,
)
"""rated currents of miniature fuses (IEC 60127-2, the R10 series of ISO 3)"""


def _find(a: Asked) -> Found:
    amps, peak, mm2 = a.number("current"), max(a.number("peak"), a.number("current")), a.number("mm2")
    cord = bears(mm2)
    load = a.number("load_share")
    exact = amps / load
    k = next((k for k, r in enumerate(RATINGS) if r >= exact * (1 - 1e-9)), None)
    if k is None:
        raise FinderError(f"{show(amps, 'A')} is more than any of these fuses carries")
    slow = peak > 2 * RATINGS[k]

    def at(rated: float) -> Trial:
        if rated > cord:
            fault = f"the cord, which bears {show(cord, 'A')}, melts before it"
        elif rated < exact * (1 - 1e-9):
            fault = f"{show(amps, 'A')} for ever are too much for it"
        else:
            fault = ""
        return Trial(
            rated,
            (
                Number("current for ever", amps, "A", rated * load),
                Number("peak", peak, "A"),
                Number("peak over rating", peak / rated, ""),
                Number("cord bears", cord, "A"),
            ),
            fault,
        )

    cautions = [f"Take a slow one (T): the peak is {peak / RATINGS[k]:.1f} times its rating."] if slow else []
    if RATINGS[k] > cord:
        cautions.append(f"take a thicker cord than {mm2:g} mm²")
    here, lower, higher = between(RATINGS, k, at)
    return Found(
        "fuse",
        "A",
        exact,
        here,
        "I_rated ≥ I / share, and not above what the cord bears; slow where a peak is above twice the rating",
        "ratings of IEC 60127-2; the share for ever is makers' usual advice; usual figures of what cords "
        "bear",
        lower,
        higher,
        cautions=tuple(cautions),
    )


finder = Finder(
    "fuse",
    "Fuse",
    "Which fuse in a feed?",
    (
        Input("current", "Current for ever", "A", help="The worst that lasts."),
        Input("peak", "Peak", "A", 0.0, above=False, help="At starts; 0 for none."),
        Input(
            "mm2", "Cord's copper", "mm²", 0.25, most=50, help="Cross-section of the thinnest cord behind it."
        ),
        assumed("load_share", "fuse_load"),
    ),
    _find,
)
