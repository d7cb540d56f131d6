"""Edits: each is a function from a plan to a plan. Undo is the list of plans."""

from knotplan.core.plan.edits.activities import add_activity, change_activity, remove_activity, set_cycle
from knotplan.core.plan.edits.beads import add_bead, change_bead, put_bead, remove_bead
from knotplan.core.plan.edits.bench import drop_readings, note_reading, note_wired
from knotplan.core.plan.edits.board import carry, flip, set_clock, set_up, speak, turn
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.edits.findings import accept, withdraw
from knotplan.core.plan.edits.parts import (
    add_part,
    carry_part,
    exchange_part,
    move_part,
    nudge,
    remove_part,
    rename_part,
    set_param,
    set_params,
    set_program_setting,
    show_leads,
)
from knotplan.core.plan.edits.several import (
    excerpt,
    let_go,
    of_all,
    put_at,
    put_in,
)
from knotplan.core.plan.edits.ties import (
    fix_tie,
    lay_cord,
    recolour,
    set_cord,
    set_hertz,
    set_pull,
    set_role,
    tie,
    turn_round,
    untie,
)
from knotplan.core.plan.edits.whole import assume, retitle, set_series

__all__ = [
    "EditError",
    "accept",
    "add_activity",
    "add_bead",
    "add_part",
    "assume",
    "carry",
    "carry_part",
    "change_activity",
    "change_bead",
    "drop_readings",
    "excerpt",
    "exchange_part",
    "fix_tie",
    "flip",
    "lay_cord",
    "let_go",
    "move_part",
    "note_reading",
    "note_wired",
    "nudge",
    "of_all",
    "put_at",
    "put_bead",
    "put_in",
    "recolour",
    "remove_activity",
    "remove_bead",
    "remove_part",
    "rename_part",
    "retitle",
    "set_clock",
    "set_cord",
    "set_cycle",
    "set_hertz",
    "set_param",
    "set_params",
    "set_program_setting",
    "set_pull",
    "set_role",
    "set_series",
    "set_up",
    "show_leads",
    "speak",
    "tie",
    "turn",
    "turn_round",
    "untie",
    "withdraw",
]
