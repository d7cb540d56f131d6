"""A contact of a part, and what it does for other parts."""

from typing import Literal

from knotplan.catalog.board.pin import PowerOn
from knotplan.catalog.part.item import Item
from knotplan.catalog.part.needs import Need


class Offer(Item):
    """What a lead of a hub does for other parts, in the words in which boards' pins say it."""

    kind: Literal["io", "supply", "ground", "contact"] = "io"
    """a contact passes on what comes in at the lead `via`"""
    functions: tuple[str, ...] = ()
    """what it can do, in the words of boards' pins"""
    driver: str = ""
    """its electrical character"""
    power_on: PowerOn = "floating"
    """what it is at power-on"""
    driven_by: str = ""
    """the lead that says what this contact does: in use, that one has to be tied too"""
    bridge_with: str = ""
    """the contact that is the other end of the same bridge"""
    rests: Literal["open", "closed"] = "open"
    """of a contact that is driven: what it is while nobody drives it"""
    via: str = ""
    """the lead over which a daisy chain or a contact continues"""
    note: str = ""
    """what else is worth knowing"""


class Lead(Item):
    """A contact of a part, as it is printed there."""

    title: str
    """what is printed there"""
    needs: tuple[Need, ...]
    """alternatives, the usual one first; of a part that may be turned round also those of its other end"""
    cord: str
    """usual colour of its cord"""
    required: bool = True
    """the part does not work without it"""
    offers: Offer | None = None
    """of a hub: what it does for other parts"""
    note: str = ""
    """what else is worth knowing"""
