"""The model of a board file.

A board is headers of pins, rails that its supply pins bring out, sockets that feed it, and the
electrical character of its pins. Lengths are in millimetres, everything else in SI units.
"""

from functools import cached_property
from typing import Any

from knotplan.catalog.board.devicetree import Devicetree
from knotplan.catalog.board.driver import Driver
from knotplan.catalog.board.header import Header, Outline
from knotplan.catalog.board.item import Item
from knotplan.catalog.board.pin import After, Pin, Scheme
from knotplan.catalog.board.supply import Bank, Rail, Socket
from knotplan.catalog.board.system import Reservation, Setting, Strap
from knotplan.catalog.board.units import Converter, Peripheral, Pool


class Board(Item, eq=False, dict=True):
    """Everything that a board file says. A board is itself only: what
    is derived from it can be kept by it."""

    id: str
    """the file's name, in plans and commands"""
    title: str
    """what it is called"""
    summary: str
    """what it is, in a line"""
    logic_v: float
    """voltage of its signals, V"""
    outline: Outline
    """its edge"""
    schemes: dict[str, Scheme]
    """the ways in which its pins are named, by a key"""
    spoken: str
    """the scheme to begin with"""
    headers: dict[str, Header]
    """its blocks of contacts, by a key"""
    rails: dict[str, Rail]
    """voltages that it brings out, by a key"""
    sockets: dict[str, Socket]
    """ways in for power, by a key"""
    drivers: dict[str, Driver]
    """the electrical characters of its pins, by a key"""
    pins: dict[str, Pin]
    """its contacts, by a key"""
    all_pins_a: float
    """what all signal pins may carry together, A"""
    memory_bytes: int = 0
    """that a program can use; 0 where an operating system has plenty"""
    all_pins_note: str = ""
    """what that limit is about"""
    banks: dict[str, Bank] = {}
    """pins with a limit in common, by a key"""
    peripherals: dict[str, Peripheral] = {}
    """timers, buses and other units, by kind and instance: `i2c:1`"""
    converters: dict[str, Converter] = {}
    """analogue inputs, by instance"""
    reservations: dict[str, Reservation] = {}
    """what already uses pins, by a key"""
    pools: dict[str, Pool] = {}
    """units that can be led to any pin, by a key"""
    settings: dict[str, Setting] = {}
    """what its system has on or off, by a key"""
    straps: dict[str, Strap] = {}
    """levels that it reads at start, by a key"""
    keeps_time: tuple[str, ...] = ("digital", "input")
    """kinds of functions whose levels a program times to a microsecond; with an operating system
    around it, only those that hardware makes"""
    note: str = ""
    """what else is worth knowing"""
    after: After = "stays"
    """what its pins do after a program has ended or crashed"""
    after_note: str = ""
    """why, and what changes it"""
    devicetree: Devicetree | None = None
    """of a board with a Linux system: what overlays need to know"""

    def afterwards(self, pin: Pin) -> After:
        """What one of its pins does after a program has ended or crashed."""
        return pin.after or self.after

    @cached_property
    def derived(self) -> dict[tuple[Any, ...], Any]:
        """Answers worked out from this board, see `knotplan.catalog.derived`."""
        return {}

    def pool(self, kind: str) -> Pool | None:
        """The pool of one kind of function, if the board has one."""
        return next((p for p in self.pools.values() if p.kind == kind), None)

    def spot(self, pin_id: str) -> tuple[float, float]:
        """The middle of a pin in mm: across from the left edge, down from the upper one, with the board as it
        is described."""
        pin = self.pins[pin_id]
        header = self.headers[pin.header]
        x = header.x_mm + (pin.col - 1) * header.column_gap_mm
        y = header.y_mm + (pin.row - 1) * header.pitch_mm
        if pin.x_mm is not None:
            return (pin.x_mm, y) if header.across else (x, pin.x_mm)
        return x, y

    def name(self, pin_id: str, scheme: str) -> str:
        """What a pin is called in a scheme; a pin that has no name there keeps its printed one."""
        names = self.pins[pin_id].names
        return names.get(scheme) or names.get("label") or next(iter(names.values()), pin_id)
