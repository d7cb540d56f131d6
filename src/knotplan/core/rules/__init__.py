"""All rules, in the order in which their findings are listed.

A rule that cannot be imported stops the program at start, and so does an id that is given twice.
"""

from knotplan.core.rules import boards, buses, contacts, currents, leds, levels, loads, power, power_on, rails, ties, timed, wants
from knotplan.core.rules.rule import Rule

RULES: tuple[Rule, ...] = (
    power.short_circuit,
    power.supplies_joined,
    power.supply_reversed,
    ties.pin_shared,
    ties.need_unmet,
    loads.driver_missing,
    loads.clamp_missing,
    loads.supplies_exchanged,
    buses.uart_crossed,
    buses.address_clash,
    ties.lead_untied,
    rails.bead_loose,
    ties.timer_shared,
    boards.pool_over,
    boards.bus_mixed,
    boards.remap_mixed,
    boards.converter_blocked,
    boards.strap_level,
    ties.no_common_ground,
    levels.input_over_voltage,
    levels.output_level,
    contacts.contact_unread,
    leds.led_reversed,
    leds.led_no_resistor,
    leds.led_current,
    currents.pin_over_absolute,
    currents.pin_over_recommended,
    currents.pins_over,
    currents.bank_over,
    currents.rail_over,
    currents.supply_over,
    power.jerky_load_on_board,
    timed.cannot_keep_time,
    wants.one_sided_sensor,
    loads.load_starved,
    power_on.wakes_load,
    contacts.floating_input,
    wants.component_missing,
    timed.pulse_unmeasured,
    ties.pin_reserved,
    boards.peripheral_off,
    boards.weak_pin,
    boards.tolerance_lost,
    power.board_unfed,
)

_ids = [r.id for r in RULES]
if len(set(_ids)) != len(_ids):
    raise RuntimeError(f"a rule id is given twice: {sorted(i for i in _ids if _ids.count(i) > 1)}")
