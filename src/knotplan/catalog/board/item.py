"""What all that stands in a board file has in common."""

import msgspec


class Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    pass
