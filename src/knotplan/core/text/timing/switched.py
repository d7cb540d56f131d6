"""Relays and chains of pixels."""

import math

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import counted, show
from knotplan.core.text.timing.piece import Pieces
from knotplan.core.timing import pixels, relay


def of_relays(c: Circuit, part_id: str) -> Pieces:
    """What there is to say about a relay."""
    cycle = relay.cycle(c, part_id)
    if cycle is None:
        return
    f = cycle.facts
    yield (
        f"The contact closes {show(f.operate_s, 's')} and opens {show(f.release_s, 's')} later; it needs "
        f"{show(f.least_interval_s, 's')} between two switchings: the shortest cycle is "
        f"{show(cycle.shortest_s, 's')}.",
        "",
    )
    yield f"Its contact bears {show(f.contact_a, 'A')} at {show(f.contact_v, 'V')}.", "faint"
    if cycle.fault:
        yield f"It cannot follow: {cycle.fault}.", "care"
    hours = cycle.hours
    if hours < 48:
        days = f"{hours:.3g} hours"
    elif hours < 24 * 730:
        days = f"{hours / 24:.3g} days"
    else:
        days = f"{hours / 8766:.3g} years"
    yield f"Its {f.life:g} switchings last {days} at this cycle.", "faint"


def of_pixels(report: Report, part_id: str) -> Pieces:
    """What there is to say about a chain of pixels."""
    c = report.circuit
    chain = pixels.chain_of(c, part_id)
    if chain is None:
        return
    hz = pixels.asked_hz(c, chain.parts[0])
    figures = 0 if chain.most_hz > 100 else 1
    most = f"{math.floor(chain.most_hz * 10**figures) / 10**figures:g}"  # a limit is never rounded up
    yield (
        f"{counted(chain.count, 'pixel')} of {chain.bits} bits and the gap take {show(chain.frame_s, 's')}: "
        f"up to {most} frames a second.",
        "care" if chain.most_hz < hz else "",
    )
    yield f"A picture takes {counted(chain.bytes, 'byte')} of memory.", ""
    yield f"At {hz:g} frames a second {chain.longest_by_time(hz)} pixels fit.", "faint"
    memory = chain.longest_by_memory(c.board.memory_bytes)
    if memory is not None:
        yield (
            f"{c.board.title}'s memory of {c.board.memory_bytes} bytes holds {memory}, with room for the "
            "program.",
            "stop" if chain.count > memory else "faint",
        )
    facts = c.parts[part_id].facts.pixels
    if facts is not None:
        dark_a = facts.dark_a * facts.count
        yield f"All dark it still draws {show(dark_a, 'A')}: {show(facts.dark_a, 'A')} a pixel.", "faint"
    supplied = pixels.longest_by_supply(report.power, part_id, chain.full_a)
    if supplied is not None:
        count = int(facts.count) if facts else 0
        yield (
            f"{supplied[1]} feeds {supplied[0]} of them full on, {count} are here.",
            "care" if supplied[0] < count else "faint",
        )
