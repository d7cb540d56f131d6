"""Text from a plan on its way into other formats: what a format cannot hold, or
what turns its meaning, is taken out."""

import re

CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")
"""what XML 1.0 (2.2) and other formats have no place for"""
TURNS = re.compile("[\u202a-\u202e\u2066-\u2069]")
"""Unicode's overrides and isolates of direction (UAX 9, 2): with them a
line reads otherwise than it is written"""
MARKS = re.compile("[\u200b-\u200f\u2028\u2029\u2060\ufeff\u061c]")
"""letters of no width, and ends of lines that only some programs know"""
LOST = "\ufffd"
"""the replacement character: something was there"""


def writable(text: str) -> str:
    """The text without controls and turns of direction; lines stay lines.

    >>> writable("a\\x00b"), writable("safe\\nand sound")
    ('a\ufffdb', 'safe\\nand sound')
    """
    return TURNS.sub("", CONTROLS.sub(LOST, text))


def one_line(text: str) -> str:
    """The same on one line, with single spaces.

    >>> one_line("two\\r\\n lines")
    'two lines'
    """
    return " ".join(MARKS.sub(" ", writable(text)).split())


def remark(text: str) -> str:
    """A remark that cannot end its comment, begin another, or be read as anything
    else (C99 6.4.9; trigraphs 5.2.1.1).

    >>> remark("a */ b /* c ??/ d")
    'a * / b / * c ? ?/ d'
    """
    plain = one_line(text).replace("*/", "* /").replace("/*", "/ *")
    while "??" in plain:
        plain = plain.replace("??", "? ?")
    return plain.rstrip("\\")


def c_string(text: str) -> str:
    r"""A string literal of C: plain letters as they are, every other byte
    of its UTF-8 by number (C99 6.4.4.4).

    >>> c_string('H.07'), c_string('a"b?')
    ('"H.07"', '"a\\042b\\077"')
    """
    letters = (
        chr(b) if 32 <= b < 127 and chr(b) not in '"\\?' else f"\\{b:03o}"
        for b in text.encode("utf-8", "replace")
    )
    return f'"{"".join(letters)}"'


FORMULA = ("=", "+", "-", "@", "＝", "＋", "－", "＠")


def tame(text: str) -> str:
    """A cell that no spreadsheet takes for a formula.

    >>> tame("=1+1"), tame("5 V brick")
    ("'=1+1", '5 V brick')
    """
    text = one_line(text)
    return f"'{text}" if text.startswith(FORMULA) else text
