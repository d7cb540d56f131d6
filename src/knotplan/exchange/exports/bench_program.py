"""A program to bring the wiring up with: it switches each output by itself, and leaves everything off."""

import re
from functools import lru_cache

from jinja2 import Environment, PackageLoader, StrictUndefined, Template
from msgspec import Struct

from knotplan.catalog.board.pin import KERNEL
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Tie
from knotplan.core.text.bench_program import Trial, trials, watched
from knotplan.exchange.exports.constants import number_in
from knotplan.exchange.exports.export import CannotExportError, SchemeError, text_export
from knotplan.exchange.plain_text import c_string, one_line, remark

BIASES = {"up": "PULL_UP", "down": "PULL_DOWN", "none": "DISABLED"}
AFTER = {
    "stays": "After it has ended a pin stays as it was last: off.",
    "input": "After it has ended every pin becomes an input again.",
    "power-on": "After it has ended every pin is as it is at power-on.",
}
TAIL = "_bench"


class _Line(Struct, frozen=True):
    """What stands in a row; texts are literals of the language."""

    name: str
    where: str
    chip: str
    line: int
    bias: str = ""
    active_low: bool = False
    way: str = ""
    on_s: float = 0.0
    rest_s: float = 0.0
    pulse_s: float = 0.0
    period_s: float = 0.0


@lru_cache(4)
def _template(name: str) -> Template:
    # programs are no pages: their texts are written as literals of the language, which nothing escapes from
    made = Environment(
        loader=PackageLoader("knotplan.exchange"),
        undefined=StrictUndefined,
        keep_trailing_newline=True,
        autoescape=False,
    )
    return made.get_template(name)


def _kernel_line(c: Circuit, tie: Tie) -> tuple[str, int]:
    """(chip, offset) of a pin. Raises CannotExportError where the system has no line of it."""
    pin = c.contacts.pin(tie.to)
    name = pin.names.get(KERNEL, "") if pin is not None else ""
    number = re.search(r"(\d+)$", name)
    if number is None:
        raise CannotExportError(
            f"{c.board.title} has no line of the GPIO character device at {c.titles.full(tie.to)}: take the "
            "bench program in C"
        )
    chip = re.search(r"gpiochip\d+", name)
    return (chip[0] if chip else "gpiochip0"), int(number[1])


def _literal(text: str) -> str:
    """A Python string."""
    return repr(one_line(text))


def python_program(report: Report, scheme: str = "") -> str:
    """The program for Linux boards. Raises CannotExportError where the board has no character device."""
    c = report.circuit
    outputs = []
    for t in trials(c):
        chip, line = _kernel_line(c, t.tie)
        outputs.append(
            _Line(
                _literal(t.name),
                _literal(t.where),
                repr(chip),
                line,
                active_low=t.active_low,
                way=repr(t.way),
                on_s=round(t.on_s, 3),
                rest_s=round(t.rest_s, 3),
                pulse_s=round(t.pulse_s, 6),
                period_s=round(t.period_s, 6),
            )
        )
    inputs = []
    for w in watched(c):
        chip, line = _kernel_line(c, w.tie)
        inputs.append(_Line(_literal(w.name), _literal(w.where), repr(chip), line, BIASES[w.pull]))
    if not outputs and not inputs:
        raise CannotExportError(
            "no output and no input is tied to a pin of the board: there is nothing to switch"
        )
    return _template("bench_program.py.txt").render(
        title=_docstring(c.plan.title),
        board=_docstring(c.board.title),
        after=AFTER[c.board.after],
        inputs=inputs,
        outputs=outputs,
    )


def _docstring(text: str) -> str:
    """Text that cannot end a docstring or hide in it."""
    return remark(text).replace("\\", "/").replace('"', "'")


def c_program(report: Report, scheme: str = "") -> str:
    """The program for other boards, in C99. Raises SchemeError where a pin has no name in the scheme."""
    c = report.circuit
    scheme = scheme or c.scheme
    rows = []
    names = []
    for t in trials(c):
        name = number_in(c, t.tie, scheme)
        if name is None:
            raise SchemeError(f"the scheme {scheme!r} has no name for {t.where}")
        names.append(name)
    plain = all(re.fullmatch(r"\d{1,9}", n) for n in names)
    for t, name in zip(trials(c), names, strict=True):
        rows.append(_c_row(t, name if plain else c_string(name)))
    if not rows:
        raise CannotExportError("no output is tied to a pin of the board: there is nothing to switch")
    return _template("bench_program.c.txt").render(
        title=remark(c.plan.title),
        board=remark(c.board.title),
        scheme=remark(c.board.schemes[scheme].title.lower()) if scheme in c.board.schemes else "",
        after=AFTER[c.board.after],
        kind="int" if plain else "const char *",
        outputs=rows,
    )


def _c_row(t: Trial, pin: str) -> dict[str, object]:
    return {
        "pin": pin,
        "text": c_string(one_line(f"{t.name} on {t.where}")),
        "off": int(t.active_low),
        "pulse_us": round(t.pulse_s * 1e6),
        "period_us": round(t.period_s * 1e6),
        "on_us": round(t.on_s * 1e6),
        "rest_us": round(t.rest_s * 1e6),
    }


PYTHON_EXPORT = text_export(
    "bench-python",
    "Bench program (Python)",
    ".py",
    "switches each output by itself, on a Linux board",
    python_program,
    TAIL,
)
C_EXPORT = text_export(
    "bench-c",
    "Bench program (C)",
    ".c",
    "the same for other boards, two functions to fill in",
    c_program,
    TAIL,
    takes_scheme=True,
)
