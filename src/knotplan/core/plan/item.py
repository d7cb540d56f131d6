"""What everything in a plan is made of."""

import msgspec


class PlanItem(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A thing in a plan: immutable, strict when it is read, and short when it is written."""
