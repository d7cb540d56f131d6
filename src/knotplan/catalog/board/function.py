"""What a pin can do, as files spell it: ``pwm:A.1``."""

import re
from functools import lru_cache

from knotplan.catalog.board.item import Item

ANY = "any"
"""as an instance: the board gives the pin whichever unit of a pool is free (``pwm:any``)"""


class Function(Item):
    """One job that a pin can do, by a numbered instance of a peripheral: ``pwm:A.1``.

    An instance that can be led to several groups of pins, but only as a
    whole, names the group: ``uart:1.tx~2``.
    """

    kind: str
    instance: str = ""
    channel: str = ""
    remap: str = ""

    def __str__(self) -> str:
        tail = (f".{self.channel}" if self.channel else "") + (f"~{self.remap}" if self.remap else "")
        return f"{self.kind}:{self.instance}{tail}" if self.instance else self.kind

    @property
    def unit(self) -> str:
        """The instance that does the job, as boards list it: ``pwm:A``."""
        return f"{self.kind}:{self.instance}" if self.instance else ""


KINDS = (
    "digital",
    "input",
    "output",
    "adc",
    "dac",
    "pwm",
    "i2c",
    "spi",
    "uart",
    "onewire",
    "capture",
    "touch",
    "sink",
    "source",
    "bridge",
    "stream",
)
"""what pins can do; "input" is a level that can be read but not driven, "output" one that can be driven
but not read; sink, source and bridge switch the current of a load; "stream" hands on a timed protocol"""


FUNCTION = re.compile(
    r"(?P<kind>[a-z0-9]+)"
    r"(?::(?P<instance>[A-Za-z0-9]+)(?:\.(?P<channel>[a-z0-9-]+))?(?:~(?P<remap>[a-z0-9]+))?)?"
)


@lru_cache(4096)
def parse_function(text: str) -> Function:
    """The function that ``pwm:A.1`` spells.

    >>> parse_function("i2c:1.sda")
    Function(kind='i2c', instance='1', channel='sda', remap='')
    """
    match = FUNCTION.fullmatch(text)
    if not match:
        raise ValueError(f"{text!r} is not a function such as 'digital', 'pwm:A.1' or 'i2c:1.sda'")
    return Function(match["kind"], *(match[part] or "" for part in ("instance", "channel", "remap")))
