"""The corpus: every style on every scene that it suits, right, and with each thing wrong that its text shows.

`python -m tests.programs.corpus` prints the figures, and what is missed or cried.
"""

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cache

from knotplan.catalog.load import shipped
from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.otherwise import Numbers
from knotplan.core.bringup.program.compare import compared
from knotplan.core.circuit.circuit import Circuit
from knotplan.examples import example
from knotplan.exchange.source import dialect_file
from knotplan.exchange.source.languages import trees
from tests.programs import styles_c, styles_python
from tests.programs.facts import Facts, facts_of
from tests.programs.own_dialects import own_dialects

Style = Callable[[Facts], dict[str, str]]
SCENES = {
    "harbour-light": "kernel",
    "seed-drawers": "index",
    "mist-bench": "printed",
    "kite-winder": "chip",
    "badge-wall": "index",
}


@dataclass(frozen=True)
class Program:
    """One text."""

    scene: str
    style: Style
    facts: Facts
    wrong: str = ""
    """what is wrong with it"""
    about: str = ""
    """the tie or part that it is about"""
    kinds: tuple[str, ...] = ()
    """of differences that say it"""

    @property
    def files(self) -> dict[str, str]:
        return self.style(self.facts)

    @property
    def title(self) -> str:
        return (
            f"{self.scene} {self.style.__module__.rpartition('_')[2]}.{self.style.__name__}: "
            f"{self.wrong or 'right'}"
        )


@cache
def circuit(scene: str) -> Circuit:
    return Circuit(example(scene, shipped()), shipped())


def styles_for(scene: str, f: Facts) -> Iterator[Style]:
    linux = SCENES[scene] == "kernel"
    for module in (styles_python, styles_c):
        if linux:
            yield from module.LINUX
            yield from module.BUSES if f.devices else ()
            yield from module.MOTORS if f.coils else ()
        yield from module.OWN


def programs() -> Iterator[Program]:
    """The right ones."""
    for scene, scheme in SCENES.items():
        f = facts_of(circuit(scene), scheme)
        for style in styles_for(scene, f):
            yield Program(scene, style, f)


def mutants() -> Iterator[Program]:
    """Each right one with one thing wrong; only where the text is another one then."""
    for right in programs():
        for wrong, about, kinds, facts in _mutations(right):
            made = replace(right, facts=facts, wrong=wrong, about=about, kinds=kinds)
            if made.files != right.files and _names(made) == _names(right):
                yield made


def _names(p: Program) -> list[int]:
    """How often a text has each line: a style may leave one out."""
    text = " ".join(p.files.values()).lower()
    return [text.count(x.name.lower()) for x in p.facts.lines]


Mutation = tuple[str, str, tuple[str, ...], Facts]


def _mutations(right: Program) -> Iterator[Mutation]:
    c, f = circuit(right.scene), right.facts
    yield from _other_pins(c, f)
    yield from _other_roles(f)
    yield from _two_of_them(f)
    yield from _other_devices(f)
    yield from _other_numbers(f)


def _other_pins(c: Circuit, f: Facts) -> Iterator[Mutation]:
    numbers = Numbers(c.board)
    taken = {x.number for x in f.lines}
    free = next((n for n in range(60, 1, -1) if n not in taken and numbers.pin(f.scheme, n)), None)
    for k, x in enumerate(f.lines):
        pin = c.plan.tie(x.tie).to.partition(".")[2]
        others = [n for s in c.board.schemes if (n := numbers.number(s, pin)) not in (None, x.number)]
        if others and k % 2 == 0:
            yield "pin in another scheme", x.tie, PIN, f.with_line(x.name, number=min(others))
        if k % 3 == 1:
            yield "off by one", x.tie, PIN, f.with_line(x.name, number=x.number + 1)
        if free is not None and k % 4 == 2:
            yield "a pin that the plan does not use", x.tie, PIN, f.with_line(x.name, number=free)


def _other_roles(f: Facts) -> Iterator[Mutation]:
    for k, x in enumerate(f.lines):
        if k % 4 == 0 and not x.output:
            yield "an input driven", x.tie, ("program-drives",), f.with_line(x.name, output=True, pull="none")
        if k % 3 == 0 and x.output and not x.active_low:
            yield "level inverted", x.tie, ("program-inverted",), f.with_line(x.name, active_low=True)
        if not x.output and x.pull != "none":
            yield "pull left out", x.tie, ("program-pull",), f.with_line(x.name, pull="none")


def _two_of_them(f: Facts) -> Iterator[Mutation]:
    if len(f.outputs) > 1:
        one, two = f.outputs[:2]
        swapped = f.with_line(one.name, number=two.number).with_line(two.name, number=one.number)
        yield "two exchanged", one.tie, PIN, swapped
        twice = (*PIN, "program-pin-twice")
        yield "one pin for two", two.tie, twice, f.with_line(two.name, number=one.number)
    if f.coils:
        a, b, c, d = f.coils
        yield "coil order", "coils", ("program-coils",), replace(f, coils=(a, c, b, d))


def _other_devices(f: Facts) -> Iterator[Mutation]:
    kinds = ("program-address", "program-address-eight-bit", "program-address-unplanned")
    for d in f.devices:
        for wrong, address in (("eight-bit address", d.address << 1), ("another address", d.address ^ 2)):
            devices = tuple(replace(x, address=address) if x is d else x for x in f.devices)
            yield wrong, d.part, kinds, replace(f, devices=devices)
    if f.devices:
        devices = tuple(replace(x, bus=x.bus + 3) for x in f.devices)
        yield "another bus", f.devices[0].part, ("program-bus",), replace(f, devices=devices)


def _other_numbers(f: Facts) -> Iterator[Mutation]:
    for name, n in f.steps.items():
        for wrong, count in (("twice the steps", n * 2), ("half the steps", n // 2)):
            yield wrong, name, ("program-steps",), replace(f, steps={**f.steps, name: count})
    first = f.outputs[0] if f.outputs else None
    if first is not None and first.least_s:
        yield "too short a wait", first.tie, ("program-wait",), replace(f, wait_s=first.least_s / 2)
    if f.baud:
        yield "another rate", "baud", ("program-baud",), replace(f, baud=f.baud * 2)


PIN = (
    "program-pin-other-scheme",
    "program-pin-off-by-one",
    "program-pin-other-end",
    "program-pin-nothing",
    "program-pin-unplanned",
)


def differing(p: Program) -> list[Difference]:
    return differing_in(p.scene, p.files, p.facts.scheme)


def differing_in(scene: str, files: dict[str, str], scheme: str) -> list[Difference]:
    """What of some files differs from a scene's plan."""
    dialects = (*dialect_file.shipped(), *own_dialects())
    found = compared(circuit(scene), trees(files.items()), dialects, scheme).differences
    return [d for d in found if d.gravity == "differs"]


def beside(one: Program, other: Program) -> dict[str, str]:
    """Two programs in one folder, each in a folder of its own."""
    return {f"a/{n}": t for n, t in one.files.items()} | {f"b/{n}": t for n, t in other.files.items()}


def is_found(p: Program, found: list[Difference]) -> bool:
    """It is said, about the right thing, at a line of the program."""
    return any(
        d.kind in p.kinds
        and d.spot is not None
        and d.spot.line > 0
        and (
            p.about in d.look
            or not d.look
            or p.about in d.subjects
            or p.wrong in ("coil order", "two exchanged")
        )
        for d in found
    )


def main() -> None:
    right = list(programs())
    cried = [(p, d) for p in right for d in differing(p)]
    print(f"{len(right)} programs that agree: {len({id(p) for p, _ in cried})} with false alarms")
    for p, d in cried:
        print(f"  {p.title}: {d.kind} {d.title}")
    wrong = list(mutants())
    missed = [p for p in wrong if not is_found(p, differing(p))]
    print(
        f"{len(wrong)} disagreements planted: {len(wrong) - len(missed)} found, "
        f"{1 - len(missed) / len(wrong):.1%}"
    )
    for (what, style), count in Counter((p.wrong, p.title.partition(":")[0]) for p in missed).items():
        print(f"  missed {count}: {what} in {style}")


if __name__ == "__main__":
    main()
