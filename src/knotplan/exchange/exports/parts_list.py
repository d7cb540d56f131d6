"""The list to buy from: CSV (RFC 4180), Markdown, and HTML with boxes to tick."""

import csv
import io

from knotplan.core.check.report import Report
from knotplan.core.quantity.written import counted, show
from knotplan.core.text.shopping.line import GROUPS, Pack
from knotplan.core.text.shopping.shopping import shopping
from knotplan.exchange.exports.constant_template import markdown_text
from knotplan.exchange.exports.export import Export, text_export
from knotplan.exchange.exports.sheet import rendered
from knotplan.exchange.plain_text import tame

HEADS = ("count", "buy", "part", "details", "for", "group")


def parts_csv(report: Report) -> str:
    """The list as CSV with a heading."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(HEADS)
    found = shopping(report.circuit)
    for x in found.lines:
        writer.writerow([x.count, x.buy, tame(x.what), tame(x.details), tame(x.users), x.group])
    if found.pack is not None:
        writer.writerow([0, 0, tame(_pack_title(found.pack)), tame(_instead(found.pack)), "", GROUPS[2]])
    return out.getvalue()


def _pack_title(pack: Pack) -> str:
    return f"Resistor pack, {pack.series}"


def _instead(pack: Pack) -> str:
    """What a pack stands for."""
    return (
        f"{show(pack.tolerance, '%')}, at least {pack.each} of each: instead of the "
        f"{counted(pack.values, 'value')} above"
    )


def parts_markdown(report: Report, scheme: str = "") -> str:
    """The list as tables of Markdown, one for each group, with boxes to tick."""
    c, found = report.circuit, shopping(report.circuit)
    lines = [f"# {markdown_text(c.plan.title)}: parts", ""]
    for group in GROUPS:
        rows = [x for x in found.lines if x.group == group]
        if not rows:
            continue
        lines += [f"## {group.capitalize()}", "", "| | buy | part | details | for |", "|---|---|---|---|---|"]
        for x in rows:
            cells = (f"{x.buy}", x.what, x.details, x.users)
            lines.append(f"| ☐ | {' | '.join(markdown_text(cell) for cell in cells)} |")
        if found.pack is not None and group == GROUPS[2]:
            lines += [
                "",
                f"Or {markdown_text(_pack_title(found.pack))}: {markdown_text(_instead(found.pack))}.",
            ]
        lines.append("")
    lines.append(f"{show(found.spare, '%')} spare of small components and cords.")
    return "\n".join(lines) + "\n"


def parts_html(report: Report) -> str:
    """The list as a page that stands alone."""
    found = shopping(report.circuit)
    groups = [(g, [x for x in found.lines if x.group == g]) for g in GROUPS]
    pack = f"Or {_pack_title(found.pack)}: {_instead(found.pack)}." if found.pack is not None else ""
    return rendered(
        "parts.html",
        report,
        groups=[(g, rows) for g, rows in groups if rows],
        pack=pack,
        small=GROUPS[2],
        spare=show(found.spare, "%"),
    )


def parts_text(report: Report, scheme: str = "") -> str:
    """The list as plain text, to look at."""
    found = shopping(report.circuit)
    lines = [f"{report.circuit.plan.title}: parts", ""]
    for group in GROUPS:
        rows = [x for x in found.lines if x.group == group]
        lines += [group.capitalize()] if rows else []
        for x in rows:
            users = f"  (for {x.users})" if x.users else ""
            lines.append(
                f"  [ ] {x.buy:3}  {x.what}: {x.details}{users}"
                if x.details
                else f"  [ ] {x.buy:3}  {x.what}{users}"
            )
        if found.pack is not None and group == GROUPS[2]:
            lines.append(f"       or {_pack_title(found.pack)}: {_instead(found.pack)}")
        lines += [""] if rows else []
    return "\n".join([*lines, f"{show(found.spare, '%')} spare of small components and cords."]) + "\n"


EXPORTS = (
    text_export(
        "parts",
        "Parts list (CSV)",
        ".csv",
        "what to buy or take from the drawer",
        lambda report, _: parts_csv(report),
        "-parts",
    ),
    text_export("parts-md", "Parts list (Markdown)", ".md", "the same as tables", parts_markdown, "-parts"),
    Export(
        "parts-html",
        "Parts list (HTML)",
        ".html",
        "the same with boxes to tick",
        lambda report, _: parts_html(report).encode("utf-8"),
        parts_text,
        "-parts",
    ),
)
