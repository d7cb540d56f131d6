"""Quantities of a tie that a range decides: is it read as high, does it light, does it survive."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Led
from knotplan.catalog.part.needs import Input
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.circuit.leds import led_at
from knotplan.core.engine.keys import Key, of_part
from knotplan.core.engine.led import lit
from knotplan.core.engine.readings import Case, Points, Reading
from knotplan.core.plan.document import Tie, split


class Decided(Struct, frozen=True):
    """One quantity with the range in which it does what it is for."""

    what: str
    unit: str
    of: Key | str
    """the junction whose current it is, or the net whose voltage"""
    case: Case
    least: float
    most: float
    limits: tuple[tuple[float, str], ...]


def decided(circuit: Circuit, points: Points, tie: Tie) -> Iterator[Decided]:
    """The current of the tie's LED; else the levels that the tie's driven end reads."""
    part_id, name = split(tie.lead)[0], led_at(circuit, tie.lead)
    if name:
        led = circuit.parts[part_id].elements[name]
        best = lit(points.junctions.get(of_part(part_id, name), []))
        if isinstance(led, Led) and best is not None and best.typ > 1e-6:
            yield Decided(
                "LED current",
                "A",
                of_part(part_id, name),
                best.case,
                led.visible_a,
                led.most_a,
                ((led.wished_a, "wish"), (led.most_a, "limit")),
            )
        return
    pin = circuit.contacts.pin(tie.to)
    if pin is None or pin.kind != "io" or not pin.driver:
        return
    if circuit.needs.drives(tie.lead):
        high, low = circuit.needs.levels(tie.lead)
        net = circuit.nets.of(tie.lead)
    elif isinstance(circuit.needs.of(tie.lead), Input):
        driver = as_fed(circuit, tie.to)
        high, low, net = driver.input_high_v, driver.input_low_v, circuit.nets.of(tie.to)
    else:
        return
    running = [r for r in points.volts.get(net, []) if r.case.moment == "running"]
    if high is not None and (top := _extreme(running, high, above=True)):
        yield Decided("Level when high", "V", net, top.case, high, float("inf"), ((high, "surely high"),))
    if low is not None and (bottom := _extreme(running, low, above=False)):
        yield Decided("Level when low", "V", net, bottom.case, float("-inf"), low, ((low, "surely low"),))


def _extreme(readings: list[Reading], limit: float, above: bool) -> Reading | None:
    """Of the cases that are meant to lie beyond a limit, the one that does so least."""
    if not readings:
        return None
    middle = (max(r.typ for r in readings) + min(r.typ for r in readings)) / 2
    meant = [r for r in readings if (r.typ >= middle) == above]
    if above:
        return min(meant, key=lambda r: r.min - limit, default=None)
    return max(
        meant, key=lambda r: r.max - limit, default=None
    )  # of a line that never changes nothing is meant to be low
