"""A package `gpiod` whose chips are made up: it writes down what a program asks of them, for a test that runs
the program in a process of its own."""

from pathlib import Path

PACKAGE = """
import json, os, time
from types import SimpleNamespace
from gpiod.line import Value

LOG = open(os.environ["FAKED_LOG"], "a", buffering=1)
LEVELS = json.loads(os.environ.get("FAKED_LEVELS", "{}"))


def note(**what):
    LOG.write(json.dumps({"at": time.monotonic(), **what}) + "\\n")


class LineSettings:
    def __init__(self, direction=None, bias=None, active_low=False, output_value=None):
        self.direction, self.bias = direction, bias
        self.active_low, self.output_value = active_low, output_value


class Request:
    def __init__(self, chip, config):
        self.chip, self.config = chip, config

    def set_value(self, line, value):
        level = int((value == Value.ACTIVE) != self.config[line].active_low)
        note(what="set", line=line, level=level)

    def get_value(self, line):
        return Value.ACTIVE if LEVELS.get(str(line)) else Value.INACTIVE

    def release(self):
        note(what="release")


def request_lines(path, consumer=None, config=None):
    for line, s in config.items():
        level = None
        if s.output_value is not None:
            level = int((s.output_value == Value.ACTIVE) != s.active_low)
        asked = {"direction": s.direction, "bias": s.bias, "low": s.active_low, "user": consumer}
        note(what="request", line=line, level=level, **asked)
    return Request(path, config)
"""
LINE = """
class Direction:
    INPUT, OUTPUT = "input", "output"


class Bias:
    PULL_UP, PULL_DOWN, DISABLED = "pull-up", "pull-down", "disabled"


class Value:
    ACTIVE, INACTIVE = "active", "inactive"
"""


def faked(folder: Path) -> Path:
    """The package in a folder; the folder goes onto the program's path."""
    package = folder / "faked" / "gpiod"
    package.mkdir(parents=True)
    (package / "__init__.py").write_text(PACKAGE, "utf-8")
    (package / "line.py").write_text(LINE, "utf-8")
    return package.parent
