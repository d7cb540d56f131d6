"""What `knotplan power --format json` prints."""

from msgspec import UNSET, Struct, UnsetType

from knotplan.core.check.report import Report
from knotplan.core.power.battery import life
from knotplan.core.power.node import Node


class NodeAnswer(Struct, frozen=True, kw_only=True):
    """A supply, a rail, a converter, a hub that passes on, or a load, with what hangs on it."""

    id: str
    """of it in the tree"""
    kind: str
    """what it is"""
    title: str
    """what it is called"""
    volts: float
    """its voltage usually, V"""
    least_v: float
    """what is left of that at worst, after its cord, V"""
    drop_v: float
    """lost along its own cord, there and back, at worst, V"""
    needs_v: float | None
    """below this it does not work, V"""
    usual_a: float
    """what it carries usually, A"""
    worst_a: float
    """what it carries at worst, of what can happen together, A"""
    peaks_a: float
    """all peaks added up, A"""
    during: list[str]
    """the activities of the worst case"""
    limit_a: float | None
    """what it can give, A"""
    heat_w: float
    """what it turns into heat at worst, W"""
    average_a: float | UnsetType = UNSET
    """on average over its activities, A; of supplies only"""
    average_w: float | UnsetType = UNSET
    """on average over its activities, W; of supplies only"""
    battery_hours: float | UnsetType | None = UNSET
    """how long its battery lasts, h; nothing where it is none; of supplies only"""
    children: list["NodeAnswer"]
    """what hangs on it"""


PowerAnswer = list[NodeAnswer]


def answer(report: Report) -> PowerAnswer:
    """The trees of all supplies."""
    return [_node(report, root, root=True) for root in report.power]


def _node(report: Report, node: Node, root: bool = False) -> NodeAnswer:
    lasts = life(report.circuit, node) if root else None
    return NodeAnswer(
        id=node.id,
        kind=node.kind,
        title=node.title,
        volts=node.volts,
        least_v=node.least_v,
        drop_v=node.drop_v,
        needs_v=node.needs_v,
        usual_a=node.total.usual_a,
        worst_a=node.total.worst_a,
        peaks_a=node.total.peaks_a,
        during=sorted(node.total.during),
        limit_a=node.limit_a,
        heat_w=node.heat_w,
        average_a=lasts.average_a if lasts else UNSET,
        average_w=lasts.average_w if lasts else UNSET,
        battery_hours=lasts.hours if lasts else UNSET,
        children=[_node(report, child) for child in node.children],
    )
