"""What all that stands in a part file has in common."""

import msgspec


class Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    pass
