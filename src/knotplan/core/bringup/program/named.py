"""Which tie or part of a plan a name in a program means."""

import re
from collections.abc import Collection, Iterable, Sequence

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.text.program import word

EMPTY = frozenset(
    [
        "pin",
        "pins",
        "gpio",
        "io",
        "line",
        "lines",
        "num",
        "number",
        "no",
        "port",
        "p",
        "k",
        "g",
        "m",
        "const",
        "default",
        "addr",
        "address",
        "i2c",
        "the",
        "a",
        "my",
        "self",
        "bus",
        "led",
        "out",
        "output",
        "in",
        "input",
        "ctl",
        "ctrl",
        "control",
        "sig",
        "signal",
        "device",
        "dev",
        "obj",
        "value",
        "val",
        "id",
        "cfg",
        "config",
        "settings",
        "req",
        "request",
    ]
)
"""words that tell nothing apart"""

SURE = 3.0


class _Phrases(Struct, frozen=True):
    """What a tie may be called: sets of words, the surest first."""

    sure: tuple[frozenset[str], ...]
    """all of it is said, and nothing else"""
    own: frozenset[str]
    """words of the role and the part"""
    any: frozenset[str]
    """and of its lead and kind"""


def words_of(name: str) -> tuple[str, ...]:
    """The words of a name as programs write them.

    >>> words_of("LENS_IN1"), words_of("pierRedPin"), words_of("kDoor")
    (('lens', 'in', '1'), ('pier', 'red', 'pin'), ('k', 'door'))
    """
    apart = re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|(?<=\D)(?=\d)|(?<=\d)(?=\D)", " ", name)
    return tuple(w.lower() for w in re.split(r"[\W_\s]+", apart) if w)


def _plain(words: Iterable[str]) -> frozenset[str]:
    found = frozenset(words)
    return frozenset(w for w in found if w not in EMPTY) or frozenset()


class Named:
    """The ties on pins of the board, and the parts, by what a program may call them."""

    def __init__(self, c: Circuit):
        self.c = c
        self.ties: dict[str, Tie] = {}
        self._of_tie: dict[str, _Phrases] = {}
        self._of_part: dict[str, _Phrases] = {}
        for contact, _, tie in c.ties.on_pins():
            if split(contact)[0] == BOARD:
                self.ties[tie.id] = tie
        count: dict[str, int] = {}
        for tie in self.ties.values():
            count[split(tie.lead)[0]] = count.get(split(tie.lead)[0], 0) + 1
        for tie in self.ties.values():
            self._of_tie[tie.id] = self._phrases(tie, alone=count[split(tie.lead)[0]] == 1)
        for part_id in c.parts:
            own = frozenset(words_of(c.titles.part(part_id)))
            kind = frozenset(words_of(c.parts[part_id].title))
            self._of_part[part_id] = _Phrases((own, _plain(own)), _plain(own), own | kind)

    def _phrases(self, tie: Tie, *, alone: bool) -> _Phrases:
        c = self.c
        part_id, lead = split(tie.lead)
        part = words_of(c.titles.part(part_id))
        own_lead = words_of(c.titles.own(tie.lead))
        role = words_of(tie.role)
        kind = words_of(c.parts[part_id].title)
        sure = [frozenset(role)] if role else []
        sure += [frozenset((*part, *own_lead)), frozenset((*part, *words_of(lead)))]
        if alone:
            sure.append(frozenset(part))
        own = _plain((*role, *part))
        return _Phrases(tuple(sure), own, frozenset((*role, *part, *own_lead, *words_of(lead), *kind)))

    def ties_of(self, names: Sequence[str], *, sure: bool = False) -> tuple[Tie, ...]:
        """The ties that some names of one value may mean: those that fit best; none where nothing fits.
        `sure`: only where a name is all of a tie's."""
        return tuple(self.ties[i] for i in self._best(names, self._of_tie, SURE if sure else 0.0))

    def parts_of(self, names: Sequence[str]) -> tuple[str, ...]:
        """The parts that some names may mean."""
        return self._best(names, self._of_part)

    def _best(self, names: Sequence[str], known: dict[str, _Phrases], least: float = 0.0) -> tuple[str, ...]:
        best, found = least - 1e-6 if least else 0.0, []
        for key, phrases in known.items():
            score = max((_score(words_of(name), phrases) for name in names), default=0.0)
            if score > best:
                best, found = score, [key]
            elif score == best and score > 0:
                found.append(key)
        return tuple(found)

    def constant(self, tie: Tie) -> str:
        """The tie's name as the plan's own constants have it."""
        c = self.c
        return word(tie.role or f"{c.titles.part(split(tie.lead)[0])}_{c.titles.own(tie.lead)}", "PIN_")


def _score(words: Collection[str], p: _Phrases) -> float:
    """How well a name fits: 4 all of it, 3 all that tells apart, 2 more besides, 1 something of it."""
    said, plain = frozenset(words), _plain(words)
    if said in p.sure or said - {"pin", "gpio"} in p.sure:
        return 4.0
    if plain and any(plain == _plain(s) for s in p.sure):
        return 3.0
    if not plain or not plain & p.own:
        return 0.0
    if plain <= p.any:
        whole = any(_plain(s) and _plain(s) <= plain for s in p.sure)
        return 2.0 + (0.5 if whole else 0.0) + 0.01 * len(plain & p.any)
    if any(_plain(s) and _plain(s) <= plain for s in p.sure):
        return 1.0
    return 0.0
