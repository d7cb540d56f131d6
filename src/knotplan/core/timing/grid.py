"""Light grids behind drivers: which module, register and bit a light is,
however the modules lie; and the scan."""

from msgspec import Struct

from knotplan.catalog.part.facts import CurrentSet, Grid
from knotplan.core.buses.spi import controllers
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.memory.question import question

TURNS = ("as printed", "a quarter turn", "a half turn", "three quarters")


class Light(Struct, frozen=True):
    """One light, by where it is in the driver: all counted from 0."""

    module: int
    """in the chain, 0 next to the controller"""
    row: int
    """register of the driver"""
    bit: int


class Sign(Struct, frozen=True):
    """Modules side by side, the first of the chain on the left."""

    parts: tuple[str, ...]
    grids: tuple[Grid, ...]

    @property
    def columns(self) -> int:
        """How many columns the grid has."""
        return sum(g.columns for g in self.grids)

    @property
    def rows(self) -> int:
        """How many rows the grid has."""
        return max((g.rows for g in self.grids), default=0)

    def light(self, column: int, row: int) -> Light:
        """The light at a column and row of the whole sign, both from 0, from the upper left.

        A module that lies turned by a quarter to the right has its own first column at the top; its words
        go out in the chain's order, those for the farthest module first."""
        if not (0 <= row < self.rows and 0 <= column < self.columns):
            raise ValueError(
                f"column {column}, row {row} lies outside {self.columns} × {self.rows} (counted from 0)"
            )
        for k, g in enumerate(self.grids):
            if column < g.columns:
                x, y = turned(g, column, row)
                return Light(k, y, g.columns - 1 - x)
            column -= g.columns
        raise AssertionError("unreachable: the column was checked")

    def words(self, column: int, row: int) -> list[tuple[int, int]]:
        """(register, data) for each module in the order in which they are sent, to light that one light
        alone; registers are counted from 1, 0 does nothing."""
        at = self.light(column, row)
        return [
            (at.row + 1, 1 << at.bit) if k == at.module else (0, 0) for k in reversed(range(len(self.grids)))
        ]


def turned(g: Grid, column: int, row: int) -> tuple[int, int]:
    """A module's own column and row for a place as it is seen, by how it lies (clockwise)."""
    last_x, last_y = g.columns - 1, g.rows - 1
    match TURNS.index(g.turned) if g.turned in TURNS else 0:
        case 1:
            return row, last_y - column
        case 2:
            return last_x - column, last_y - row
        case 3:
            return last_x - row, column
    return column, row


@question
def signs(c: Circuit) -> tuple[Sign, ...]:
    """Every chain of grids."""
    lit = []
    for k in controllers(c):
        for select in k.selects:
            parts = [d.part for d in select.devices if c.parts[d.part].facts.grid is not None]
            if parts:
                lit.append(
                    Sign(tuple(parts), tuple(g for p in parts if (g := c.parts[p].facts.grid) is not None))
                )
    return tuple(lit)


def row_s(g: Grid) -> float:
    """How long each row is lit in a scan, s: 1 / (scan rate * rows)."""
    return 1 / (g.scan_hz * g.rows)


def light_a(s: CurrentSet, ohm: float) -> tuple[float, float]:
    """(peak, average) current of one light, A: gain * V / R while its row is lit, and that over the rows."""
    peak = s.gain * s.volts / ohm
    return peak, peak / s.rows
