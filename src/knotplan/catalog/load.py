"""Finding and reading catalogue files; each is read when it is first asked for."""

import tomllib
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

import msgspec

from knotplan.catalog.boards import Board
from knotplan.catalog.nearest import nearest
from knotplan.catalog.parts import Parameter, Part, PartKind

HERE = Path(__file__).parent


class UnknownEntryError(LookupError):
    """No board or part has this id."""

    def __init__(self, kind: str, entry: str, known: Iterable[str]):
        near = nearest(entry, known, cutoff=0.4)
        hint = f"; did you mean {near[0]!r}?" if near else ""
        super().__init__(f"there is no {kind} {entry!r} in the catalogue{hint}")


class Catalog:
    """The boards and parts in one folder (by default those that come with the program)."""

    def __init__(self, folder: Path = HERE):
        self._folder = folder
        self._boards: dict[str, Board] = {}
        self._kinds: dict[str, PartKind] = {}
        self._parts: dict[tuple[str, tuple[tuple[str, str | float], ...]], Part] = {}

    def board_ids(self) -> tuple[str, ...]:
        return tuple(sorted(p.stem for p in (self._folder / "boards").glob("*.toml")))

    def part_ids(self) -> tuple[str, ...]:
        return tuple(sorted(p.stem for p in (self._folder / "parts").glob("*.toml")))

    def _read(self, kind: str, entry: str) -> dict[str, Any]:
        known = self.board_ids() if kind == "board" else self.part_ids()
        if entry not in known:  # also keeps an id such as "../x" from leaving the folder
            raise UnknownEntryError(kind, entry, known)
        text = (self._folder / f"{kind}s" / f"{entry}.toml").read_text("utf-8")
        return {"id": entry, **tomllib.loads(text)}

    def board(self, board_id: str) -> Board:
        """The board of an id; raises UnknownEntryError."""
        if board_id not in self._boards:
            self._boards[board_id] = msgspec.convert(self._read("board", board_id), Board)
        return self._boards[board_id]

    def kind(self, part_id: str) -> PartKind:
        """The part file of an id, parameters open; raises UnknownEntryError."""
        if part_id not in self._kinds:
            tree = self._read("part", part_id)
            params = msgspec.convert(tree.get("params", {}), dict[str, Parameter])
            self._kinds[part_id] = PartKind(
                part_id, tree["title"], tree["summary"], tuple(tree.get("words", ())), params, tree
            )
        return self._kinds[part_id]

    def part(self, part_id: str, params: dict[str, str | float]) -> Part:
        """The definite part that parameters make; raises UnknownEntryError."""
        key = (part_id, tuple(sorted(params.items())))
        if key not in self._parts:
            self._parts[key] = self.kind(part_id).make(params)
        return self._parts[key]


@cache
def shipped() -> Catalog:
    """The catalogue that comes with the program."""
    return Catalog()
