"""What the engine solves: a topology, and many samples of its values.

Nodes are numbered from 0; negative numbers are fixed nodes, whose voltages are given: -1 is the
first, -2 the second, and so on. Arrays have the sample axis last.
"""

from typing import Literal, NamedTuple

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class SolveError(ArithmeticError):
    """No operating point was found; the message names the node that did not settle."""

    def __init__(self, node: int, sample: int, name: str = ""):
        self.node, self.sample = node, sample
        super().__init__(f"no operating point: {name or f'node {node}'} did not settle")


class Port(NamedTuple):
    """A current that the voltage from node `a` to node `b` makes, and the way it takes.

    It enters at `a` and leaves at `b`; a transistor takes a share of it from a third node, or
    leaves that share there: two ports, one for each junction, are a bipolar transistor (Ebers
    and Moll, 1954) or a field-effect one.
    """

    a: int
    b: int
    third: int | None = None
    at: Literal["a", "b"] = "a"
    """which end the third node stands in for"""
    law: Literal["exponential", "square"] = "exponential"
    """``I = Is (exp((v - v0)/nVt) - exp(-v0/nVt))``, or ``I = Is ln(1 + exp((v - v0)/nVt))^2`` (channel of
    a field-effect transistor: Enz, Krummenacher and Vittoz, 1995)"""


class Topology(Struct, frozen=True):
    """The shape of a network: how many free and fixed nodes, and what lies between which."""

    nodes: int
    fixed: int
    resistors: tuple[tuple[int, int], ...]
    junctions: tuple[Port | tuple[int, int], ...]
    sinks: tuple[int, ...] = ()
    """nodes out of which a given current is drawn"""


class Samples(Struct):
    """Values for each element of a topology: shape (elements, samples)."""

    fixed_v: Floats
    siemens: Floats
    is_a: Floats
    n_vt: Floats
    sink_a: Floats | None = None
    """for topologies with sinks"""
    offset_v: Floats | None = None
    """v0 of the laws; nothing where all are 0"""
    share: Floats | None = None
    """of each port's current, what its third node has"""


class Solution(Struct, frozen=True):
    """Node voltages (V), and currents from the first to the second end of each element (A)."""

    volts: Floats
    resistor_a: Floats
    junction_a: Floats
    third_a: Floats | None = None
    """of each port's current, what its third node has; nothing where none has one"""
