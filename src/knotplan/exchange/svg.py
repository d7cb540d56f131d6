"""A picture as SVG 1.1 (W3C): shapes one to one, text as text."""

import math
from xml.sax.saxutils import escape, quoteattr

from knotplan.core.drawing.shapes import Arc, Box, Curve, Disc, Picture, Polygon, Shape, Text
from knotplan.exchange.plain_text import writable

FONT = "Inter, 'DejaVu Sans', sans-serif"


def _paint(name: str, colour: str) -> str:
    """A fill or stroke; the last two of eight digits are its opacity."""
    if not colour:
        return f' {name}="none"'
    if len(colour) == 9:
        return f' {name}="{colour[:7]}" {name}-opacity="{int(colour[7:], 16) / 255:.3f}"'
    return f' {name}="{colour}"'


def _line(stroke: str, width: float, dash: bool = False) -> str:
    return (
        _paint("stroke", stroke)
        + (f' stroke-width="{width:g}"' if stroke else "")
        + (' stroke-dasharray="4 3"' if dash else "")
    )


def _n(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".") or "0"


def _arc(s: Arc) -> str:
    share = min(s.share, 0.9999)
    turn = 2 * math.pi * share
    end = f"{_n(s.x + s.r * math.sin(turn))} {_n(s.y - s.r * math.cos(turn))}"
    return (
        f'<path d="M{_n(s.x)} {_n(s.y - s.r)}A{_n(s.r)} {_n(s.r)} 0 {int(share > 0.5)} 1 {end}"'
        f' fill="none"{_line(s.stroke, s.width)}/>'
    )


def element(s: Shape) -> str:
    """One shape as an SVG element."""
    match s:
        case Box():
            return (
                f'<rect x="{_n(s.x)}" y="{_n(s.y)}" width="{_n(s.w)}" height="{_n(s.h)}" rx="{_n(s.radius)}"'
                f"{_paint('fill', s.fill)}{_line(s.stroke, s.width)}/>"
            )
        case Disc():
            return (
                f'<circle cx="{_n(s.x)}" cy="{_n(s.y)}" r="{_n(s.r)}"'
                f"{_paint('fill', s.fill)}{_line(s.stroke, s.width, s.dash)}/>"
            )
        case Arc():
            return _arc(s)
        case Polygon():
            points = " ".join(f"{_n(x)},{_n(y)}" for x, y in s.points)
            return f'<polygon points="{points}"{_paint("fill", s.fill)}{_line(s.stroke, s.width)}/>'
        case Curve():
            pieces = "".join("C" + " ".join(map(_n, piece)) for piece in s.pieces)
            return (
                f'<path d="M{_n(s.start[0])} {_n(s.start[1])}{pieces}" fill="none" stroke-linecap="round"'
                f"{_line(s.stroke, s.width, s.dash)}/>"
            )
        case Text():
            turn = f' transform="rotate({s.angle:g} {_n(s.x)} {_n(s.y)})"' if s.angle else ""
            weight = ' font-weight="600"' if s.bold else ""
            return (
                f'<text x="{_n(s.x)}" y="{_n(s.y)}" font-size="{s.size:g}"{weight} text-anchor="{s.anchor}"'
                f"{_paint('fill', s.fill)}{turn}>{escape(writable(s.text))}</text>"
            )


def svg(p: Picture, title: str = "") -> str:
    """The whole picture as an SVG document."""
    body = "\n".join(element(s) for s in p.shapes)
    name = f"<title>{escape(writable(title))}</title>\n" if title else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(p.w)}" height="{_n(p.h)}" '
        f'viewBox="{_n(p.x)} {_n(p.y)} {_n(p.w)} {_n(p.h)}" font-family={quoteattr(FONT)}>\n{name}'
        f'<rect x="{_n(p.x)}" y="{_n(p.y)}" width="{_n(p.w)}" height="{_n(p.h)}" fill="{p.ground}"/>\n'
        f"{body}\n</svg>\n"
    )
