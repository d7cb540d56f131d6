"""Pin settings: which function a pin has, with which pull (bindings pinctrl/pinmux-node,
pinctrl/pincfg-node)."""

from collections.abc import Iterable

from knotplan.catalog.board.devicetree import Devicetree
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.text.devicetree.lines import pin_name
from knotplan.core.text.devicetree.node import Node, Property, Ref, label_of, node_name, properties

BIAS = {"up": "bias-pull-up", "down": "bias-pull-down", "none": "bias-disable"}
GPIO = "gpio"


class PinSettings:
    """The settings of all pins of a plan, as nodes of the pin controller."""

    def __init__(self, c: Circuit, tree: Devicetree):
        self._c, self._tree = c, tree
        self.nodes: list[Node] = []

    def of(self, user: str, function: str, pins: Iterable[tuple[str, str]]) -> tuple[Property, ...]:
        """What a user of pins says of their settings, which are made with it; `pins` are (contact, pull)."""
        if not self._tree.pinctrl:
            return ()
        by_pull: dict[str, list[str]] = {}
        for contact, pull in pins:
            if name := pin_name(self._c, self._tree, contact):
                by_pull.setdefault(pull, []).append(name)
        labels = []
        for pull, names in by_pull.items():
            words = (user,) if len(by_pull) == 1 else (user, pull)
            labels.append(label_of(*words))
            self.nodes.append(
                Node(
                    node_name(*words, "pins"),
                    (
                        *properties(pins=tuple(dict.fromkeys(names)), function=function),
                        Property(BIAS[pull], True),
                    ),
                    label=labels[-1],
                )
            )
        if not labels:
            return ()
        return properties(pinctrl_names="default", pinctrl_0=tuple(map(Ref, labels)))
