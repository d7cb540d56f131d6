"""Why a number or name in a program means another pin than the planned one."""

import re

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.core.names.book import NameBook


class Reason(Struct, frozen=True):
    """Why one pin was taken for another."""

    kind: str
    """other-scheme, off-by-one, other-end, nothing"""
    words: str


class Numbers:
    """A board's pins by the numbers of each scheme."""

    def __init__(self, board: Board):
        self.board, self.book = board, NameBook(board)
        self._by_number: dict[str, dict[int, list[str]]] = {}
        for scheme in board.schemes:
            found: dict[int, list[str]] = {}
            for pin_id, pin in board.pins.items():
                number = _number(pin.names.get(scheme, ""))
                if number is not None:
                    found.setdefault(number, []).append(pin_id)
            self._by_number[scheme] = found

    def pin(self, scheme: str, value: int | str) -> str:
        """The one pin that a value means in a scheme; empty where it means none or several (5 is D5 and
        A5)."""
        if isinstance(value, int):
            found = self._by_number.get(scheme, {}).get(value, [])
            return found[0] if len(found) == 1 else ""
        here = [
            p
            for p, pin in self.board.pins.items()
            if pin.names.get(scheme, "").casefold() == value.casefold()
        ]
        if len(here) == 1:
            return here[0]
        any_scheme = self.book.pins(value)
        return any_scheme[0] if len(any_scheme) == 1 else ""

    def number(self, scheme: str, pin_id: str) -> int | None:
        """The number of a pin in a scheme."""
        pin = self.board.pins.get(pin_id)
        return _number(pin.names.get(scheme, "")) if pin is not None else None

    def why(self, planned: str, scheme: str, value: int | str) -> Reason:
        """Why a program that counts in a scheme has this value for a planned pin."""
        b = self.board
        said = b.pins[planned].names
        title = b.schemes[scheme].title if scheme in b.schemes else scheme
        right = said.get(scheme, "")
        for other, name in said.items():
            alike = name.casefold() == str(value).casefold() or (
                isinstance(value, int) and _number(name) == value
            )
            if other != scheme and alike:
                other_title = b.schemes[other].title if other in b.schemes else other
                return Reason(
                    "other-scheme",
                    f"{value} is what it is called by {_low(other_title)}; the program counts by "
                    f"{_low(title)}, where it is {right}",
                )
        number = _number(right)
        if isinstance(value, int) and number is not None and abs(value - number) == 1:
            way = "less" if value < number else "more"
            return Reason(
                "off-by-one",
                f"that is one {way} than {number}: one of the two counts from 0, the other from 1",
            )
        far = self.book.from_other_end(planned).get(scheme, "")
        if far and _number(far) == value:
            return Reason(
                "other-end",
                f"{value} is where somebody ends who counts from the other end; planned is {right}",
            )
        return Reason("nothing", f"planned is {right}" if right else f"by {_low(title)} it has no name")


def _low(title: str) -> str:
    return f"{title[0].lower()}{title[1:]}"


def _number(name: str) -> int | None:
    """The number at the end of a name: "line 62" is 62, "3_17" and "V.03" are none."""
    found = re.fullmatch(r"(?:[A-Za-z#]*\s*|gpiochip\d+\s+)(\d{1,6})", name)
    return int(found[1]) if found else None
