"""Which instance of a peripheral, on the whole bench."""

import re
from typing import NamedTuple

from knotplan.catalog.board.function import ANY
from knotplan.core.plan.document import BOARD


class UnitId(NamedTuple):
    """One instance of a peripheral: whose, of which kind, which one.

    >>> str(UnitId("board", "pwm", "A"))
    'board.pwm:A'
    """

    owner: str
    """the board, or the id of a hub"""
    kind: str
    instance: str

    def __str__(self) -> str:
        return f"{self.owner}.{self.name}"

    @classmethod
    def read(cls, clock: str) -> "UnitId | None":
        """The one whose clock a plan file sets: ``board.i2c:1~2``, ``board.spi:any@board.p3``. Nothing where
        a program drives pins.

        >>> UnitId.read("board.i2c:1~2")
        UnitId(owner='board', kind='i2c', instance='1')
        """
        match = re.match(r"([^.]+)\.(\w+):([^~@]+)", clock)
        return cls(*match.groups()) if match else None

    @property
    def name(self) -> str:
        """As its owner lists it: ``pwm:A``."""
        return f"{self.kind}:{self.instance}"

    @property
    def any_pin(self) -> bool:
        """Of a pool: whichever the board leads to the pin."""
        return self.instance == ANY

    @property
    def on_board(self) -> bool:
        """The board has it, and no hub."""
        return self.owner == BOARD
