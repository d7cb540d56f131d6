"""What the engine's elements belong to: an element of a part, a bead in a tie, or a pin."""

from msgspec import Struct
from msgspec.structs import replace


class Key(Struct, frozen=True, cache_hash=True):
    """One of three owners, and which of several resistances or junctions there."""

    part: str = ""
    element: str = ""
    """of the part"""
    tie: str = ""
    bead: int = 0
    """its place in the tie"""
    pin: str = ""
    """contact of the pin"""
    which: str = ""
    """ "back", "collector", "high": empty where there is only one"""

    def its(self, which: str) -> "Key":
        """Another one of the same owner."""
        return replace(self, which=which)

    def __str__(self) -> str:
        """In messages, and in the names of nodes inside an element.

        >>> str(of_part("lamp", "led")), str(of_bead("lamp.anode", 0)), str(of_pin("board.p3").its("high"))
        ('lamp/led', 'lamp.anode#0', 'pin:board.p3:high')
        """
        if self.part:
            owner = f"{self.part}/{self.element}"
        elif self.tie:
            owner = f"{self.tie}#{self.bead}"
        else:
            owner = f"pin:{self.pin}"
        return f"{owner}:{self.which}" if self.which else owner


def of_part(part: str, element: str) -> Key:
    """The key of an element of a part."""
    return Key(part=part, element=element)


def of_bead(tie: str, at: int) -> Key:
    """The key of a bead of a tie."""
    return Key(tie=tie, bead=at)


def of_pin(contact: str) -> Key:
    """The key of a contact's own driver."""
    return Key(pin=contact)
