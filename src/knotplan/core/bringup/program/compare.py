"""What a program does, held against the plan."""

from collections import Counter
from collections.abc import Iterator, Sequence

from msgspec import Struct

from knotplan.catalog.part.needs import Analog, Input, Output, Pulse, Stream
from knotplan.core.bringup.difference import Difference, Gravity, Spot
from knotplan.core.bringup.follow_pin import tied_there
from knotplan.core.bringup.otherwise import Numbers
from knotplan.core.bringup.program.code import Source
from knotplan.core.bringup.program.dialect import Dialect, Role
from knotplan.core.bringup.program.follow import follow
from knotplan.core.bringup.program.named import Named, words_of
from knotplan.core.bringup.program.told import Told, Use
from knotplan.core.bringup.program.values import Known, Many, Value, numbers
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy
from knotplan.core.quantity.written import counted

LEAST_BESIDE = 2
"""constants of a file that are used as pins, from which on its others are looked at too"""
OUT, IN = "output", "input"
ON = frozenset({"on", "open", "start", "enable", "light", "ring", "sound"})
OFF = frozenset({"off", "close", "stop", "disable", "dark", "silent"})


class Meant(Struct, frozen=True):
    """A pin in a program, and what it is in the plan."""

    use: Use
    value: Value
    contact: str
    """the pin's contact; empty where the number is none"""
    tie: Tie | None
    """the tie that is meant, by the name or by the pin"""
    by_name: bool


class Compared(Struct, frozen=True):
    """A program and what of it is not as planned."""

    told: Told
    meant: tuple[Meant, ...]
    differences: tuple[Difference, ...]

    @property
    def says_anything(self) -> bool:
        """Something of it was held against the plan: a pin, an address, a rate."""
        other = any(use.call.does not in ("setup", "write", "read", "wait") for use in self.told.uses)
        return bool(self.meant) or other or any(d.gravity == "differs" for d in self.differences)


def compared(
    c: Circuit, sources: Sequence[Source], dialects: Sequence[Dialect], scheme: str = ""
) -> Compared:
    """Follows a program and compares it. `scheme`: in which it counts pins where its dialect does not say."""
    from knotplan.core.bringup.program.numbers import of_numbers
    from knotplan.core.bringup.program.order import of_order

    told = follow(sources, dialects)
    comparison = PinComparison(c, told, scheme or c.scheme)
    found = [_unread(source) for source in sources if source.unread]
    found += comparison.differences()
    found += of_order(comparison)
    found += of_numbers(c, told, comparison.named)
    kept: dict[tuple[object, ...], Difference] = {}
    for d in found:
        kept.setdefault((d.kind, d.spot, d.subjects), d)
    order = sorted(
        kept.values(), key=lambda d: (d.spot.source, d.spot.line, d.spot.column) if d.spot else ("", 0, 0)
    )
    return Compared(told, tuple(comparison.meant), tuple(order))


def _unread(source: Source) -> Difference:
    """What the parser could not make out is not silently left out."""
    places = counted(len(source.unread), "place")
    return Difference(
        "program-unread",
        "note",
        f"{places} of {source.name} cannot be read",
        "The first is shown. It is no source of its language, or goes beyond what the parser knows: nothing "
        "is said of what stands there.",
        (),
        source.unread[0],
    )


class PinComparison:
    """Pins of a program against the plan's ties."""

    def __init__(self, c: Circuit, told: Told, scheme: str):
        self.c, self.told, self.spoken = c, told, scheme
        self.numbers, self.named = Numbers(c.board), Named(c)
        self.at = {tie.to: tie for tie in reversed(self.named.ties.values())}
        self.meant: list[Meant] = [m for use in told.uses for m in self._meant(use)]

    # --- what is meant --------------------------------------------------------------------------------

    def scheme(self, dialect: Dialect) -> str:
        """In which scheme a dialect counts on this board."""
        return dialect.scheme if dialect.scheme in self.c.board.schemes else self.spoken

    def _meant(self, use: Use) -> Iterator[Meant]:
        for value in self.pins(use.roles.get("pin", ())):
            if value.symbol and not self.numbers.pin(self.scheme(use.dialect), str(value.value)):
                continue  # a name that the program does not define, and that is no pin
            if isinstance(value.value, bool | float):
                continue
            pin = self.numbers.pin(self.scheme(use.dialect), value.value)
            contact = f"{BOARD}.{pin}" if pin else ""
            names = [*value.names, *self._users(use)]
            ties = self.named.ties_of(names)
            here = self.at.get(contact)
            if len(ties) == 1:
                yield Meant(use, value, contact, ties[0], True)
            elif here is not None and (not ties or here in ties):
                yield Meant(use, value, contact, here, bool(ties))
            else:
                yield Meant(use, value, contact, None, False)

    def pins(self, known: Known) -> list[Value]:
        """The plain values; of lists all that is in them."""
        found = list(numbers(known))
        for one in known:
            if isinstance(one, Many):
                for item in one.items:
                    found += self.pins(item)
        return found

    def _users(self, use: Use) -> list[str]:
        """What the program calls the line's user, where it is asked for alone."""
        single = len(self.pins(use.roles.get("pin", ()))) == 1
        return [str(v.value) for v in numbers(use.roles.get("user", ()))] if single else []

    # --- what differs ---------------------------------------------------------------------------------

    def differences(self) -> Iterator[Difference]:
        """All that concerns pins one by one."""
        for m in self.meant:
            if m.tie is None:
                yield from self._nobody(m)
            elif m.contact != m.tie.to:
                yield self._elsewhere(m, m.tie)
            else:
                yield from self._role(m, m.tie)
        yield from self._constants()
        yield from self._twice()
        yield from self._unused()

    def difference(
        self,
        kind: str,
        spot: Spot,
        title: str,
        message: str,
        tie: Tie | None,
        gravity: Gravity = "differs",
        remedies: tuple[Remedy, ...] = (),
    ) -> Difference:
        """About a tie, at a place of the program."""
        subjects = (tie.lead, tie.to) if tie is not None else ()
        return Difference(
            kind, gravity, title, message, subjects, spot, remedies, (tie.id,) if tie is not None else ()
        )

    def _elsewhere(self, m: Meant, tie: Tie) -> Difference:
        """The name says one tie, the number another pin."""
        c = self.c
        lead, planned = c.titles.of(tie.lead), c.titles.full(tie.to)
        here = c.titles.full(m.contact) if m.contact else "no pin of the board"
        scheme = self.scheme(m.use.dialect)
        why = self.numbers.why(split(tie.to)[1], scheme, _raw(m.value))
        follow = tied_there(c, tie, m.contact)
        otherwise = ", or let the plan follow" if follow else ""
        return self.difference(
            f"program-pin-{why.kind}",
            m.value.at,
            f"{lead}: {m.value.value} is {here}, planned is {planned}",
            f"{_sentence(why.words)}. Write {self.shown(tie, scheme)}{otherwise}.",
            tie,
            remedies=follow,
        )

    def shown(self, tie: Tie, scheme: str) -> str:
        """A tie's pin as a program writes it in a scheme."""
        number = self.numbers.number(scheme, split(tie.to)[1])
        return str(number) if number is not None else self.c.board.name(split(tie.to)[1], scheme)

    def _nobody(self, m: Meant) -> Iterator[Difference]:
        """A pin that the plan does not use: most likely one of those that the program does not use."""
        c, scheme = self.c, self.scheme(m.use.dialect)
        here = c.titles.full(m.contact) if m.contact else ""
        pin = c.contacts.pin(m.contact) if m.contact else None
        used = {x.tie.id for x in self.meant if x.tie is not None}
        likely = [
            (tie, why)
            for tie in self.named.ties.values()
            if tie.id not in used
            and (why := self.numbers.why(split(tie.to)[1], scheme, _raw(m.value))).kind != "nothing"
            and self._fits(m.use, tie)
        ]
        owner = self.at.get(m.contact)
        if owner is not None:
            title = f"{m.value.value} is {here}, which is planned for {c.titles.of(owner.lead)}"
        elif here:
            title = f"{m.value.value} is {here}, which the plan does not use"
        else:
            title = f"{m.value.value} is no pin"
        if len(likely) == 1:
            tie, why = likely[0]
            text = f"Most likely {c.titles.of(tie.lead)} on {c.titles.full(tie.to)} is meant: {why.words}."
            follow = tied_there(c, tie, m.contact)
            yield self.difference(f"program-pin-{why.kind}", m.value.at, title, text, tie, remedies=follow)
            return
        job = f" {here} is a {pin.kind} pin." if pin is not None and pin.kind != "io" else ""
        text = (
            f"Counted by {c.board.schemes[scheme].title.lower()}.{job} Tie it in the plan, or correct "
            "the program."
        )
        yield self.difference("program-pin-unplanned", m.value.at, title, text, None)

    def _fits(self, use: Use, tie: Tie) -> bool:
        """The direction of a use fits a tie."""
        need, way = self.c.needs.of(tie.lead), self.direction(use)
        if use.call.does == "write":
            way = OUT
        if isinstance(need, Input | Analog):
            return way != OUT
        return way != IN if isinstance(need, Output | Pulse | Stream) else not way

    # --- a tie's role ---------------------------------------------------------------------------------

    def word_of(self, use: Use, role: Role) -> str:
        """What an argument means in the words of the dialect: one of those that its role can have; empty
        where that is not certain. Flags may be joined by |."""
        found = set()
        for value in numbers(use.roles.get(role, ())):
            texts = [str(value.value)] if not value.symbol else str(value.value).split("|")
            meanings = [m for text in texts for m in MEANINGS.get(role, ()) if _is_word(use.dialect, m, text)]
            found.add(meanings[0] if meanings else "")
        return found.pop() if len(found) == 1 else ""

    def direction(self, use: Use) -> str:
        """ "input" or "output"; empty where the program does not say."""
        found = self.word_of(use, "direction") or self.word_of(self._settings(use), "direction")
        return found if found in (IN, OUT) else ""

    def _settings(self, use: Use) -> Use:
        """The use with what its settings say."""
        from knotplan.core.bringup.program.values import Thing

        roles: dict[str, Known] = {}
        for one in use.roles.get("settings", ()):
            if isinstance(one, Thing):
                for name, known in one.fields.items():
                    roles[name] = known
        return Use(
            use.call,
            use.dialect,
            use.at,
            roles | {k: v for k, v in use.roles.items() if k != "settings"},
            use.function,
        )

    def _role(self, m: Meant, tie: Tie) -> Iterator[Difference]:
        need, use = self.c.needs.of(tie.lead), self._settings(m.use)
        lead, pin = self.c.titles.of(tie.lead), self.c.titles.full(tie.to)
        way = self.direction(use)
        writes = use.call.does in ("write", "pulse")
        if isinstance(need, Input | Analog) and (way == OUT or writes):
            says = "makes it an output" if way == OUT else "drives it"
            text = f"The program {says}; {lead} drives it as well, and two outputs work against each other."
            yield self.difference("program-drives", m.value.at, f"{pin} is an input in the plan", text, tie)
        if isinstance(need, Output | Pulse | Stream) and way == IN:
            text = f"The program makes it an input: {lead} will not be switched."
            yield self.difference("program-reads", m.value.at, f"{pin} is an output in the plan", text, tie)
        if isinstance(need, Output):
            yield from self._inverted(m, tie, need, use)
        if use.call.does == "setup" and tie.pull in ("up", "down"):
            yield from self._pull(m, tie, use)

    def active_low(self, use: Use) -> bool | None:
        """Whether the program has asked for a line active-low; nothing where it does not say."""
        known = numbers(use.roles.get("active_low", ()))
        if not known:
            return None
        word = self.word_of(use, "active_low")
        if word:
            return word == "active_low"
        if any(v.symbol for v in known):
            return False if len(known) == 1 else None
        truths = {bool(v.value) for v in known}
        return truths.pop() if len(truths) == 1 else None

    def _inverted(self, m: Meant, tie: Tie, need: Output, use: Use) -> Iterator[Difference]:
        lead = self.c.titles.of(tie.lead)
        low = need.active == "low"
        if self.active_low(use) is True and not low:
            text = (
                f"{lead} is on at high. The program asks for its line active-low, and so switches on "
                "with low."
            )
            yield self.difference(
                "program-inverted", m.value.at, f"{lead}: on and off are exchanged", text, tie
            )
        elif use.call.does == "write":
            yield from self._wrong_level(m, tie, low=low)

    def _wrong_level(self, m: Meant, tie: Tie, *, low: bool) -> Iterator[Difference]:
        """`relay_on()` that writes 1, where the relay is on at low."""
        level = self.level(m.use)
        if level is None:
            return
        level_names = [w for v in numbers(m.use.roles.get("level", ())) for n in v.names for w in words_of(n)]
        said = set(words_of(m.use.function)) | set(level_names)
        on, off = bool(said & ON), bool(said & OFF)
        asked_low = any(
            x.tie is tie and x.use.call.does == "setup" and self.active_low(self._settings(x.use))
            for x in self.meant
        )
        if on == off:
            return
        sets_high = bool(level) != (asked_low and m.use.dialect.level_is_active)
        is_on = sets_high != low
        if is_on != on:
            lead = self.c.titles.of(tie.lead)
            text = (
                f"{lead} is on at {'low' if low else 'high'}; this sets it "
                f"{'high' if sets_high else 'low'} to switch it {'on' if on else 'off'}."
            )
            yield self.difference(
                "program-inverted", m.use.at, f"{lead}: on and off are exchanged", text, tie
            )

    def level(self, use: Use) -> int | None:
        """The level that is written, where it is certain."""
        word = self.word_of(use, "level")
        if word in ("high", "low"):
            return int(word == "high")
        value = use.one("level")
        if value is None or value.symbol or isinstance(value.value, str):
            return (
                {"HIGH": 1, "LOW": 0, "True": 1, "False": 0}.get(str(value.value))
                if value is not None
                else None
            )
        return int(bool(value.value))

    def _pull(self, m: Meant, tie: Tie, use: Use) -> Iterator[Difference]:
        """The plan counts on the pin's own pull; the program says otherwise, or nothing although it could."""
        said = self.word_of(use, "bias")
        planned = "pull_up" if tie.pull == "up" else "pull_down"
        can = bool(use.dialect.words.pull_up) and ("bias" in use.call.args or "settings" in use.call.args)
        if said == planned or not can or self.direction(use) == OUT:
            return
        if not said and any(not self._is_known(use, v) for v in numbers(use.roles.get("bias", ()))):
            return  # something that nobody knows
        word = planned.replace("_", "-")
        has = f"asks for {said.replace('_', '-')}" if said else "does not ask for it"
        lead = self.c.titles.of(tie.lead)
        text = f"{lead} counts on the pin's {word}; the program {has}. The open lead holds no level."
        yield self.difference("program-pull", m.value.at, f"{lead}: its {word} is not switched on", text, tie)

    def _is_known(self, use: Use, value: Value) -> bool:
        """A plain number, or a symbol of which the dialect knows what it means."""
        if not value.symbol:
            return True
        texts = str(value.value).split("|")
        return all(any(_is_word(use.dialect, m, t) for ms in MEANINGS.values() for m in ms) for t in texts)

    # --- all together ---------------------------------------------------------------------------------

    def _constants(self) -> Iterator[Difference]:
        """Constants named for a tie that nothing here uses yet, beside others that are used as pins."""
        used = {name for m in self.meant for name in m.value.names}
        files = Counter(k.at.source for k in self.told.constants if k.name in used)
        schemes = list(dict.fromkeys(self.scheme(m.use.dialect) for m in self.meant))
        for k in self.told.constants:
            values = [
                v for v in numbers(k.known) if isinstance(v.value, int) and not isinstance(v.value, bool)
            ]
            if k.name in used or files[k.at.source] < LEAST_BESIDE or len(values) != 1 or values[0].symbol:
                continue
            ties = self.named.ties_of([k.name], sure=True)
            if len(ties) != 1 or len(schemes) != 1:
                continue
            pin = self.numbers.pin(schemes[0], _raw(values[0]))
            contact = f"{BOARD}.{pin}" if pin else ""
            if contact != ties[0].to:
                use = next(m.use for m in self.meant)
                yield self._elsewhere(Meant(use, values[0], contact, ties[0], True), ties[0])

    def _twice(self) -> Iterator[Difference]:
        """Two names for one pin."""
        by_pin: dict[str, dict[str, Meant]] = {}
        for m in self.meant:
            if m.use.call.does == "setup" and m.contact and m.value.names and not m.by_name:
                by_pin.setdefault(m.contact, {}).setdefault(m.value.names[0], m)
        for contact, names in by_pin.items():
            spots = {m.value.at: m for m in names.values()}
            if len(names) > 1 and len(spots) > 1:
                first, second, *_ = spots.values()
                text = (
                    f"{first.value.names[0]} ({first.value.at.words}) has it as well. One of the two "
                    "is another pin."
                )
                title = f"{self.c.titles.full(contact)} is set up twice"
                yield self.difference("program-pin-twice", second.value.at, title, text, second.tie)

    def _unused(self) -> Iterator[Difference]:
        """Ties that a program works, and this one does not: told where it works others."""
        used = {m.tie.id for m in self.meant if m.tie is not None}
        if not used:
            return
        for tie in self.named.ties.values():
            need = self.c.needs.of(tie.lead)
            if tie.id not in used and isinstance(need, Output | Input):
                lead, pin = self.c.titles.of(tie.lead), self.c.titles.full(tie.to)
                yield Difference(
                    "program-unused",
                    "note",
                    f"{lead} is not in the program",
                    f"Planned on {pin}, and nothing of the program's is there.",
                    (tie.lead, tie.to),
                    None,
                    look=(tie.id,),
                )


def _raw(value: Value) -> int | str:
    return value.value if isinstance(value.value, int | str) else str(value.value)


MEANINGS: dict[str, tuple[str, ...]] = {
    "direction": (OUT, IN),
    "level": ("high", "low"),
    "bias": ("pull_up", "pull_down", "no_pull"),
    "active_low": ("active_low", "active_high"),
}
"""what an argument can mean, by its role"""


def _is_word(dialect: Dialect, meaning: str, text: str) -> bool:
    """A symbol is one of a dialect's for a meaning, by its last part; or it is the meaning itself."""
    symbols: tuple[str, ...] = getattr(dialect.words, meaning)
    tail = text.rpartition(".")[2]
    return text == meaning or any(s in (text, tail) or text.endswith(f".{s}") for s in symbols)


def _sentence(text: str) -> str:
    return f"{text[0].upper()}{text[1:]}" if text else text
