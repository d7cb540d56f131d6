"""What the engine solves: a topology, and many samples of its values.

Nodes are numbered from 0; negative numbers are fixed nodes, whose voltages are given: -1 is the
first, -2 the second, and so on. Arrays have the sample axis last.
"""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class SolveError(ArithmeticError):
    """No operating point was found; the message names the node that did not settle."""


class Topology(Struct, frozen=True):
    """The shape of a network: how many free and fixed nodes, and what lies between which."""

    nodes: int
    fixed: int
    resistors: tuple[tuple[int, int], ...]
    junctions: tuple[tuple[int, int], ...]
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


class Solution(Struct, frozen=True):
    """Node voltages (V), and currents from the first to the second end of each element (A)."""

    volts: Floats
    resistor_a: Floats
    junction_a: Floats
