"""What `knotplan names --format json` prints."""

from collections.abc import Sequence

from msgspec import Struct

from knotplan.core.names.book import Match, NameBook
from knotplan.core.text.pin_table import PinRow


class MatchAnswer(Struct, frozen=True):
    """A pin that a name can mean."""

    scheme: str
    """the scheme by which it means that pin"""
    pin: str
    """the pin's id"""
    names: dict[str, str]
    """the pin's name in each scheme"""


class NamesAnswer(Struct, frozen=True):
    """Every pin that a name can mean."""

    board: str
    """the board's id"""
    name: str
    """as it was asked"""
    ambiguous: bool
    """it means several pins, and no scheme was given"""
    matches: list[MatchAnswer]
    """the pins"""
    nearest: list[str]
    """names near it, where it means nothing"""


class PinRowAnswer(Struct, frozen=True):
    """A pin of a board, or a name of a list. (`names BOARD` and `--list` print a list of these.)"""

    asked: str
    """the name, or empty"""
    pin: str
    """the pin's id, or empty: the name means none, or several"""
    cells: dict[str, str]
    """what the table of pins has, by its heads"""


PinRowsAnswer = list[PinRowAnswer]


def answer(book: NameBook, name: str, matches: Sequence[Match], *, ambiguous: bool) -> NamesAnswer:
    """Every pin that a name can mean."""
    return NamesAnswer(
        board=book.board.id,
        name=name,
        ambiguous=ambiguous,
        matches=[MatchAnswer(m.scheme, m.pin, dict(book.all_names(m.pin))) for m in matches],
        nearest=[] if matches else list(book.near(name)),
    )


def rows(found: Sequence[PinRow], heads: Sequence[str]) -> PinRowsAnswer:
    """The table of pins."""
    return [PinRowAnswer(r.asked, r.pin, dict(zip(heads, r.cells, strict=True))) for r in found]
