"""A chain of pixels as a ladder: the voltage at the last one, and how often the chain has to be fed."""

from knotplan.core.finders.finder import Asked, Finder, FinderError, Found, Input, Trial
from knotplan.core.power.ladder import feeds_needed, lowest
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def _find(a: Asked) -> Found:
    supply, count, amps, least = (a.number(n) for n in ("supply", "count", "current", "least"))
    pitch, metre = a.number("pitch"), a.number("ohm_per_m")
    cord, number = a.number("cord_ohm"), int(a.number("count"))
    step = 2 * pitch * metre
    feeds = feeds_needed(supply, number, amps, step, cord, least)
    if feeds is None:
        raise FinderError(
            f"{show(least, 'V')} cannot be kept from {show(supply, 'V')}, however often the chain is fed: "
            "use fewer or dimmer pixels, or a thicker feed"
        )

    def at(n: int) -> Trial:
        volts = lowest(supply, number, amps, step, cord, n)
        return Trial(
            float(n),
            (
                Number("lowest voltage of a pixel", volts, "V", least, lower=True),
                Number("current of all", count * amps, "A"),
                Number("pixels for each feed", number / n, ""),
            ),
            f"falls to {show(volts, 'V')}" if volts < least else "",
        )

    return Found(
        "feed points",
        "",
        float(feeds),
        at(feeds),
        "each pixel is a current at a node of a ladder of R = 2·ρ'·pitch; the nodal equations are solved "
        "exactly; the feeds stand evenly, each in the middle of its share (one alone: at the beginning)",
        "Kirchhoff's laws on a ladder network",
        at(feeds - 1) if feeds > 1 else None,
        at(feeds + 1),
    )


finder = Finder(
    "pixels",
    "Feeds of a chain",
    "How often has a chain of pixels to be fed, and what does the last one get?",
    (
        Input("count", "Pixels", "", 60.0, 1, 5000, above=False, whole=True, help="On the chain."),
        Input("current", "Current of a pixel", "A", 0.036, most=5, help="At worst: white, full brightness."),
        Input("supply", "Supply", "V", 5.0, help="At the feed's beginning."),
        Input("least", "Least at a pixel", "V", 3.7, help="That it works with."),
        Input("pitch", "From pixel to pixel", "m", 1 / 60, most=10, help="60 to the metre are 16.7m."),
        Input("ohm_per_m", "Copper", "Ω", 0.12, help="Resistance of a metre of one rail of the chain."),
        Input(
            "cord_ohm", "Feed's cord", "Ω", 0.03, above=False, help="Resistance there and back of one feed."
        ),
    ),
    _find,
)
