"""Names of pins: translation among all schemes of a board, and never a guess.

Spellings are compared without case, spaces and separators; a scheme's prefix may be left off or put
before ("12", "L12", "pos 12"). A scheme may be named outright: "chip:12".
"""

import re
from functools import cached_property

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.catalog.nearest import nearest

LABEL = "label"
"""the scheme of what is printed at pins that other schemes pass over (GND, 5V)"""


class Match(Struct, frozen=True):
    """One pin that a spelling can mean."""

    scheme: str
    pin: str
    exact: bool
    """the spelling carries the scheme's own prefix, or is the name to the letter"""


def squeezed(text: str) -> str:
    """The spelling by which names are compared.

    >>> squeezed("Pos 07"), squeezed("gpiochip0/12"), squeezed("X2.14")
    ('pos7', 'gpiochip0/12', 'x2.14')

    Between two numbers a separator counts, whichever it is: line 7 of bank 2 is not line 27.

    >>> squeezed("gpio 2_07"), squeezed("gpio2-7"), squeezed("gpio27")
    ('gpio2.7', 'gpio2.7', 'gpio27')
    """
    text = re.sub(r"(?<=\d)[\s_-]+(?=\d)", ".", text.casefold().strip())
    text = re.sub(r"[\s_-]+", "", text)
    return re.sub(r"(?<!\d)0+(?=\d)", "", text)


class NameBook:
    """All names of one board's pins."""

    def __init__(self, board: Board):
        self.board = board

    @cached_property
    def _spellings(self) -> dict[str, list[Match]]:
        """What each spelling can mean."""
        spellings: dict[str, list[Match]] = {}
        for pin_id, pin in self.board.pins.items():
            for scheme, name in pin.names.items():
                for spelling, exact in self._forms(scheme, name).items():
                    spellings.setdefault(spelling, []).append(Match(scheme, pin_id, exact))
        return spellings

    def _forms(self, scheme: str, name: str) -> dict[str, bool]:
        own = squeezed(name)
        forms = {own: True}
        known = self.board.schemes.get(scheme)
        prefixes = [squeezed(p) for p in known.prefixes] if known else []
        stem = next(
            (
                own.removeprefix(p)
                for p in sorted(prefixes, key=len, reverse=True)
                if own.startswith(p) and own != p
            ),
            own,
        )
        if stem == own or stem.isdigit():
            if stem == own or not self._letters_differ(scheme):
                forms |= {squeezed(f"{p} {stem}"): True for p in prefixes}
            forms.setdefault(stem, False)
        return forms

    def _letters_differ(self, scheme: str) -> bool:
        """The scheme's prefix letters tell pins apart (D3 is not A3), so none stands for another."""
        heads = {re.split(r"\d", p.names[scheme])[0] for p in self.board.pins.values() if scheme in p.names}
        return len(heads) > 1

    def find(self, text: str, scheme: str | None = None) -> tuple[Match, ...]:
        """Everything that a spelling can mean, in the board's order of schemes and pins."""
        named, _, rest = text.partition(":")
        if rest and named.strip().casefold() in self.board.schemes:
            scheme, text = named.strip().casefold(), rest
        spelt = self._spellings.get(squeezed(text), [])
        order = [*self.board.schemes, LABEL]
        spelt = [m for m in spelt if scheme in (None, m.scheme)]
        return tuple(sorted(spelt, key=lambda m: order.index(m.scheme)))

    def pins(self, text: str, scheme: str | None = None) -> tuple[str, ...]:
        """The different pins among the matches; more than one is an ambiguity.

        A spelling that is to the letter the name in the scheme that is asked for means that pin.
        """
        return tuple(dict.fromkeys(m.pin for m in self.find(text, scheme)))

    def near(self, text: str, count: int = 5) -> tuple[str, ...]:
        """The nearest names, spelled as their schemes do."""
        names = {squeezed(n): n for p in self.board.pins.values() for n in p.names.values()}
        return tuple(names[n] for n in nearest(squeezed(text), names, count, 0.4))

    def from_other_end(self, pin: str) -> dict[str, str]:
        """What the pin would be called by someone who counts from the wrong
        end, in the schemes where that happens."""
        meant = {}
        for scheme, spec in self.board.schemes.items():
            name = self.board.pins[pin].names.get(scheme, "")
            if spec.other_end and (number := re.search(r"\d+$", name)):
                count = sum(scheme in p.names for p in self.board.pins.values())
                meant[scheme] = name[: number.start()] + str(count + 1 - int(number[0]))
        return meant

    def all_names(self, pin: str) -> dict[str, str]:
        """Every name of a pin by scheme."""
        return dict(self.board.pins[pin].names)
