"""A third lot of templates with one mistake each: ends, grounds, contacts, lines that are only pulled low."""

from knotplan.core.plan.beads import Capacitor, Clamp, Diode, LevelShifter, PullDown, PullUp
from tests.planted.bench import Bench, Cannot, pull_up
from tests.planted.right import R, shifted
from tests.planted.wrong import wrong

# --- both ends on one side ----------------------------------------------------------------------------


@wrong("ends", "stop", "ends-alike")
def led_with_both_ends_on_ground(b: Bench) -> str:
    led = b.part("led")
    b.tie(f"{led}.anode", b.ground)
    b.tie(f"{led}.cathode", b.ground, R(330.0))
    return led


@wrong("ends", "stop", "ends-alike")
def valve_between_a_sink_and_ground(b: Bench) -> str:
    brick, hub, valve = b.brick("brick-12v", 3.0), b.part("coil-driver"), b.part("valve")
    b.ties(hub, gnd=b.ground, com=f"{brick}.plus", in1=b.pin(4e-3, "off when low"))
    b.ties(valve, plus=f"{hub}.out1", minus=b.ground)
    return valve


@wrong("ends", "stop", "ends-alike")
def common_of_a_geared_stepper_on_ground(b: Bench) -> str:
    brick, hub, motor = b.brick(), b.part("coil-driver"), b.part("geared-stepper")
    b.ties(hub, gnd=b.ground, com=f"{brick}.plus")
    for k, coil in enumerate(("blue", "pink", "yellow", "orange"), 1):
        b.tie(f"{hub}.in{k}", b.pin(4e-3, "off when low"))
        b.tie(f"{motor}.{coil}", f"{hub}.out{k}")
    b.tie(f"{motor}.common", b.ground)
    return motor


@wrong("ends", "stop", "ends-alike")
def pump_between_a_contact_and_its_own_supply(b: Bench) -> str:
    five, twelve = b.brick(), b.brick("brick-12v", 2.0)
    module, pump = b.part("relay-module", channels="1"), b.part("pump")
    _driven(b, module, five)
    b.tie(f"{module}.com1", f"{twelve}.plus")
    b.ties(pump, plus=f"{module}.no1", minus=f"{twelve}.plus")
    return pump


@wrong("ends", "stop", "ends-alike", "coils-crossed")
def winding_with_both_ends_on_one_output(b: Bench) -> str:
    brick, hub, motor = b.brick("brick-12v", 3.0), b.part("step-driver"), b.part("bipolar-stepper")
    b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
    b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 25.0))
    b.ties(motor, a1=f"{hub}.a1", a2=f"{hub}.a1", b1=f"{hub}.b1", b2=f"{hub}.b2")
    return motor


@wrong("ends", "stop or care", "coils-crossed")
def motor_across_two_bridges(b: Bench) -> str:
    brick, hub, motor = b.brick(), b.part("motor-bridge"), b.part("dc-motor")
    b.ties(hub, vcc=b.logic, vm=f"{brick}.plus", gnd=b.ground, standby=b.logic)
    for lead in ("ain1", "ain2", "bin1", "bin2"):
        b.tie(f"{hub}.{lead}", b.pin(safe="off when low"))
    b.ties(motor, a=f"{hub}.aout1", b=f"{hub}.bout1")
    return motor


def _driven(b: Bench, module: str, five: str) -> None:
    b.ties(module, vcc=b.holds(b.logic, 3.0), gnd=b.ground, coil=f"{five}.plus")
    b.tie(f"{module}.in1", b.pin(3e-3, "off when high"))


# --- lights ------------------------------------------------------------------------------------------


@wrong("lights", "stop", "led-reversed")
def three_colours_of_the_other_kind(b: Bench) -> str:
    led = b.part("rgb-led", common="anode")
    for lead in ("red", "green", "blue"):
        b.tie(f"{led}.{lead}", b.pin(3e-3), R(470.0))
    b.tie(f"{led}.common", b.ground)
    return led


@wrong("lights", "stop", "led-reversed")
def digit_of_the_other_kind(b: Bench) -> str:
    digit = b.part("seven-segment", common="anode")
    for lead in "abcdefg":
        b.tie(f"{digit}.{lead}", b.pin(2e-3), R(470.0))
    b.tie(f"{digit}.common", b.ground)
    return digit


@wrong("lights", "care", "led-shared-resistor")
def one_resistor_for_seven_segments(b: Bench) -> str:
    digit = b.part("seven-segment")
    for lead in "abcdefg":
        b.tie(f"{digit}.{lead}", b.pin(2e-3))
    b.tie(f"{digit}.common", b.ground, R(1000.0))
    return digit


@wrong("lights", "stop", "led-no-resistor")
def led_on_a_mosfet_without_resistor(b: Bench) -> str:
    led = b.part("led")
    _lit_by_mosfet(b, led, b.five)
    return led


@wrong("lights", "stop", "led-current")
def led_on_twelve_volts_with_a_resistor_for_five(b: Bench) -> str:
    brick, led = b.brick("brick-12v", 2.0), b.part("led")
    _lit_by_mosfet(b, led, f"{brick}.plus", R(220.0))
    return led


@wrong("lights", "stop", "led-reversed")
def led_turned_round_on_a_mosfet(b: Bench) -> str:
    fet, led = _mosfet(b), b.part("led")
    b.tie(f"{led}.cathode", b.five)
    b.tie(f"{led}.anode", f"{fet}.drain", R(330.0))
    return led


@wrong("lights", "stop", "led-current")
def diode_turned_round_before_an_led(b: Bench) -> str:
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(3e-3), R(470.0), Diode(towards="pin"))
    b.tie(f"{led}.cathode", b.ground)
    return led


def _mosfet(b: Bench) -> str:
    fet = b.part("n-mosfet")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    return fet


def _lit_by_mosfet(b: Bench, led: str, plus: str, *beads: R) -> None:
    fet = _mosfet(b)
    b.tie(f"{led}.anode", plus, *beads)
    b.tie(f"{led}.cathode", f"{fet}.drain")


# --- feeds and grounds -------------------------------------------------------------------------------


@wrong("feeds", "stop", "no-common-ground")
def ground_of_a_part_on_a_brick_that_is_apart(b: Bench) -> str:
    brick, sensor = b.brick(grounded=False), b.part("motion-sensor")
    b.ties(sensor, vcc=b.five, gnd=f"{brick}.zero", out=b.pin())
    return brick


@wrong("feeds", "stop", "no-common-ground")
def ground_of_a_part_on_a_part_without_ground(b: Bench) -> str:
    one, other = b.part("motion-sensor", "one"), b.part("motion-sensor", "other")
    b.ties(one, vcc=b.five, gnd=f"{other}.gnd", out=b.pin())
    b.ties(other, vcc=b.five, out=b.pin())
    return one


@wrong("feeds", "stop", "feed-blocked")
def diode_turned_round_in_a_return(b: Bench) -> str:
    sensor = b.part("motion-sensor")
    b.ties(sensor, vcc=b.five, out=b.pin())
    b.tie(f"{sensor}.gnd", b.ground, Diode(towards="lead"))
    return sensor


@wrong("feeds", "stop", "load-underfed")
def resistor_in_a_servos_return(b: Bench) -> str:
    part = b.part("micro-servo")
    brick = b.brick()
    b.ties(part, signal=b.with_job("pwm"), power=f"{brick}.plus")
    b.tie(f"{part}.ground", b.ground, R(22.0, 0.05, 5.0))
    return part


@wrong("feeds", "care or stop", "load-underfed")
def thin_long_cord_in_a_strips_return(b: Bench) -> str:
    brick, strip = b.brick(amps=4.0), b.part("pixel-strip", count=60.0)
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.cord(f"{strip}.gnd", 3.0, 0.05)
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    return strip


@wrong("feeds", "stop", "need-unmet", "drop-out")
def regulator_for_five_on_five(b: Bench) -> str:
    brick, regulator, sensor = b.brick(), b.part("linear-regulator", volts="5 V"), b.part("motion-sensor")
    b.tie(f"{regulator}.in", f"{brick}.plus", Capacitor(330e-9, 25.0))
    b.tie(f"{regulator}.gnd", b.ground)
    b.ties(sensor, vcc=f"{regulator}.out", gnd=b.ground, out=b.pin())
    return regulator


@wrong("feeds", "stop", "need-unmet")
def servo_on_a_converter_that_is_set_to_twelve(b: Bench) -> str:
    cell, boost, part = b.part("single-cell"), b.part("boost-converter", volts="12 V"), b.part("micro-servo")
    b.tie(f"{cell}.minus", b.ground)
    b.ties(boost, **{"in": f"{cell}.plus", "gnd": b.ground})
    b.ties(part, signal=b.with_job("pwm"), power=f"{boost}.out", ground=b.ground)
    return part


@wrong("feeds", "stop", "need-unmet")
def ranger_of_five_volts_on_three(b: Bench) -> str:
    ranger = b.part("echo-ranger")
    b.ties(ranger, vcc=b.three, gnd=b.ground, trig=b.pin(), echo=b.pin())
    return ranger


@wrong("feeds", "stop", "need-unmet")
def flash_of_three_volts_on_five(b: Bench) -> str:
    part, pins = b.part("spi-flash"), b.bus("spi", "mosi", "miso", "sclk", "select")
    b.ties(part, vcc=b.five, gnd=b.ground)
    b.ties(part, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"], do=pins["miso"])
    return part


@wrong("feeds", "stop", "supplies-joined")
def cell_straight_on_the_lower_rail(b: Bench) -> str:
    cell = b.part("single-cell")
    b.ties(cell, plus=b.three, minus=b.ground)
    return cell


@wrong("feeds", "stop", "need-unmet")
def ground_bar_on_five_volts(b: Bench) -> str:
    bar, sensor = b.part("ground-bar"), b.part("motion-sensor")
    b.tie(f"{bar}.bar", b.five)
    b.ties(sensor, vcc=b.five, gnd=f"{bar}.bar", out=b.pin())
    return bar


# --- inputs ------------------------------------------------------------------------------------------


@wrong("inputs", "stop", "leads-exchanged")
def knob_with_wiper_and_end_exchanged(b: Bench) -> str:
    knob = b.part("knob")
    b.ties(knob, wiper=b.reference, top=b.with_job("adc"), bottom=b.ground)
    return knob


@wrong("inputs", "care or stop", "track-hot")
def knob_of_far_too_little_resistance(b: Bench) -> str:
    if b.board.logic_v < 3.2:
        raise Cannot("3.3 V")
    knob = b.part("knob", ohm=100.0)
    b.ties(knob, top=b.logic, wiper=b.with_job("adc"), bottom=b.ground)
    return knob


@wrong("inputs", "stop", "contact-unread")
def button_with_the_inner_pull_to_its_own_side(b: Bench) -> str:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(pulls="up"), pull="up")
    b.tie(f"{button}.common", b.logic)
    return button


@wrong("inputs", "stop", "contact-unread")
def pull_up_of_ten_megohms(b: Bench) -> str:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), PullUp(10e6, rail=b.logic))
    b.tie(f"{button}.common", b.ground)
    return button


@wrong("inputs", "stop", "resistor-hot")
def pull_up_of_ten_ohms(b: Bench) -> str:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), PullUp(10.0, rail=b.logic))
    b.tie(f"{button}.common", b.ground)
    return button


@wrong("levels", "stop", "input-over-voltage")
def button_to_twelve_volts(b: Bench) -> str:
    brick, button = b.brick("brick-12v", 2.0), b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), PullDown(10e3))
    b.tie(f"{button}.common", f"{brick}.plus")
    return button


@wrong("levels", "stop", "input-over-voltage")
def knob_across_twelve_volts(b: Bench) -> str:
    brick, knob = b.brick("brick-12v", 2.0), b.part("knob")
    b.ties(knob, top=f"{brick}.plus", wiper=b.with_job("adc"), bottom=b.ground)
    return knob


# --- lines that are only pulled low ------------------------------------------------------------------


@wrong("buses", "stop", "line-pulled-down")
def pull_down_on_a_bus(b: Bench) -> str:
    part, pins = b.part("i2c-thermometer"), b.bus("i2c", "sda", "scl")
    b.ties(part, vcc=b.logic, gnd=b.ground, scl=pins["scl"])
    b.tie(f"{part}.sda", pins["sda"], PullDown(1.5e3))
    return part


@wrong("buses", "stop", "line-pulled-down")
def pull_down_on_a_one_wire_line(b: Bench) -> str:
    part = b.part("one-wire-thermometer")
    b.ties(part, vdd=b.holds(b.logic, 3.0), gnd=b.ground)
    b.tie(f"{part}.dq", b.pin(), pull_up(b), PullDown(4.7e3))
    return part


@wrong("buses", "stop", "line-not-low")
def large_series_resistors_in_a_bus(b: Bench) -> str:
    part, pins = b.part("i2c-thermometer"), b.bus("i2c", "sda", "scl")
    b.ties(part, vcc=b.logic, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], R(10e3))
    return part


@wrong("buses", "stop", "shifter-one-way")
def buffers_in_a_bus(b: Bench) -> str:
    if not b.is_5v:
        raise Cannot("lines of 5 V")
    part, pins, supply = b.part("inertial-sensor"), b.bus("i2c", "sda", "scl"), b.rail(3.0, 3.5)
    b.ties(part, vcc=supply, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], LevelShifter("buffer", lead_rail=supply, pin_rail=b.logic))
    return part


@wrong("buses", "stop", "address-clash")
def twins_on_one_branch(b: Bench) -> str:
    switch = b.part("bus-switch")
    b.ties(switch, vin=b.logic, gnd=b.ground)
    b.i2c(switch)
    for k in (0, 1):
        part = b.part("oled-display", f"display {k}")
        b.ties(part, vcc=b.holds(b.logic, 3.0), gnd=b.ground, sda=f"{switch}.sd0", scl=f"{switch}.sc0")
    return part


@wrong("exchanged", "stop", "leads-exchanged")
def data_in_and_data_out_exchanged(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("lines of 3.3 V")
    part, pins = b.part("spi-flash"), b.bus("spi", "mosi", "miso", "sclk", "select")
    if any(job.instance == "any" for job in b.board.pins[pins["mosi"].split(".")[1]].jobs("spi")):
        raise Cannot("pins that have one line of the bus each")
    b.ties(part, vcc=b.three, gnd=b.ground)
    b.ties(part, cs=pins["select"], clk=pins["sclk"], di=pins["miso"], do=pins["mosi"])
    return part


# --- what has to keep time ---------------------------------------------------------------------------


@wrong("timing", "stop", "pulse-unmeasured")
def infrared_behind_an_expander(b: Bench) -> str:
    hub, part = _expander(b), b.part("infrared-receiver")
    b.ties(part, vs=b.logic, gnd=b.ground, out=f"{hub}.p0")
    return part


@wrong("timing", "stop", "steps-over-bus")
def fast_steps_behind_an_expander(b: Bench) -> str:
    brick, hub, motor = b.brick("brick-12v", 3.0), b.part("step-driver"), b.part("bipolar-stepper")
    expander = _expander(b)
    b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, dir=f"{expander}.p1")
    b.tie(f"{hub}.step", f"{expander}.p0", PullDown(10e3))
    b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 25.0))
    for lead in ("a1", "a2", "b1", "b2"):
        b.tie(f"{motor}.{lead}", f"{hub}.{lead}")
    b.asks(motor, "rpm", 600.0)
    b.asks(motor, "ramp", "yes")
    return hub


def _expander(b: Bench) -> str:
    hub = b.part("port-expander")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    return hub


@wrong("edges", "care", "pin-rush")
def large_capacitor_on_an_output(b: Bench) -> str:
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(3e-3), R(470.0), Capacitor(100e-6))
    b.tie(f"{led}.cathode", b.ground)
    return led


@wrong("edges", "stop", "output-level", "edge-slow")
def ten_megohms_before_a_servo(b: Bench) -> str:
    part, brick = b.part("micro-servo"), b.brick()
    b.ties(part, power=f"{brick}.plus", ground=f"{brick}.zero")
    b.tie(f"{part}.signal", b.with_job("pwm"), R(10e6))
    return part


# --- contacts ----------------------------------------------------------------------------------------


@wrong("contacts", "stop", "contact-shorts")
def contact_between_supply_and_ground(b: Bench) -> str:
    five, twelve = b.brick(), b.brick("brick-12v", 2.0)
    module = b.part("relay-module", channels="1")
    _driven(b, module, five)
    b.ties(module, com1=f"{twelve}.plus", no1=f"{twelve}.zero")
    return module


@wrong("contacts", "to-do", "lead-untied")
def load_on_a_common_contact_that_leads_nowhere(b: Bench) -> str:
    five, twelve = b.brick(), b.brick("brick-12v", 2.0)
    module, pump = b.part("relay-module", channels="1"), b.part("pump")
    _driven(b, module, five)
    b.ties(pump, plus=f"{module}.com1", minus=f"{twelve}.zero")
    return module


@wrong("coils", "stop", "need-unmet", "load-starved")
def coil_between_an_emitter_and_ground(b: Bench) -> str:
    brick, npn, relay = b.brick("brick-12v", 2.0), b.part("npn-transistor"), b.part("relay", coil="12 V")
    b.tie(f"{npn}.base", b.pin(2e-3, "off when low"), R(1000.0))
    b.tie(f"{npn}.collector", f"{brick}.plus")
    b.ties(relay, a1=f"{npn}.emitter", a2=b.ground)
    return relay


@wrong("coils", "stop", "pin-over-absolute")
def two_valves_on_one_output(b: Bench) -> str:
    brick, hub = b.brick("brick-12v", 3.0), b.part("coil-driver")
    b.ties(hub, gnd=b.ground, com=f"{brick}.plus", in1=b.pin(4e-3, "off when low"))
    for k in (1, 2):
        valve = b.part("valve", f"valve {k}")
        b.ties(valve, plus=f"{brick}.plus", minus=f"{hub}.out1")
    return hub


@wrong("coils", "stop", "need-unmet", "switch-half-open", "pin-over-absolute")
def motor_of_five_amperes_on_a_small_transistor(b: Bench) -> str:
    brick, motor, npn = b.brick("brick-12v", 3.0), b.part("dc-motor", volts="12 V"), b.part("npn-transistor")
    b.tie(f"{npn}.base", b.pin(2e-3, "off when low"), R(1000.0))
    b.tie(f"{npn}.emitter", b.ground)
    b.tie(f"{motor}.a", f"{brick}.plus")
    b.tie(f"{motor}.b", f"{npn}.collector", Clamp(rail=f"{brick}.plus"))
    return npn


@wrong("power-on", "care", "wakes-load")
def gate_pulled_to_the_supply(b: Bench) -> str:
    brick, fet, motor = b.brick(), b.part("n-mosfet"), b.part("dc-motor")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullUp(10e3, rail=b.logic))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{motor}.a", f"{brick}.plus")
    b.tie(f"{motor}.b", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))
    return fet


@wrong("contacts", "care or stop", "contact-over")
def many_solenoids_without_clamps_on_one_contact(b: Bench) -> str:
    """Within the rating for resistors, above what is left of it for coils."""
    twelve, relay, npn = b.brick("brick-12v", 10.0), b.part("relay"), b.part("npn-transistor")
    b.tie(f"{npn}.base", b.pin(4e-3, "off when low"), R(1000.0))
    b.tie(f"{npn}.emitter", b.ground)
    b.tie(f"{relay}.a1", b.five)
    b.tie(f"{relay}.a2", f"{npn}.collector", Clamp(rail=b.five))
    b.tie(f"{relay}.com", f"{twelve}.plus")
    for k in range(6):
        solenoid = b.part("solenoid", f"solenoid {k}")
        b.ties(solenoid, plus=f"{relay}.no", minus=f"{twelve}.zero")
    return relay


@wrong("buses", "stop or care", "address-clash")
def bus_switch_at_the_address_that_calls_all_hubs(b: Bench) -> str:
    """Every PWM hub answers at 0x70 as well, where the switch is."""
    brick, hub, switch, pins = b.brick(), b.part("pwm-hub"), b.part("bus-switch"), b.bus("i2c", "sda", "scl")
    b.ties(hub, vcc=b.logic, gnd=b.ground)
    b.tie(f"{hub}.vplus", f"{brick}.plus", Capacitor(470e-6, 16.0))
    b.ties(switch, vin=b.logic, gnd=b.ground)
    b.i2c(hub, pins)
    b.i2c(switch, pins)
    return switch


@wrong("buses", "stop or care", "address-clash", "wakes-at-taken")
def two_distance_sensors_at_one_address(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    for k in (1, 2):
        sensor = b.part("distance-sensor", f"sensor {k}")
        b.ties(sensor, vin=b.logic, gnd=b.ground)
        b.i2c(sensor, pins)
    return sensor


@wrong("levels", "stop or care", "output-level")
def large_resistor_before_an_optocoupler(b: Bench) -> str:
    five, module = b.brick(), b.part("relay-module", channels="1")
    b.ties(module, vcc=b.holds(b.logic, 3.0), gnd=b.ground, coil=f"{five}.plus")
    b.tie(f"{module}.in1", b.pin(3e-3, "off when high"), R(4700.0))
    return module
