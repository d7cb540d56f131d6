"""Where contacts lie: headers, and the edge of the board."""

from typing import Literal

from knotplan.catalog.board.item import Item


class Header(Item):
    """A block of contacts, rows by columns; row 1 lies at the marked end. One with more columns than rows
    lies across the board, and its cords leave over the nearer end."""

    title: str
    """what is printed beside it"""
    rows: int
    """contacts along it"""
    columns: int
    """contacts across it"""
    x_mm: float
    """the first contact, from the left edge, mm"""
    y_mm: float
    """the first contact, from the upper edge, mm"""
    pitch_mm: float = 2.54
    """from row to row"""
    column_gap_mm: float = 2.54
    """from column to column"""
    contact: Literal["post", "pad", "clip"] = "post"
    """pads reach to the board's edge; clips take a crocodile clip"""

    @property
    def across(self) -> bool:
        return self.columns > self.rows


class Outline(Item):
    """The board's edge and the mark that tells which end is which."""

    width_mm: float
    """across, mm"""
    height_mm: float
    """along, mm"""
    mark: str
    """what the marked end is called: "notch end" """
