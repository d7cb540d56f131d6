"""A dialect that is proposed from a program: calls that nobody knows, and whose arguments are pins of the
plan again and again."""

from collections.abc import Iterator, Sequence

from msgspec import Struct

from knotplan.core.bringup.otherwise import Numbers
from knotplan.core.bringup.program.dialect import CallMeans, Dialect, Role, Words
from knotplan.core.bringup.program.named import Named, words_of
from knotplan.core.bringup.program.told import Told
from knotplan.core.bringup.program.values import Known, numbers
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD

ENOUGH = 0.6
"""the share of an argument's constants that are planned pins"""
LEAST = 2
"""different ones; one is enough where it is called like a tie"""
WORDS: tuple[tuple[str, frozenset[str]], ...] = (
    ("output", frozenset({"out", "output"})),
    ("input", frozenset({"in", "input"})),
    ("high", frozenset({"high", "on"})),
    ("low", frozenset({"low", "off"})),
    ("pull_up", frozenset({"pullup", "up"})),
    ("pull_down", frozenset({"pulldown", "down"})),
)
WAITS = {"ms": 1e-3, "millis": 1e-3, "us": 1e-6, "micros": 1e-6, "seconds": 1.0, "s": 1.0}
WAIT_WORDS = frozenset({"wait", "sleep", "delay", "pause"})
WRITES, READS = frozenset({"write", "set", "put"}), frozenset({"read", "get"})


class _Argument(Struct, frozen=True):
    """What stood at one place of one call, over the whole program."""

    call: str
    place: int
    knowns: tuple[Known, ...]


def proposed(c: Circuit, told: Told, languages: Sequence[str], scheme: str = "") -> Dialect | None:
    """A dialect for the calls of a program that set pins of the plan; nothing where there are none. It is a
    proposal: who knows the program reads it, and corrects it."""
    calls, symbols = [], []
    for arguments in _by_call(told):
        means = _means(c, arguments, scheme)
        if means is not None:
            calls.append(means)
            symbols += [s for a in arguments for s in _symbols(a)]
    if not any("pin" in call.args for call in calls):
        return None
    return Dialect(
        "As this program speaks",
        tuple(languages),
        scheme,
        (),
        tuple(calls),
        _words(tuple(dict.fromkeys(symbols))),
    )


def _by_call(told: Told) -> Iterator[tuple[_Argument, ...]]:
    found: dict[str, list[tuple[Known, ...]]] = {}
    for name, args, _ in told.calls:
        found.setdefault(name, []).append(args)
    for name, rows in found.items():
        width = max(map(len, rows))
        yield tuple(_Argument(name, k, tuple(row[k] for row in rows if k < len(row))) for k in range(width))


def _means(c: Circuit, arguments: Sequence[_Argument], scheme: str) -> CallMeans | None:
    """What a call may mean, by its name and by what stands in it."""
    if not arguments:
        return None
    name = arguments[0].call
    own = words_of(name)
    if set(own) & WAIT_WORDS and len(arguments) == 1:
        unit = next((WAITS[w] for w in own if w in WAITS), 1e-3 if "delay" in own else 1.0)
        return CallMeans(name, "wait", args={"seconds": "0"}, times=unit)
    pin = next((a for a in arguments if _is_pin(c, a, scheme)), None)
    if pin is None:
        return None
    args: dict[Role, str] = {"pin": str(pin.place)}
    after = [a for a in arguments if a.place > pin.place]
    kinds = {word for a in after for s in _symbols(a) for word in _kinds(s)}
    if kinds & {"output", "input", "pull_up", "pull_down"}:
        place = str(after[0].place)
        return CallMeans(name, "setup", args={**args, "direction": place, "bias": place})
    if set(own) & READS:
        return CallMeans(name, "read", args=args)
    if after and (set(own) & WRITES or kinds & {"high", "low"}):
        return CallMeans(name, "write", args={**args, "level": str(after[0].place)})
    return CallMeans(name, "setup", args=args)


def _is_pin(c: Circuit, argument: _Argument, scheme: str) -> bool:
    """Most of what stands there are pins of the plan, or are called like its ties."""
    pins, named = Numbers(c.board), Named(c)
    planned = {tie.to for tie in named.ties.values()}
    seen: dict[int | str, bool] = {}
    all_called = True
    for known in argument.knowns:
        for v in numbers(known):
            if isinstance(v.value, bool | float) or v.symbol:
                continue
            pin = pins.pin(scheme or c.scheme, v.value)
            called = bool(named.ties_of(v.names, sure=True))
            all_called = all_called and called
            seen[v.value] = f"{BOARD}.{pin}" in planned or called
    return (len(seen) >= LEAST or (seen != {} and all_called)) and sum(seen.values()) >= ENOUGH * len(seen)


def _symbols(argument: _Argument) -> list[str]:
    return [str(v.value) for known in argument.knowns for v in numbers(known) if v.symbol]


def _kinds(symbol: str) -> list[str]:
    """The meanings of a word such as IO_OUT or INPUT_PULLUP."""
    own = set(words_of(symbol.rpartition(".")[2]))
    own |= {a + b for a, b in zip(words_of(symbol), words_of(symbol)[1:], strict=False)}
    return [meaning for meaning, words in WORDS if own & words]


def _words(symbols: Sequence[str]) -> Words:
    by: dict[str, list[str]] = {}
    for symbol in symbols:
        for meaning in _kinds(symbol):
            last = symbol.rpartition(".")[2]
            if last not in by.setdefault(meaning, []):
                by[meaning].append(last)
    return Words(**{meaning: tuple(found) for meaning, found in by.items()})


def spoken(told: Told, dialects: Sequence[Dialect]) -> tuple[Dialect, ...]:
    """The dialects that a program speaks: it uses their calls, or imports what they are known by."""
    used = {use.dialect.title for use in told.uses}
    brought = set(told.imports) | {name.partition(".")[0] for name in told.imports}
    return tuple(d for d in dialects if d.title in used or brought & set(d.known_by))
