"""What hangs on what: for every demand and every hub the node of the tree that feeds it."""

from knotplan.catalog.part.source import Source
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import parent_contact
from knotplan.core.circuit.nets import rail_name
from knotplan.core.memory.question import question, table
from knotplan.core.plan.document import split
from knotplan.core.power.demand import Demand, demands


@table
def sources(c: Circuit) -> dict[str, Source]:
    """The supplies that feed over two leads: {part id: what it gives}."""
    return {p: s for p, s in c.supplies.on_bench.items() if s.plus != s.minus}


@table
def _supply_of(c: Circuit) -> dict[str, str]:
    """{net: the supply whose plus is on it}, of several the first."""
    return {c.nets.of(f"{p}.{s.plus}"): p for p, s in reversed([*sources(c).items()])}


@table
def _rail_of(c: Circuit) -> dict[str, str]:
    """{net: the board's rail that is on it}."""
    return {c.nets.of(rail_name(r)): r for r in reversed(c.supplies.live_rails)}


def is_fed(c: Circuit, part_id: str) -> bool:
    """A converter that something feeds: it stands under that."""
    source = sources(c)[part_id]
    if not source.fed_from:
        return False
    fed, out = c.supplies.fed_by(f"{part_id}.{source.fed_from}"), c.nets.of(f"{part_id}.{source.plus}")
    return fed in c.supplies.origins and fed != out


@question
def home_of(c: Circuit, lead: str, net: str) -> str:
    """The node that a lead hangs on, which gets its current from a net: a hub's own lead, else what gives the
    net its voltage."""
    contact = parent_contact(c, lead) if lead else ""
    owner = split(contact)[0]
    passes = (
        owner in c.parts
        and owner not in sources(c)
        and owner != split(lead)[0]
        and c.ties.of(contact) is not None
        and c.supplies.fed_by(contact) == net
    )
    if passes:
        return contact
    source = sources(c).get(owner)
    if source is not None and contact == f"{owner}.{source.plus}" and _supply_of(c).get(net) == owner:
        return owner  # at the supply itself: not over the rail that it may feed beside
    rail = _rail_of(c).get(net)
    return _supply_of(c).get(net, net) if rail is None else rail_name(rail)


def home_of_hub(c: Circuit, lead: str) -> str:
    """The same of a hub's lead, or of a converter's input."""
    return home_of(c, lead, c.supplies.fed_by(lead))


@table
def below(c: Circuit) -> dict[str, list[Demand]]:
    """What hangs on each node, by the node's id: a hub's lead, a supply's part, a rail."""
    hanging: dict[str, list[Demand]] = {}
    for demand in demands(c):
        hanging.setdefault(home_of(c, demand.lead, demand.net), []).append(demand)
    return hanging


@table
def hubs(c: Circuit) -> dict[str, list[str]]:
    """Hubs' leads that pass on, under the node that feeds them."""
    under: dict[str, list[str]] = {}
    placed: set[str] = set()
    for home in below(c):
        here = home
        while "." in here and here not in placed:
            placed.add(here)
            above = home_of_hub(c, here)
            under.setdefault(above, []).append(here)
            here = above
    return under


@table
def converters(c: Circuit) -> dict[str, list[str]]:
    """Converters that something feeds, under the node that feeds them."""
    under: dict[str, list[str]] = {}
    for part_id, source in sources(c).items():
        if is_fed(c, part_id):
            under.setdefault(home_of_hub(c, f"{part_id}.{source.fed_from}"), []).append(part_id)
    return under
