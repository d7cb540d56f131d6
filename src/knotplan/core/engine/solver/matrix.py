"""The conductance matrix of a network, for many samples at once, and its elimination without pivots.

Small ones are written out in full over the sample axis: four times as fast as batched
LAPACK. In large ones most nodes touch two or three others, as on a pin with two hundred
lights, and only what is not nought is kept.
"""

from collections import defaultdict
from collections.abc import Iterable
from itertools import permutations
from typing import Self

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from knotplan.core.engine.solver.network import Floats

Places = NDArray[np.intp]
"""numbers of entries that are kept"""


class Full:
    """A matrix with room for all its entries: (nodes, nodes, samples)."""

    def __init__(self, entries: Floats, filled: list[set[int]]):
        """`filled`: of each row, the columns that hold anything. The others are passed over."""
        self.entries, self.filled = entries, filled

    @classmethod
    def empty(cls, nodes: int, samples: int) -> Self:
        """A matrix of zeros, one for each sample, in siemens."""
        return cls(np.zeros((nodes, nodes, samples)), [set() for _ in range(nodes)])

    def copy(self) -> Self:
        """A copy of its own memory."""
        return type(self)(self.entries.copy(), [set(columns) for columns in self.filled])

    def add(self, row: int, column: int, siemens: float | Floats) -> None:
        """Adds a conductance to an entry of every sample, S."""
        self.entries[row, column] += siemens
        self.filled[row].add(column)

    def solve(self, right: Floats) -> Floats:
        """X of matrix times X = right (nodes, columns, samples); the matrix and `right` are used up."""
        entries, filled = self.entries, self.filled
        nodes = range(len(filled))
        for k in nodes:
            later = [column for column in nodes[k + 1 :] if column in filled[k]]
            for row in nodes[k + 1 :]:
                if k in filled[row]:
                    factor = entries[row, k] / entries[k, k]
                    for column in later:
                        entries[row, column] -= factor * entries[k, column]
                    filled[row].update(later)
                    right[row] -= factor * right[k]
        for k in reversed(nodes):
            for column in nodes[k + 1 :]:
                if column in filled[k]:
                    right[k] -= entries[k, column] * right[column]
            right[k] /= entries[k, k]
        return right


def eliminated(matrix: Floats, right: Floats) -> Floats:
    """X of matrix (n, n, samples) times X = right (n, columns, samples); both are overwritten.

    For matrices with hardly a zero: whole rows at once.
    """
    n = right.shape[0]
    for k in range(n - 1):
        factor = matrix[k + 1 :, k] / matrix[k, k]
        matrix[k + 1 :, k + 1 :] -= factor[:, None] * matrix[k, k + 1 :]
        right[k + 1 :] -= factor[:, None] * right[k]
    for k in range(n - 1, -1, -1):
        for j in range(k + 1, n):
            right[k] -= matrix[k, j] * right[j]
        right[k] /= matrix[k, k]
    return right


class Gathering:
    """Takes values from rows of an array of which some are named more than once."""

    def __init__(self, rows: Places):
        flat = rows.ravel()
        self.sorted = np.argsort(flat, kind="stable")
        self.rows, self.starts = np.unique(flat[self.sorted], return_index=True)

    def take(self, array: Floats, values: Floats) -> None:
        """array[row] -= its values, of (rows, ...): as many of them as rows were named."""
        flat = values.reshape(len(self.sorted), *array.shape[1:])
        array[self.rows] -= np.add.reduceat(flat[self.sorted], self.starts, axis=0)


class Round(Struct, frozen=True):
    """Nodes that are eliminated together: they touch equally many others then, and none of each other."""

    nodes: Places
    others: Places
    """of each: (nodes, others)"""
    own: Places
    row: Places
    """kept entries (node, other)"""
    column: Places
    """kept entries (other, node)"""
    from_entries: Gathering
    """from the entries (other, other)"""
    from_right: Gathering


class Order(Struct, frozen=True):
    """In which order the nodes of a network are eliminated, and which entries that needs."""

    kept: dict[tuple[int, int], int]
    rounds: list[Round]


def least_degree(nodes: int, groups: Iterable[Iterable[int]]) -> Order:
    """Always those nodes next that touch the fewest others; a tree of resistors gains no entry that way.

    Each group is nodes whose voltages and currents hang on one another; negative ones are fixed and
    count for nothing. ref: Tinney and Walker, Proc. IEEE 55 (1967), 1801, their second scheme; several
    at once: Liu, ACM TOMS 11 (1985), 141.

    >>> [r.nodes.tolist() for r in least_degree(4, [(0, 1), (0, 2), (0, 3)]).rounds]
    [[1, 2, 3], [0]]
    """
    touched: list[set[int]] = [set() for _ in range(nodes)]
    for group in groups:
        for a, b in permutations({n for n in group if n >= 0}, 2):
            touched[a].add(b)
    by_degree: dict[int, set[int]] = defaultdict(set)
    for node, others in enumerate(touched):
        by_degree[len(others)].add(node)
    kept: dict[tuple[int, int], int] = {}
    rounds = []
    while by_degree:
        chosen = _apart(touched, by_degree[min(by_degree)])
        rounds.append(_round(kept, chosen, [sorted(touched[node]) for node in chosen]))
        for node in chosen:
            _leave(touched, by_degree, node)
    return Order(kept, rounds)


def _apart(touched: list[set[int]], nodes: set[int]) -> list[int]:
    """As many of the nodes as do not touch one another."""
    chosen: list[int] = []
    barred: set[int] = set()
    for node in sorted(nodes):
        if node not in barred:
            chosen.append(node)
            barred |= touched[node]
    return chosen


def _leave(touched: list[set[int]], by_degree: dict[int, set[int]], node: int) -> None:
    """Takes a node out; all that it touched touch each other from then on."""
    changed = {len(touched[node])}
    by_degree[len(touched[node])].discard(node)
    for other in touched[node]:
        changed.add(len(touched[other]))
        by_degree[len(touched[other])].discard(other)
        touched[other] |= touched[node]
        touched[other] -= {other, node}
        by_degree[len(touched[other])].add(other)
    for degree in changed:
        if not by_degree[degree]:
            del by_degree[degree]


def _round(kept: dict[tuple[int, int], int], nodes: list[int], others: list[list[int]]) -> Round:
    def places(pairs: list[list[tuple[int, int]]]) -> Places:
        return np.array(
            [[kept.setdefault(pair, len(kept)) for pair in line] for line in pairs], dtype=np.intp
        )

    own = places([[(n, n) for n in nodes]])[0]
    row = places([[(n, o) for o in os] for n, os in zip(nodes, others, strict=True)])
    column = places([[(o, n) for o in os] for n, os in zip(nodes, others, strict=True)])
    block = places([[(a, b) for a in os for b in os] for os in others])
    beside = np.array(others, dtype=np.intp)
    return Round(
        np.array(nodes, dtype=np.intp), beside, own, row, column, Gathering(block), Gathering(beside)
    )


class Sparse:
    """A matrix of which only those entries are kept that are not nought, or become so on the way."""

    def __init__(self, order: Order, entries: Floats):
        """`entries`: (kept, samples)."""
        self.order, self.entries = order, entries

    @classmethod
    def empty(cls, order: Order, samples: int) -> Self:
        """A matrix of zeros, one for each sample, in siemens."""
        return cls(order, np.zeros((len(order.kept), samples)))

    def copy(self) -> Self:
        """A copy of its own memory."""
        return type(self)(self.order, self.entries.copy())

    def add(self, row: int, column: int, siemens: float | Floats) -> None:
        """Adds a conductance to an entry of every sample, S."""
        self.entries[self.order.kept[row, column]] += siemens

    def solve(self, right: Floats) -> Floats:
        """X of matrix times X = right (nodes, columns, samples); the matrix and `right` are used up."""
        entries = self.entries
        for part in self.order.rounds:
            if part.others.size:
                factor = entries[part.column] / entries[part.own][:, None]
                part.from_entries.take(entries, factor[:, :, None] * entries[part.row][:, None])
                part.from_right.take(right, factor[:, :, None] * right[part.nodes][:, None])
        for part in reversed(self.order.rounds):
            if part.others.size:
                right[part.nodes] -= (entries[part.row][:, :, None] * right[part.others]).sum(axis=1)
            right[part.nodes] /= entries[part.own][:, None]
        return right


Matrix = Full | Sparse
