"""A fifth lot of templates with one mistake each: what a board's own units, rails and pins are taken for."""

from knotplan.core.plan import edits
from knotplan.core.plan.beads import Clamp, Diode, Fuse, PullDown, PullUp
from tests.planted.bench import Bench, Cannot, pull_up
from tests.planted.right import R
from tests.planted.wrong import wrong
from tests.planted.wrong_parts import _five_volt_board, _on_i2c, _three_volt_board

# --- buses ---------------------------------------------------------------------------------------------


def _fixed(b: Bench, kind: str) -> None:
    if any(p.jobs(kind) and p.jobs(kind)[0].instance == "any" for p in b.board.pins.values()):
        raise Cannot("units that are led to fixed pins")


@wrong("buses", "stop", "bus-mixed", "need-unmet", "leads-exchanged")
def data_on_one_bus_and_clock_on_another(b: Bench) -> str:
    _fixed(b, "i2c")
    one, other = b.bus("i2c", "sda", "scl"), b.bus("i2c", "sda", "scl")
    part = b.part("i2c-thermometer")
    b.ties(part, vcc=b.logic, gnd=b.ground, sda=one["sda"], scl=other["scl"])
    return part


@wrong("buses", "stop", "bus-mixed", "need-unmet", "remap-mixed")
def receiver_on_one_port_and_transmitter_on_another(b: Bench) -> str:
    _three_volt_board(b)
    _fixed(b, "uart")
    one, other = b.bus("uart", "tx", "rx"), b.bus("uart", "tx", "rx")
    part = b.part("positioning-receiver")
    b.ties(part, vcc=b.three, gnd=b.ground, tx=one["rx"], rx=other["tx"])
    return part


@wrong("buses", "stop", "address-clash")
def twin_on_the_trunk_of_a_switched_bus(b: Bench) -> str:
    switch, pins = b.part("bus-switch"), b.bus("i2c", "sda", "scl")
    b.ties(switch, vin=b.logic, gnd=b.ground)
    b.i2c(switch, pins)
    near, far = b.part("i2c-thermometer", "near"), b.part("i2c-thermometer", "far")
    b.ties(near, vcc=b.logic, gnd=b.ground)
    b.i2c(near, pins)
    b.ties(far, vcc=b.logic, gnd=b.ground, sda=f"{switch}.sd0", scl=f"{switch}.sc0")
    return near


@wrong("buses", "stop or care", "bus-unpulled")
def branch_of_a_switch_without_pull_ups(b: Bench) -> str:
    switch = b.part("bus-switch")
    b.ties(switch, vin=b.logic, gnd=b.ground)
    b.i2c(switch)
    part = b.part("i2c-thermometer", pulls="taken off")
    b.ties(part, vcc=b.logic, gnd=b.ground, sda=f"{switch}.sd3", scl=f"{switch}.sc3")
    return part


@wrong("buses", "stop", "need-unmet", "leads-exchanged")
def i2c_device_on_pins_of_a_serial_port(b: Bench) -> str:
    _fixed(b, "i2c")
    pins = b.bus("uart", "tx", "rx")
    if any(b.board.pins[p.removeprefix("board.")].jobs("i2c") for p in pins.values()):
        raise Cannot("a port whose pins have no I2C")
    part = b.part("clock")
    b.ties(part, vcc=b.holds(b.logic, 3.0), gnd=b.ground, sda=pins["rx"], scl=pins["tx"])
    return part


@wrong("buses", "care", "bus-pulled-hard")
def four_modules_with_pull_ups_and_more_of_them(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    for kind in ("clock", "eeprom", "adc-4", "i2c-thermometer"):
        part = b.part(kind, **({"addr": "VCC"} if kind == "adc-4" else {}))
        b.ties(part, vcc=b.holds(b.logic, 3.0), gnd=b.ground)
        b.i2c(part, pins)
        b.plan = edits.add_bead(b.plan, b.plan.tie_of(f"{part}.sda").id, pull_up(b, 1800.0))
        b.plan = edits.add_bead(b.plan, b.plan.tie_of(f"{part}.scl").id, pull_up(b, 1800.0))
    return ""


# --- inputs -------------------------------------------------------------------------------------------


@wrong("inputs", "stop", "input-over-voltage")
def button_pulled_up_to_five_volts_at_a_pin_of_three(b: Bench) -> str:
    _three_volt_board(b)
    pin, button = b.pin(), b.part("push-button")
    if b.driver(pin).max_v > 5.1:
        raise Cannot("a pin that bears no 5 V")
    b.tie(f"{button}.contact", pin, PullUp(1000.0, rail=b.five))
    b.tie(f"{button}.common", b.ground)
    return button


@wrong("inputs", "stop", "contact-unread")
def button_with_resistors_both_ways(b: Bench) -> str:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), pull_up(b, 10e3), PullDown(10e3))
    b.tie(f"{button}.common", b.ground)
    return button


@wrong("inputs", "stop", "contact-unread")
def button_to_the_rail_with_a_pull_up(b: Bench) -> str:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), pull_up(b, 10e3))
    b.tie(f"{button}.common", b.logic)
    return button


@wrong("inputs", "stop", "contact-unread")
def reed_to_ground_with_a_pull_down(b: Bench) -> str:
    reed = b.part("reed-contact")
    b.tie(f"{reed}.contact", b.pin(), PullDown(10e3))
    b.tie(f"{reed}.common", b.ground)
    return reed


@wrong("inputs", "stop", "contact-unread")
def button_behind_a_resistor_far_too_large(b: Bench) -> str:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), R(100e3), pull_up(b, 1e3))
    b.tie(f"{button}.common", b.ground)
    return button


@wrong("inputs", "stop", "need-unmet")
def thermistor_on_a_pin_without_a_converter(b: Bench) -> str:
    part = b.part("thermistor")
    plain = b.take(lambda _, p: p.reads and not p.jobs("adc"), "a pin without a converter")
    b.tie(f"{part}.one", plain, PullDown(10e3))
    b.tie(f"{part}.other", b.logic)
    return part


@wrong("inputs", "stop or care", "scale-missing", "input-over-voltage")
def knob_above_the_reference_of_the_converter(b: Bench) -> str:
    pin, knob = b.with_job("adc"), b.part("knob")
    volts = b.board.rails[b.board.pins[b.reference.removeprefix("board.")].rail].volts.typ
    if volts > 4:
        raise Cannot("a converter below 4 V")
    b.ties(knob, top=b.five, wiper=pin, bottom=b.ground)
    return knob


# --- supplies and grounds ----------------------------------------------------------------------------


@wrong("feeds", "stop", "no-common-ground")
def servo_that_comes_back_to_another_brick(b: Bench) -> str:
    """Its plus is from one brick, its ground on the second, and neither brick's 0 V is on the board's."""
    one, other, servo = b.brick(grounded=False), b.brick("brick-12v", grounded=False), b.part("micro-servo")
    b.ties(servo, signal=b.with_job("pwm"), power=f"{one}.plus", ground=f"{other}.zero")
    return one


@wrong("feeds", "stop or care", "load-underfed")
def servo_behind_two_diodes(b: Bench) -> str:
    brick, servo = b.brick(), b.part("micro-servo")
    b.ties(servo, signal=b.with_job("pwm"), ground=f"{brick}.zero")
    b.tie(f"{servo}.power", f"{brick}.plus", *[Diode("lead", "silicon")] * 2)
    return servo


@wrong("feeds", "care", "fuse-wrong")
def fuse_that_a_servo_opens(b: Bench) -> str:
    brick, servo = b.brick(), b.part("standard-servo")
    b.ties(servo, signal=b.with_job("pwm"), ground=f"{brick}.zero")
    b.tie(f"{servo}.power", f"{brick}.plus", Fuse(0.1))
    return servo


@wrong("feeds", "stop or care", "cord-hot")
def thin_cord_for_a_speed_controller(b: Bench) -> str:
    brick, part = b.brick("brick-12v", 20.0), b.part("motor-speed-controller")
    b.ties(part, signal=b.with_job("pwm"), ground=f"{brick}.zero", battery=f"{brick}.plus")
    b.cord(f"{part}.battery", 0.3, 0.5)
    return part


@wrong("feeds", "stop", "short-circuit")
def rail_tied_to_ground(b: Bench) -> str:
    bar = b.part("power-bar")
    b.ties(bar, plus=b.five, minus=b.ground)
    strip = b.part("pixel-strip", count=4)
    b.ties(strip, vdd=f"{bar}.plus", gnd=f"{bar}.minus")
    b.plan = edits.tie(b.plan, f"{bar}.plus", f"{bar}.minus", extra=True)
    return ""


@wrong("feeds", "stop", "supplies-joined")
def brick_of_twelve_volts_on_a_rail_of_the_board(b: Bench) -> str:
    brick = b.brick("brick-12v", 2.0)
    b.tie(f"{brick}.plus", b.five)
    return brick


@wrong("feeds", "stop", "need-unmet")
def light_sensor_on_cells_of_six_volts(b: Bench) -> str:
    cells = b.part("cell-pack")
    b.tie(f"{cells}.minus", b.ground)
    part, pins = b.part("light-sensor"), b.bus("i2c", "sda", "scl")
    b.ties(part, vcc=f"{cells}.plus", gnd=b.ground)
    b.i2c(part, pins)
    return part


# --- coils --------------------------------------------------------------------------------------------


@wrong("coils", "stop", "driver-missing")
def relay_between_a_pin_and_ground(b: Bench) -> str:
    relay = b.part("relay")
    b.ties(relay, a1=b.pin(), a2=b.ground)
    return relay


@wrong("coils", "stop", "clamp-missing")
def two_relays_on_transistors_one_without_a_clamp(b: Bench) -> str:
    for k in (1, 2):
        relay, npn = b.part("relay", f"relay {k}"), b.part("npn-transistor", f"npn {k}")
        b.tie(f"{npn}.base", b.pin(4e-3, "off when low"), R(680.0))
        b.tie(f"{npn}.emitter", b.ground)
        b.tie(f"{relay}.a1", b.five)
        b.tie(f"{relay}.a2", f"{npn}.collector", *([Clamp(rail=b.five)] if k == 1 else []))
    return relay


@wrong("coils", "stop", "need-unmet", "switch-half-open", "pin-over-absolute")
def pump_on_a_channel_of_a_sink_driver(b: Bench) -> str:
    brick, hub, motor = b.brick(), b.part("coil-driver"), b.part("dc-motor")
    b.ties(hub, gnd=b.ground, com=f"{brick}.plus", in1=b.pin(4e-3, "off when low"))
    b.ties(motor, a=f"{brick}.plus", b=f"{hub}.out1")
    return motor


@wrong("coils", "stop", "ends-alike", "driver-missing", "need-unmet")
def motor_between_a_switch_and_ground(b: Bench) -> str:
    motor, fet = b.part("dc-motor"), b.part("n-mosfet")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.ties(motor, a=f"{fet}.drain", b=b.ground)
    return motor


# --- timing -------------------------------------------------------------------------------------------


@wrong("timing", "care", "pixels-slow")
def chain_that_is_too_long_for_its_frames(b: Bench) -> str:
    if b.board.memory_bytes and b.board.memory_bytes < 40000:
        raise Cannot("memory for 2000 pixels")
    brick, strip = b.brick(amps=10.0), b.part("pixel-strip", count=2000)
    b.ties(strip, vdd=f"{brick}.plus", gnd=b.ground)
    b.tie(f"{strip}.din", b.stream(), R(330.0))
    b.asks(strip, "frames", 50.0)
    return strip


@wrong("timing", "stop", "need-unmet")
def servo_on_a_plain_pin(b: Bench) -> str:
    brick, servo = b.brick(), b.part("standard-servo")
    plain = b.take(lambda _, p: p.drives and not p.jobs("pwm"), "a pin without pulses")
    b.ties(servo, signal=plain, power=f"{brick}.plus", ground=f"{brick}.zero")
    return servo


@wrong("pins", "stop", "pin-shared")
def servo_on_the_plain_pin_of_a_button(b: Bench) -> str:
    """Two mistakes with one tie: the pin is taken, and makes no pulses."""
    button, brick, servo = b.part("push-button"), b.brick(), b.part("standard-servo")
    plain = b.take(lambda _, p: p.drives and p.reads and not p.jobs("pwm"), "a pin without pulses")
    b.tie(f"{button}.contact", plain, pull_up(b, 10e3))
    b.tie(f"{button}.common", b.ground)
    b.ties(servo, signal=plain, power=f"{brick}.plus", ground=f"{brick}.zero")
    return servo


@wrong("timing", "stop", "need-unmet")
def servo_pulses_from_a_pin_that_only_reads(b: Bench) -> str:
    brick, servo = b.brick(), b.part("standard-servo")
    pin = next(
        (f"board.{n}" for n, p in b.board.pins.items() if p.kind == "io" and p.reads and not p.drives), None
    )
    if pin is None:
        raise Cannot("a pin that only reads")
    b.ties(servo, signal=pin, power=f"{brick}.plus", ground=f"{brick}.zero")
    return servo


@wrong("timing", "stop", "timer-shared")
def gate_and_servo_on_one_timer_of_a_hub(b: Bench) -> str:
    brick, hub = b.brick(amps=6.0), b.part("pwm-hub")
    b.ties(hub, vcc=b.logic, gnd=b.ground, vplus=f"{brick}.plus")
    b.i2c(hub)
    servo, fet = b.part("micro-servo"), b.part("n-mosfet")
    b.ties(servo, signal=f"{hub}.ch0", power=f"{hub}.vplus", ground=f"{hub}.gnd")
    b.tie(f"{fet}.gate", f"{hub}.ch1", PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.hertz(f"{fet}.gate", 1000.0)
    return servo


# --- part to part -------------------------------------------------------------------------------------


def _watched(b: Bench, gate: str) -> tuple[str, str]:
    """(output of a motion sensor, MOSFET that switches a motor)."""
    sensor, fet, brick, motor = b.part("motion-sensor"), b.part("n-mosfet"), b.brick(), b.part("dc-motor")
    b.plan = edits.set_param(b.plan, fet, "kind", gate)
    b.ties(sensor, vcc=b.five, gnd=b.ground)
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{motor}.a", f"{brick}.plus")
    b.tie(f"{motor}.b", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))
    return f"{sensor}.out", fet


@wrong("levels", "stop", "part-level")
def sensor_on_a_gate_that_opens_at_ten_volts(b: Bench) -> str:
    output, fet = _watched(b, "for 10 V")
    b.tie(f"{fet}.gate", output, R(220.0))
    return fet


@wrong("levels", "stop", "part-level")
def gate_for_ten_volts_at_the_end_of_a_sensor_s_cord(b: Bench) -> str:
    """The same tie, from the other end."""
    output, fet = _watched(b, "for 10 V")
    b.tie(output, f"{fet}.gate", R(220.0))
    return fet


# --- five volts on three ------------------------------------------------------------------------------


@wrong("levels", "stop", "lead-over-voltage", "need-unmet")
def display_of_three_volts_fed_and_spoken_to_with_five(b: Bench) -> str:
    _five_volt_board(b)
    part, pins = b.part("spi-display"), b.bus("spi", "mosi", "sclk", "select")
    b.ties(part, vcc=b.five, gnd=b.ground, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"], dc=b.pin())
    return part


@wrong("levels", "stop", "input-over-voltage")
def memory_on_five_volts_pulls_pins_of_three(b: Bench) -> str:
    _three_volt_board(b)
    pins = b.bus("i2c", "sda", "scl")
    if min(b.driver(p).max_v for p in pins.values()) > 5.1 or any(b.fitted(p) for p in pins.values()):
        raise Cannot("bare pins that bear no 5 V")
    return _on_i2c(b, "eeprom", pins, b.five)
