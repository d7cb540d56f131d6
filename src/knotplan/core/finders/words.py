"""What a finder found, as text: the same in the terminal and in the window."""

from knotplan.core.finders.finder import Found, Trial
from knotplan.core.quantity.written import show


def lines(found: Found) -> list[str]:
    """The answer as lines of text."""
    marks = f"  ({', '.join(found.marks)})" if found.marks else ""
    sentences = [
        f"{found.what}: {show(found.value, found.unit)}{marks}; computed {show(found.exact, found.unit, 4)}"
    ]
    sentences += [f"{what}: {show(value, unit)}" for what, value, unit in found.also]
    sentences += [f"  {n.words()}" for n in found.chosen.results]
    sentences += [neighbour(found, t) for t in (found.lower, found.higher) if t is not None]
    sentences += [f"mind: {c}" for c in found.cautions]
    sentences += [f"  {line}" for line in found.lines]
    return [
        *sentences,
        f"from {', '.join(f'{n.name} {show(n.value, n.unit)}' for n in found.given)}",
        f"formula: {found.formula}",
        f"source: {found.source}",
    ]


def neighbour(found: Found, trial: Trial) -> str:
    """What the next value of the series would do, in a line."""
    first = trial.results[0]
    why = f"; {trial.fault}" if trial.fault else ""
    return f"  with {show(trial.value, found.unit)}: {first.name} {show(first.value, first.unit)}{why}"
