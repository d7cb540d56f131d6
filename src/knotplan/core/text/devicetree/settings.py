"""Pin settings: which function a pin has, with which pull (bindings pinctrl/pinmux-node,
pinctrl/pincfg-node)."""

from collections.abc import Iterable, Mapping

from knotplan.catalog.board.devicetree import Devicetree
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.text.devicetree.lines import pin_name
from knotplan.core.text.devicetree.node import Node, Property, Ref, label_of, node_name, properties

BIAS = {"up": "bias-pull-up", "down": "bias-pull-down", "none": "bias-disable"}
GPIO = "gpio"
Held = tuple[str, str]
"""(pin, the pull that it has: up, down, none)"""


class PinSettings:
    """The settings of all pins of a plan, as nodes of the pin controller."""

    def __init__(self, c: Circuit, tree: Devicetree):
        self._c, self._tree = c, tree
        self.nodes: list[Node] = []

    def of(self, user: str, function: str, pins: Iterable[Held]) -> tuple[Property, ...]:
        """What a user of pins of one function says of their settings, which are made with it."""
        return self.of_all(user, {function: list(pins)})

    def of_all(self, user: str, by_function: Mapping[str, Iterable[Held]]) -> tuple[Property, ...]:
        """The same where its pins have several functions: a bus with selects on plain pins."""
        groups: dict[tuple[str, str], list[str]] = {}
        for function, pins in by_function.items():
            for contact, pull in pins:
                if self._tree.pinctrl and (name := pin_name(self._c, self._tree, contact)):
                    groups.setdefault((function, pull), []).append(name)
        labels = []
        for number, ((function, pull), names) in enumerate(groups.items(), 1):
            words = (user,) if len(groups) == 1 else (user, str(number))
            labels.append(label_of(*words))
            said = properties(pins=tuple(dict.fromkeys(names)), function=function)
            self.nodes.append(
                Node(node_name(*words, "pins"), (*said, Property(BIAS[pull], True)), label=labels[-1])
            )
        if not labels:
            return ()
        return properties(pinctrl_names="default", pinctrl_0=tuple(map(Ref, labels)))
