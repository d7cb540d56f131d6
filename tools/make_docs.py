"""Makes the pages that follow from the program: the handbook's rules, the published schemas.

`--check` only tells whether they are up to date.
"""

import json
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, get_args

from knotplan.catalog.load import shipped
from knotplan.catalog.part.part import Category, Part
from knotplan.cli.schema import schemas
from knotplan.core.check.analysis import analyse
from knotplan.core.check.rules import RULES
from knotplan.core.finders import FINDERS
from knotplan.core.finders.finder import Input
from knotplan.core.finders.words import lines as said_by
from knotplan.core.plan.assumptions import ASSUMPTIONS, Assumption
from knotplan.core.quantity.written import show
from knotplan.examples import example

ROOT = Path(__file__).parent.parent
MARKS = {
    "stop": "will not work, or does damage, at usual values",
    "care": "may misbehave at worst values, or wears out early",
    "to-do": "not finished yet; before power it counts as a stop",
    "note": "worth knowing",
}


def rules_page() -> str:
    """Every rule with its reason, source, and what it says of the plan that breaks it."""
    lines = [
        "# What the checks say",
        "",
        "Made from the program's own list of rules by `./knot docs`. Each rule has an example plan that "
        "breaks",
        "it and one that does not, in `src/knotplan/examples/rules/`.",
        "",
        *(f"- **{s}**: {text}" for s, text in MARKS.items()),
        "",
    ]
    for rule in RULES:
        report = analyse(example(f"rules/{rule.id}.bad", shipped()), shipped())
        found = next(f for f in report.findings if f.rule == rule.id)
        remedies = "; ".join(r.title for r in found.remedies) or "none that the program can offer by itself"
        lines += [
            f"## {rule.title}",
            "",
            f"`{rule.id}`, {rule.severity}. {rule.reason}",
            "",
            f"> {found.message}",
            "",
            f"Remedy: {remedies}.  ",
            f"Source: {rule.source}.",
            "",
        ]
    return "\n".join(lines)


def parts_page() -> str:
    """Every part of the catalogue, by kind."""
    catalog = shipped()
    lines = [
        "# All parts",
        "",
        "Made from the catalogue by `./knot docs`. Parts are plain trade descriptions, of no maker.",
        "",
    ]
    found = [(catalog.part(o.part, o.params), o) for o in catalog.offers()]
    for category in get_args(Category):
        lines += [
            f"## {category[0].upper()}{category[1:]}",
            "",
            "| part | kinds | leads | also called |",
            "|---|---|---|---|",
        ]
        by_file: dict[str, list[tuple[Part, str]]] = {}
        for part, offer in found:
            if part.category == category:
                by_file.setdefault(offer.part, []).append((part, part.summary))
        for kinds in by_file.values():
            part = kinds[0][0]
            leads = ", ".join(lead.title for lead in list(part.leads.values())[:8]) + (
                " …" if len(part.leads) > 8 else ""
            )
            summaries = "; ".join(dict.fromkeys(summary for _, summary in kinds))
            lines.append(
                f"| {part.title} | {summaries} | {leads} | {', '.join(part.words)} |".replace("\n", " ")
            )
        lines.append("")
    return "\n".join(lines)


def finders_page() -> str:
    """Every value finder: its question, inputs, formula and source, with the answer to its usual inputs."""
    lines = [
        "# Value finders",
        "",
        "Made from the program by `./knot docs`. In the window: `Ctrl+F`, or *Values* in the inspector",
        "of a tie, where the inputs come from the plan. In the terminal: `knotplan value NAME`. Numbers take "
        "SI prefixes,",
        "units, the letter code and percent.",
        "",
    ]
    for f in FINDERS:
        given: dict[str, float | str] = {i.name: USUAL[i.name] for i in f.inputs if i.default is None}
        given |= {"current": 0.01} if f.id == "led" else {}
        found = f(given)
        lines += [
            f"## {f.title}",
            "",
            f"`knotplan value {f.id}`. {f.question}",
            "",
            f"Formula: {found.formula}.  ",
            f"Source: {found.source}.  ",
            f"Inputs, with what is usual: {', '.join(map(_asked, f.inputs))}.",
            "",
            "```",
            *said_by(found),
            "```",
            "",
        ]
    lines += [
        "## What is assumed",
        "",
        "Where neither the plan nor the catalogue says, finders and checks take these figures. *Edit →",
        "Assumptions* (`Ctrl+Shift+A`) changes them for a plan.",
        "",
        "| figure | usually | from, to | why that |",
        "|---|---|---|---|",
        *map(_assumption, ASSUMPTIONS),
        "",
    ]
    return "\n".join(lines)


def _assumption(a: Assumption) -> str:
    usual, least, most = (show(v, a.unit) for v in (a.usual, a.least, a.most))
    return f"| {a.title} | {usual} | {least}, {most} | {a.source} |"


def _asked(i: Input) -> str:
    title = i.title if i.title[:2].isupper() else i.title.lower()
    if i.default is None:
        return title
    shown = i.default if isinstance(i.default, str) else show(i.default, i.unit)
    return f"{title} ({i.nought or shown})"


USUAL = {
    "supply": 5.0,
    "forward": 2.0,
    "current": 0.5,
    "load": 0.1,
    "volts": 5.0,
    "least": 1e3,
    "most": 100e3,
    "ohm": 69.0,
    "length": 2.0,
}


def schema_file(schema: dict[str, Any]) -> str:
    return json.dumps(schema, indent=1, ensure_ascii=False) + "\n"


PAGES: dict[Path, Callable[[], str]] = {
    ROOT / "docs/handbook/rules.md": rules_page,
    ROOT / "docs/handbook/parts-list.md": parts_page,
    ROOT / "docs/handbook/finders.md": finders_page,
} | {
    ROOT / f"docs/schemas/{name}.schema.json": partial(schema_file, schema)
    for name, schema in schemas().items()
}


def main() -> int:
    stale = [path for path, make in PAGES.items() if not path.exists() or path.read_text("utf-8") != make()]
    if "--check" in sys.argv:
        for path in stale:
            print(f"{path.relative_to(ROOT)} is out of date: run ./knot docs")
        return 1 if stale else 0
    for path in stale:
        path.write_text(PAGES[path](), "utf-8")
        print(f"wrote {path.relative_to(ROOT)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
