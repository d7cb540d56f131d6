"""Beads whose rails have other names now."""

from collections.abc import Callable

from msgspec.structs import replace

from knotplan.core.plan.beads import Bead, rails_of


def rails_moved(bead: Bead, now: Callable[[str], str]) -> Bead:
    """The bead with each rail that it leads to replaced by what it is called now."""
    return replace(bead, **{field: now(rail) if rail else "" for field, rail in rails_of(bead)})
