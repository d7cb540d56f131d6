"""What is said of each planted mistake, and of each right plan, on the first board that can have it: word for
word, with its remedies, as it was read and found right. ``python -m tests.planted.said`` writes it anew;
look at the difference before it is kept."""

from collections.abc import Iterator, Sequence
from itertools import islice
from pathlib import Path

from knotplan.core.check.finding import Finding
from knotplan.core.plan.document import Plan
from tests.planted.count import RIGHT, WRONG, look, on_boards

KEPT = Path(__file__).with_name("said.txt")


def firsts() -> Iterator[tuple[str, str, Plan]]:
    """(template, board, plan) of every template, on one board each."""
    for name, template in ({n: m.lay for n, m in WRONG.items()} | RIGHT).items():
        for board, plan, _ in islice(on_boards(template), 1):
            yield name, board, plan


def said(name: str, board: str, findings: Sequence[Finding]) -> str:
    """One entry: a line for each finding and one for each remedy."""
    lines = [f"{name} ({board})"]
    for f in findings:
        if f.rule != "board-unfed":  # most templates have no supply for the board: that is not their matter
            lines.append(f"  {f.severity} {f.rule}: {f.message}")
            lines += [f"    with it {x.rule}: {x.message}" for x in f.with_it]
            lines += [f"    remedy: {r.title}" for r in f.remedies]
    return "\n".join(lines)


def all_said() -> str:
    """Every entry, as it is kept."""
    return "\n\n".join(said(name, board, look(plan).findings) for name, board, plan in firsts()) + "\n"


def entries(text: str) -> dict[str, str]:
    """{template: entry}."""
    return {entry.split(" ")[0]: entry.strip() for entry in text.split("\n\n")}


if __name__ == "__main__":
    KEPT.write_text(all_said(), "utf-8")
