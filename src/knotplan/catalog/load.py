"""Finding and reading catalogue files; each is read when it is first asked for, and nothing before."""

import re
from collections.abc import Iterable, Iterator
from functools import cache
from pathlib import Path
from typing import Any

import msgspec
from platformdirs import user_cache_path, user_data_path

from knotplan.catalog.board.board import Board
from knotplan.catalog.kept import tree_of
from knotplan.catalog.nearest import nearest
from knotplan.catalog.part.kind import PartKind, kind_from
from knotplan.catalog.part.needs import words
from knotplan.catalog.part.part import Job, Part

HERE = Path(__file__).parent
MOST_BYTES = 400_000
"""of a board file: far more than any board needs"""


class UnknownEntryError(LookupError):
    """No board or part has this id."""

    def __init__(self, kind: str, entry: str, known: Iterable[str]):
        near = nearest(entry, known, cutoff=0.4)
        hint = f"; did you mean {near[0]!r}?" if near else ""
        super().__init__(f"there is no {kind} {entry!r} in the catalogue{hint}")


class BrokenEntryError(UnknownEntryError):
    """The file of a board of the maker's own cannot be used."""

    def __init__(self, path: Path, why: str):
        LookupError.__init__(self, f"{path} cannot be used: {why}; `knotplan catalog check` lists everything")
        self.path = path


class Offer(msgspec.Struct, frozen=True):
    """A part as it can be added: one of its usual kinds."""

    part: str
    name: str
    """what it is called on the bench at first"""
    params: dict[str, str | float]
    text: str
    called: str
    """its name on the bench and its title"""
    said: str
    """what people call it"""
    does: str
    """what its leads need and give"""
    common: int
    """as in its file"""


class Catalog:
    """The boards and parts that come with the program, and those in the maker's own folder."""

    def __init__(self, folder: Path = HERE, own: Path | None = None, kept: Path | None = None):
        self._folder, self.own, self._kept = folder, own, kept
        self._boards: dict[str, Board] = {}
        self._kinds: dict[str, PartKind] = {}
        self._offers: tuple[Offer, ...] | None = None
        self._proposed: dict[Job, tuple[Part, ...]] = {}
        self._parts: dict[tuple[str, tuple[tuple[str, str | float], ...]], Part] = {}

    def board_ids(self) -> tuple[str, ...]:
        """Those that come with the program, then the maker's own."""
        return (*self.shipped_ids("board"), *self.own_board_ids())

    def own_board_ids(self) -> tuple[str, ...]:
        return self._own_ids("board")

    def shipped_ids(self, kind: str) -> tuple[str, ...]:
        return tuple(sorted(p.stem for p in (self._folder / f"{kind}s").glob("*.toml")))

    def part_ids(self) -> tuple[str, ...]:
        """Those that come with the program, then the maker's own."""
        return (*self.shipped_ids("part"), *self.own_part_ids())

    def own_part_ids(self) -> tuple[str, ...]:
        return self._own_ids("part")

    def _own_ids(self, kind: str) -> tuple[str, ...]:
        if self.own is None:
            return ()
        taken = self.shipped_ids(kind)
        return tuple(
            n for n in sorted(p.stem for p in (self.own / f"{kind}s").glob("*.toml")) if n not in taken
        )

    def path_of(self, board_id: str) -> Path:
        """The file of a board; raises UnknownEntryError."""
        return self._path("board", board_id)

    def part_path(self, part_id: str) -> Path:
        """The file of a part; raises UnknownEntryError."""
        return self._path("part", part_id)

    def _path(self, kind: str, entry: str) -> Path:
        path = self._folder / f"{kind}s" / f"{entry}.toml"
        # an id such as "../x" never leaves the folder
        if re.fullmatch(r"[a-z0-9][a-z0-9_-]{0,99}", entry):
            if path.is_file():
                return path
            if self.own is not None and (path := self.own / f"{kind}s" / path.name).is_file():
                return path
        raise UnknownEntryError(kind, entry, self.board_ids() if kind == "board" else self.part_ids())

    def _read(self, kind: str, entry: str) -> dict[str, Any]:
        return {"id": entry, **tree_of(self._path(kind, entry), self._kept, MOST_BYTES)}

    def forget(self, board_id: str) -> None:
        """Has a board read anew, because its file has changed."""
        self._boards.pop(board_id, None)

    def forget_part(self, part_id: str) -> None:
        """Has a part read anew."""
        self._kinds.pop(part_id, None)
        self._offers = None
        self._proposed.clear()
        for key in [k for k in self._parts if k[0] == part_id]:
            del self._parts[key]

    def _own_board(self, path: Path, board_id: str) -> Board:
        """A board of the maker's own: what is wrong with it is said, never guessed around."""
        from knotplan.catalog.board.check import faults

        try:
            board = msgspec.convert(self._read("board", board_id), Board)
        except (msgspec.ValidationError, ValueError, RecursionError, OSError) as error:
            raise BrokenEntryError(path, str(error)) from None
        if wrong := faults(board):
            raise BrokenEntryError(path, ": ".join(wrong[0]))
        return board

    def board(self, board_id: str) -> Board:
        """The board of an id; raises UnknownEntryError, for a broken file
        of the maker's own BrokenEntryError."""
        if board_id not in self._boards:
            path = self._path("board", board_id)
            if path.is_relative_to(self._folder):
                self._boards[board_id] = msgspec.convert(self._read("board", board_id), Board)
            else:
                self._boards[board_id] = self._own_board(path, board_id)
        return self._boards[board_id]

    def kind(self, part_id: str) -> PartKind:
        """The part file of an id, parameters open; raises UnknownEntryError."""
        if part_id not in self._kinds:
            path = self._path("part", part_id)
            own = not path.is_relative_to(self._folder)
            self._kinds[part_id] = (
                self._own_kind(path, part_id) if own else kind_from(part_id, self._read("part", part_id))
            )
        return self._kinds[part_id]

    def _own_kind(self, path: Path, part_id: str) -> PartKind:
        """A part of the maker's own: what is wrong with it is said, never guessed around."""
        from knotplan.catalog.part.check import kind_faults

        try:
            kind = kind_from(part_id, self._read("part", part_id))
        except (msgspec.ValidationError, ValueError, KeyError, TypeError, RecursionError, OSError) as error:
            raise BrokenEntryError(path, str(error)) from None
        if wrong := kind_faults(kind):
            raise BrokenEntryError(path, ": ".join(wrong[0]))
        return kind

    def proposed(self, job: Job) -> tuple[Part, ...]:
        """The parts that remedies bring in for a job, the lowest voltage first;
        files that are broken are left out."""
        if job not in self._proposed:
            parts = [part for part in self.usual() if job in part.proposed]
            parts.sort(key=lambda part: part.source.volts.typ if part.source else 0.0)
            self._proposed[job] = tuple(parts)
        return self._proposed[job]

    def usual(self) -> list[Part]:
        """Every part as it usually is; files that are broken are left out."""
        return [made for part_id in self.part_ids() if (made := self._usual(part_id)) is not None]

    def _usual(self, part_id: str) -> Part | None:
        try:
            return self.part(part_id, {})
        except UnknownEntryError:
            return None

    def offers(self) -> tuple[Offer, ...]:
        """Everything that can be added, each usual kind of a part by itself;
        files that are broken are left out."""
        if self._offers is None:
            self._offers = tuple(offer for part_id in self.part_ids() for offer in self._kinds_of(part_id))
        return self._offers

    def _kinds_of(self, part_id: str) -> Iterator[Offer]:
        try:
            kind = self.kind(part_id)
            named = next((n for n, p in kind.params.items() if p.named), "")
            for value in kind.params[named].choices if named else ("",):
                params: dict[str, str | float] = {named: value} if named else {}
                part = self.part(part_id, params)
                coloured = named == "colour"
                name = f"{value[0].upper()}{value[1:]} {kind.title}" if coloured else kind.title
                text = name if coloured else f"{name} – {part.summary}"
                # what it does comes last: what it is called counts more
                does = dict.fromkeys(words(n) for lead in part.leads.values() for n in lead.needs[:1])
                said = f"{part.summary} {' '.join(kind.words)} {part.category}"
                called = f"{name} {kind.title}"
                yield Offer(part_id, name, params, text, called, said, " ".join(does), kind.common)
        except UnknownEntryError:
            return

    def part(self, part_id: str, params: dict[str, str | float]) -> Part:
        """The definite part that parameters make; raises UnknownEntryError."""
        key = (part_id, tuple(sorted(params.items())))
        if key not in self._parts:
            self._parts[key] = self.kind(part_id).make(params)
        return self._parts[key]


@cache
def shipped() -> Catalog:
    """The catalogue that comes with the program."""
    return Catalog(kept=_kept())


@cache
def everything() -> Catalog:
    """The catalogue that comes with the program, and the maker's own boards."""
    return Catalog(own=own_folder(), kept=_kept())


def own_folder() -> Path:
    """Where the maker's own boards live (XDG Base Directory)."""
    return user_data_path("knotplan") / "catalog"


def _kept() -> Path:
    return user_cache_path("knotplan") / "catalog"
