"""More templates with one mistake each: siblings of those in `wrong`."""

from knotplan.core.plan.beads import Capacitor, Clamp, LevelShifter, PullDown, PullUp
from tests.planted.bench import Bench, Cannot, pull_up
from tests.planted.right import R, servo, shifted
from tests.planted.wrong import wrong


@wrong("levels", "stop", "output-level")
def relay_module_that_never_lets_go(b: Bench) -> str:
    """Its input side hangs on 5 V, and the pin's high is 3.3 V."""
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    brick, module = b.brick(), b.part("relay-module", channels="1", input="transistor")
    pin = b.pin(3e-3, "off when high")
    if b.driver(pin).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    b.ties(module, vcc=f"{brick}.plus", gnd=b.ground, coil=f"{brick}.plus", in1=pin)
    return module


@wrong("levels", "stop", "input-over-voltage", "bus-level", "bus-pulled-apart")
def pull_ups_to_five_volts_on_a_lower_bus(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("lines of 3.3 V")
    part, pins = b.part("i2c-thermometer", pulls="taken off"), b.bus("i2c", "sda", "scl")
    if b.driver(pins["sda"]).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    five = b.five
    b.ties(part, vcc=b.logic, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], PullUp(2.2e3, rail=five))
    return part


@wrong("buses", "care or stop", "bus-pulled-hard")
def pull_ups_far_too_strong(b: Bench) -> str:
    part, pins = b.part("i2c-thermometer"), b.bus("i2c", "sda", "scl")
    b.ties(part, vcc=b.logic, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], PullUp(330.0, rail=b.logic))
    return part


@wrong("levels", "stop", "input-over-voltage")
def reed_pulled_up_to_five_volts(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    reed, pin = b.part("reed-contact"), b.pin()
    if b.driver(pin).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    b.tie(f"{reed}.contact", pin, PullUp(1e3, rail=b.five))
    b.tie(f"{reed}.common", b.ground)
    return reed


@wrong("levels", "stop or care", "bus-level", "output-level", "input-level")
def display_of_five_volts_on_a_lower_bus(b: Bench) -> str:
    """0.7 of 5 V are 3.5 V, and the bus has 3.3 V."""
    if b.is_5v:
        raise Cannot("lines of 3.3 V")
    part, pins = b.part("character-display", pulls="taken off"), b.bus("i2c", "sda", "scl")
    if not all(b.fitted(p) for p in pins.values()):
        raise Cannot("pull-ups of the board's own")
    b.ties(part, vcc=b.five, gnd=b.ground)
    b.i2c(part, pins)
    return part


@wrong("exchanged", "stop", "output-for-input")
def pixels_fed_at_their_output(b: Bench) -> str:
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.dout", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    return strip


@wrong("exchanged", "stop", "output-for-input")
def mosfet_with_drain_and_source_exchanged(b: Bench) -> str:
    """Its own diode then leads from ground to the load's way: the load is always on."""
    brick, fet, motor = b.brick(), b.part("n-mosfet"), b.part("dc-motor")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{motor}.a", f"{brick}.plus")
    b.tie(f"{motor}.b", f"{fet}.source", Clamp(rail=f"{brick}.plus"))
    b.tie(f"{fet}.drain", b.ground)
    return fet


@wrong("coils", "care or stop", "load-starved", "need-unmet")
def coil_of_twelve_volts_on_five(b: Bench) -> str:
    brick, fet, relay = b.brick(), b.part("n-mosfet"), b.part("relay", coil="12 V")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{relay}.a1", f"{brick}.plus")
    b.tie(f"{relay}.a2", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))
    return relay


@wrong("coils", "stop", "need-unmet", "supply-high")
def coil_of_five_volts_on_twelve(b: Bench) -> str:
    brick, fet, relay = b.brick("brick-12v", 2.0), b.part("n-mosfet"), b.part("relay")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{relay}.a1", f"{brick}.plus")
    b.tie(f"{relay}.a2", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))
    return relay


@wrong("coils", "stop", "need-unmet")
def step_driver_on_five_volts(b: Bench) -> str:
    brick, hub, motor = b.brick(), b.part("step-driver"), b.part("bipolar-stepper")
    b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
    b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 25.0))
    for lead in ("a1", "a2", "b1", "b2"):
        b.tie(f"{motor}.{lead}", f"{hub}.{lead}")
    return hub


@wrong("coils", "care or stop", "step-current")
def current_limit_above_the_windings(b: Bench) -> str:
    brick, hub, motor = b.brick("brick-12v", 3.0), b.part("step-driver", limit=0.7), b.part("bipolar-stepper")
    b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
    b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 25.0))
    for lead in ("a1", "a2", "b1", "b2"):
        b.tie(f"{motor}.{lead}", f"{hub}.{lead}")
    return motor


@wrong("coils", "stop", "coils-crossed")
def windings_crossed_on_the_motor_bridge(b: Bench) -> str:
    brick, hub, motor = b.brick("brick-12v", 2.0), b.part("motor-bridge"), b.part("bipolar-stepper")
    b.ties(hub, vcc=b.logic, vm=f"{brick}.plus", gnd=b.ground, standby=b.logic)
    for lead in ("ain1", "ain2", "bin1", "bin2"):
        b.tie(f"{hub}.{lead}", b.pin(safe="off when low"))
    b.ties(motor, a1=f"{hub}.aout1", b1=f"{hub}.aout2", a2=f"{hub}.bout1", b2=f"{hub}.bout2")
    return motor


@wrong("coils", "care or stop", "pin-over-recommended", "pin-over-absolute")
def buzzer_straight_on_a_weak_pin(b: Bench) -> str:
    pin = b.pin(safe="off when low")
    if b.driver(pin).recommended_a > 0.9 * b.board.logic_v / (220 + b.driver(pin).high_ohm.typ):
        raise Cannot("a pin that gives less than the buzzer takes")
    if b.driver(pin).high_ohm.typ > 500:
        raise Cannot("a pin that would give too much")
    buzzer = b.part("buzzer")
    b.ties(buzzer, plus=pin, minus=b.ground)
    return buzzer


@wrong("coils", "stop", "driver-missing", "need-unmet")
def fan_straight_on_a_pin(b: Bench) -> str:
    fan = b.part("fan")
    b.ties(fan, plus=b.five, minus=b.pin())
    return fan


@wrong("lights", "stop", "led-current")
def two_leds_in_series_on_a_low_supply(b: Bench) -> str:
    """2 · 2.9 V do not fit into 3.3 V."""
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    one, other = b.part("led", "one", colour="blue"), b.part("led", "other", colour="blue")
    b.tie(f"{one}.anode", b.pin(3e-3), R(100.0))
    b.tie(f"{one}.cathode", f"{other}.anode")
    b.tie(f"{other}.cathode", b.ground)
    return one


@wrong("inputs", "care", "floating-input")
def keypad_columns_without_pulls(b: Bench) -> str:
    pad = b.part("keypad")
    for k in range(1, 5):
        b.tie(f"{pad}.row{k}", b.pin())
        b.tie(f"{pad}.col{k}", b.pin())
    return pad


@wrong("inputs", "care", "floating-input")
def encoder_to_the_rail_without_pull_downs(b: Bench) -> str:
    encoder = b.part("encoder")
    b.ties(encoder, a=b.pin(), b=b.pin(), common=b.logic)
    return encoder


@wrong("inputs", "stop", "ends-alike")
def knob_with_both_ends_on_ground(b: Bench) -> str:
    knob = b.part("knob")
    b.ties(knob, top=b.ground, wiper=b.with_job("adc"), bottom=b.ground)
    return knob


@wrong("inputs", "stop", "nothing-reads")
def button_between_supply_and_ground(b: Bench) -> str:
    button = b.part("push-button")
    b.ties(button, contact=b.logic, common=b.ground)
    return button


@wrong("inputs", "care", "sensor-heats", "sensor-range")
def thermistor_that_warms_itself(b: Bench) -> str:
    bead = b.part("thermistor")
    b.tie(f"{bead}.one", b.with_job("adc"), PullUp(330.0, rail=b.reference))
    b.tie(f"{bead}.other", b.ground)
    if b.board.rails[b.board.pins[b.reference.removeprefix("board.")].rail].volts.typ < 3:
        raise Cannot("a reference that warms it")
    return bead


@wrong("inputs", "care", "line-starved")
def parasitic_thermometer_behind_a_weak_pull_up(b: Bench) -> str:
    part = b.part("one-wire-thermometer")
    b.tie(f"{part}.dq", b.pin(), pull_up(b, 10e3))
    b.ties(part, vdd=b.ground, gnd=b.ground)
    return part


@wrong("levels", "stop", "input-over-voltage")
def sensor_of_five_volts_on_a_lower_converter(b: Bench) -> str:
    module, pin = b.part("light-module"), b.with_job("adc")
    if b.driver(pin).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    b.ties(module, vcc=b.five, gnd=b.ground, ao=pin)
    return module


@wrong("feeds", "stop", "need-unmet", "supplies-joined")
def cell_pack_of_six_volts_on_the_logic_rail(b: Bench) -> str:
    cells = b.part("cell-pack")
    b.ties(cells, plus=b.logic, minus=b.ground)
    return cells


@wrong("feeds", "care", "need-unmet", "supply-high")
def fresh_cells_above_a_servos_range(b: Bench) -> str:
    """6.4 V when fresh, for 6.0 V at most."""
    cells = b.part("cell-pack")
    b.tie(f"{cells}.minus", b.ground)
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{cells}.plus", ground=f"{cells}.minus")
    return part


@wrong("feeds", "stop", "no-common-ground")
def strip_on_a_brick_without_common_ground(b: Bench) -> str:
    brick, strip = b.brick(grounded=False), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    return brick


@wrong("feeds", "care", "component-missing")
def strip_without_its_capacitor(b: Bench) -> str:
    brick, strip = b.brick(), b.part("pixel-strip")
    b.ties(strip, vdd=f"{brick}.plus", gnd=f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    return strip


@wrong("feeds", "stop", "short-circuit")
def brick_with_its_ends_joined(b: Bench) -> str:
    brick = b.part("brick-5v")
    b.ties(brick, zero=b.ground, plus=b.ground)
    return brick


@wrong("feeds", "care or stop", "supply-over")
def cell_that_cannot_give_so_much(b: Bench) -> str:
    """Three servos of 0.65 A at 5 V are 9.75 W: 3.6 A of a cell that gives 2 A."""
    cell, boost = b.part("single-cell"), b.part("boost-converter")
    b.tie(f"{cell}.minus", b.ground)
    b.tie(f"{boost}.gnd", b.ground)
    b.tie(f"{boost}.in", f"{cell}.plus")
    for k in range(3):
        part = b.part("micro-servo", f"servo {k}")
        b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{boost}.out", ground=b.ground)
    return cell


@wrong("timing", "stop", "need-unmet", "timer-shared")
def servo_and_speed_controller_at_two_rates(b: Bench) -> str:
    one, other = b.pwm_pair(same=True)
    brick = b.brick()
    part = servo(b, "micro-servo", brick, one)
    second = servo(b, "micro-servo", brick, other)
    b.hertz(f"{second}.signal", 200.0)
    return part


@wrong("edges", "stop", "edge-slow", "line-slow")
def capacitor_on_a_one_wire_line(b: Bench) -> str:
    part = b.part("one-wire-thermometer")
    b.ties(part, vdd=b.logic, gnd=b.ground)
    b.tie(f"{part}.dq", b.pin(), pull_up(b), Capacitor(100e-9))
    return part


@wrong("edges", "stop", "edge-slow")
def capacitor_on_a_serial_line(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("3.3 V pins")
    part, pins = b.part("positioning-receiver"), b.bus("uart", "tx", "rx")
    b.ties(part, vcc=b.three, gnd=b.ground, rx=pins["tx"])
    b.tie(f"{part}.tx", pins["rx"], Capacitor(10e-6))
    return part


@wrong("edges", "stop", "edge-slow")
def slow_shifter_before_a_fast_spi(b: Bench) -> str:
    if not b.is_5v:
        raise Cannot("5 V pins")
    part, pins, supply = b.part("spi-flash"), b.bus("spi", "mosi", "miso", "sclk", "select"), b.rail(3.0, 3.5)
    b.ties(part, vcc=supply, gnd=b.ground, do=pins["miso"])
    for lead, role in (("cs", "select"), ("clk", "sclk"), ("di", "mosi")):
        b.tie(f"{part}.{lead}", pins[role], LevelShifter("mosfet", lead_rail=supply, pin_rail=b.logic))
    return part


@wrong("exchanged", "stop", "shifter-turned")
def shifters_turned_round_on_a_bus(b: Bench) -> str:
    if not b.is_5v:
        raise Cannot("5 V lines")
    part, pins, supply = b.part("inertial-sensor"), b.bus("i2c", "sda", "scl"), b.rail(3.0, 3.5)
    b.ties(part, vcc=supply, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], LevelShifter("mosfet", lead_rail=b.logic, pin_rail=supply))
    return part


@wrong("power-on", "care", "wakes-load")
def relay_active_high_on_a_pin_that_starts_high(b: Bench) -> str:
    brick, module = b.brick(), b.part("relay-module", channels="1", active="high")
    pin = b.take(lambda n, p: p.drives and p.power_on == "high", "a pin that drives high at power-on")
    b.ties(module, vcc=b.holds(b.logic, 3.0), gnd=b.ground, coil=f"{brick}.plus", in1=pin)
    return module
