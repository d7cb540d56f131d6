"""What does not agree in a part file: every fault with its place, for files of one's own as for ours."""

from collections import Counter
from collections.abc import Iterator
from itertools import islice

import msgspec

from knotplan.catalog.board.check import BINDING, MOST_FAULTS, hint, no_quantities
from knotplan.catalog.board.function import KINDS, parse_function
from knotplan.catalog.part.elements import Bipolar, Element, Fet, Load, Motor, Resistor, Varies, Zener
from knotplan.catalog.part.kind import PartKind
from knotplan.catalog.part.needs import Ground, Supply
from knotplan.catalog.part.part import Part

MOST_LEADS = 200


def kind_faults(kind: PartKind) -> list[tuple[str, str]]:
    """(place, what is wrong) of a part file with each of its choices; an empty list where all agree."""
    wrong: dict[tuple[str, str], None] = {}
    for name, p in kind.params.items():
        if p.choices and not isinstance(p.default, str):
            wrong[f"params.{name}.default", "is a number where the choices are words"] = None
        elif (why := p.fault(p.default)) is not None:
            wrong[f"params.{name}.default", f"{p.default!r} {why}"] = None
    if wrong:
        return list(wrong)
    made, why_not = _made(kind, {})
    if made is None:
        return why_not
    for chosen in kind.choices():
        if len(wrong) < MOST_FAULTS:
            other, why_not = _made(kind, chosen)
            wrong.update(dict.fromkeys(faults(other) if other else why_not))
    for pad in made.facts.i2c.pads if made.facts.i2c else ():
        if pad.param not in kind.params:
            wrong["facts.i2c.pads", f"{pad.param!r} is no parameter{hint(pad.param, kind.params)}"] = None
    return list(wrong)


def _made(kind: PartKind, chosen: dict[str, str | float]) -> tuple[Part | None, list[tuple[str, str]]]:
    """The part of a choice, or why it cannot be made."""
    try:
        return kind.make(chosen), []
    except msgspec.ValidationError as error:
        why, _, place = str(error).partition(" - at `$.")
        return None, [(place.rstrip("`"), why)]
    except KeyError as error:
        name = str(error.args[0])
        return None, [
            ("", f'"={name}" stands for a parameter, and there is none of that name{hint(name, kind.params)}')
        ]
    except (ValueError, TypeError, AttributeError, RecursionError) as error:
        return None, [("", str(error) or type(error).__name__)]


def _compatible(part: Part) -> Iterator[tuple[str, str]]:
    """Names of bindings are written as the Devicetree writes them."""
    for k, name in enumerate(part.compatible):
        if not BINDING.fullmatch(name):
            yield f"compatible[{k}]", f"{name!r} is no binding: small letters, `vendor,device`"


def faults(part: Part) -> list[tuple[str, str]]:
    """(place, what is wrong) of one definite part."""
    if not part.leads:
        return [("leads", "there are none")]
    if len(part.leads) > MOST_LEADS:
        return [("leads", f"{len(part.leads)} are more than any part has ({MOST_LEADS})")]
    numbers = list(islice(no_quantities(msgspec.to_builtins(part), ""), MOST_FAULTS))
    return numbers or [
        *_compatible(part),
        *_leads(part),
        *_elements(part),
        *_nodes(part),
        *_source(part),
        *_facts(part),
    ]


def _no_lead(part: Part, name: str) -> str | None:
    return None if name in part.leads else f"{name!r} is no lead{hint(name, part.leads)}"


def _leads(part: Part) -> Iterator[tuple[str, str]]:
    for name in (name for pair in part.either_way for name in pair):
        if why := _no_lead(part, name):
            yield "either_way", why
    for name, lead in part.leads.items():
        if not lead.needs:
            yield f"leads.{name}.needs", 'is empty; a lead that needs nothing says kind = "open"'
        for need in lead.needs:
            if getattr(need, "of", "") and (why := _no_lead(part, need.of)):  # type: ignore[union-attr]
                yield f"leads.{name}.needs", f"of: {why}"
            if isinstance(need, Supply) and need.least_v > need.most_v:
                yield f"leads.{name}.needs", f"least_v {need.least_v:g} is above most_v {need.most_v:g}"
        yield from ((f"leads.{name}.offers", why) for why in _offer(part, name))


def _offer(part: Part, name: str) -> Iterator[str]:
    offer = part.leads[name].offers
    if offer is None:
        return
    for text in offer.functions:
        try:
            if (kind := parse_function(text).kind) not in KINDS:
                yield f"{kind!r} is nothing that a contact can do{hint(kind, KINDS)}"
        except ValueError as error:
            yield str(error)
    if offer.kind == "io" and offer.driver not in part.drivers:
        yield f"driver: {offer.driver!r} is no driver{hint(offer.driver, part.drivers)}"
    if offer.driven_by and (why := _no_lead(part, offer.driven_by)):
        yield f"driven_by: {why}"
    if offer.bridge_with and (why := _no_lead(part, offer.bridge_with)):
        yield f"bridge_with: {why}"
    if (offer.via or offer.kind == "contact") and (why := _no_lead(part, offer.via)):
        yield f"via: {why}"


def _elements(part: Part) -> Iterator[tuple[str, str]]:
    for name, e in part.elements.items():
        for field, value in msgspec.structs.asdict(e).items():
            if isinstance(value, int | float) and value < 0:
                yield f"elements.{name}.{field}", f"{value:g} is below 0"
        if isinstance(e, Load) and e.usual_a > e.worst_a:
            yield f"elements.{name}.usual_a", f"{e.usual_a:g} A is above the worst case, {e.worst_a:g} A"
        if isinstance(e, Resistor) and e.ohm.min <= 0:
            yield f"elements.{name}.ohm", "has to be above 0 Ω"
        if isinstance(e, Varies) and not 0 < e.least_ohm <= e.most_ohm:
            yield f"elements.{name}", "least_ohm has to be above 0 and not above most_ohm"
        yield from ((f"elements.{name}", why) for why in _law(e))
        if isinstance(e, Motor) and not 0 < e.usual_a <= e.stall_a:
            yield f"elements.{name}", "usual_a has to be above 0 and not above stall_a"
    yield from _drivers(part)


def _drivers(part: Part) -> Iterator[tuple[str, str]]:
    for name, driver in part.drivers.items():
        for field, lead in (("rail", driver.rail), ("clamps", driver.clamps)):
            if lead and (why := _no_lead(part, lead)):
                yield f"drivers.{name}.{field}", why
        if driver.element and not isinstance(part.elements.get(driver.element), Bipolar | Fet):
            near = hint(driver.element, part.elements)
            yield f"drivers.{name}.element", f"{driver.element!r} is no transistor among the elements{near}"
    if part.drivers and not part.ground:
        yield "leads", "a hub needs a lead on ground"
    for name, bank in part.banks.items():
        yield from ((f"banks.{name}.pins", why) for lead in bank.pins if (why := _no_lead(part, lead)))


def _law(e: Element) -> Iterator[str]:
    """What is wrong with the law of a junction or a channel."""
    match e:
        case Bipolar(gain=gain) if gain.min < 1:
            yield "gain has to be at least 1"
        case Fet(points=((v1, r1), (v2, r2))) if not (0 < v1 < v2 and r1 > r2 > 0):
            yield "points: the resistance has to fall with the gate's voltage"
        case Fet(points=((v1, r1), (v2, r2)), spread_v=spread) if v1 - (v2 - v1) * r2 / (r1 - r2) <= spread:
            yield "points: the resistance falls so slowly that the threshold would lie below 0 V"
        case Zener(volts=volts, at_a=at, slope_ohm=slope) if min(volts, at, slope) <= 0:
            yield "volts, at_a and slope_ohm have to be above 0"


def _ends(e: Element) -> dict[str, str]:
    """The nodes of an element, by field."""
    return {
        f: n
        for f in ("a", "b", "wiper", "low", "collector", "drain")
        if (n := getattr(e, f, None)) is not None
    }


def _nodes(part: Part) -> Iterator[tuple[str, str]]:
    """Ends that lead nowhere: no lead, and no other element is on them; most often a lead's name mistyped."""
    on = Counter(node for e in part.elements.values() for node in set(_ends(e).values()))
    for name, e in part.elements.items():
        for field, node in _ends(e).items():
            if node not in part.leads and (on[node] == 1 or isinstance(e, Load)):
                yield f"elements.{name}.{field}", f"{node!r} is no lead{hint(node, part.leads)}"


def _source(part: Part) -> Iterator[tuple[str, str]]:
    if part.source is None:
        return
    for field in ("plus", "minus", "fed_from"):
        lead = getattr(part.source, field)
        if lead and (why := _no_lead(part, lead)):
            yield f"source.{field}", why
    minus = part.leads.get(part.source.minus)
    if minus is not None and part.source.plus != part.source.minus and not isinstance(minus.needs[0], Ground):
        yield "source.minus", "is not a lead that goes to ground"
    if part.source.limit_a <= 0 or part.source.source_ohm <= 0:
        yield "source", "limit_a and source_ohm have to be above 0"


def _facts(part: Part) -> Iterator[tuple[str, str]]:
    for k, want in enumerate(part.facts.wants):
        if why := _no_lead(part, want.lead):
            yield f"facts.wants[{k}].lead", why
        if not want.least <= want.value <= want.most:
            yield (
                f"facts.wants[{k}].value",
                f"{want.value:g} does not lie between {want.least:g} and {want.most:g}",
            )
    stepper = part.facts.stepper
    for lead in stepper.order if stepper else ():
        if why := _no_lead(part, lead):
            yield "facts.stepper.order", why
