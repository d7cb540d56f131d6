"""A fourth lot of templates with one mistake each: on parts that the other lots leave out."""

from knotplan.core.plan import edits
from knotplan.core.plan.beads import Capacitor, Clamp, PullDown
from tests.planted.bench import Bench, Cannot, pull_up
from tests.planted.right import R
from tests.planted.wrong import wrong


def _five_volt_board(b: Bench) -> None:
    if not b.is_5v:
        raise Cannot("pins of 5 V")


def _three_volt_board(b: Bench) -> None:
    if b.is_5v:
        raise Cannot("pins of 3.3 V")


def _on_i2c(b: Bench, kind: str, pins: dict[str, str], supply: str, name: str = "", **params: str) -> str:
    part = b.part(kind, name, **params)
    lead = "vin" if kind == "distance-sensor" else "vcc"
    b.ties(part, gnd=b.ground, **{lead: supply})
    b.i2c(part, pins)
    return part


# --- I2C devices -------------------------------------------------------------------------------------


@wrong("levels", "stop", "input-over-voltage")
def character_display_pulls_three_volt_pins_to_five(b: Bench) -> str:
    _three_volt_board(b)
    pins = b.bus("i2c", "sda", "scl")
    if min(b.driver(p).max_v for p in pins.values()) > 5.1:
        raise Cannot("pins that bear no 5 V")
    return _on_i2c(b, "character-display", pins, b.five)


@wrong("feeds", "stop", "need-unmet")
def character_display_on_three_volts(b: Bench) -> str:
    return _on_i2c(b, "character-display", b.bus("i2c", "sda", "scl"), b.three)


@wrong("feeds", "stop", "need-unmet")
def light_sensor_on_five_volts(b: Bench) -> str:
    return _on_i2c(b, "light-sensor", b.bus("i2c", "sda", "scl"), b.five)


@wrong("buses", "stop", "address-clash")
def two_pressure_sensors_with_their_pads_open(b: Bench) -> str:
    _three_volt_board(b)
    pins = b.bus("i2c", "sda", "scl")
    _on_i2c(b, "pressure-sensor", pins, b.three, "indoors")
    return _on_i2c(b, "pressure-sensor", pins, b.three, "outdoors")


@wrong("buses", "stop", "address-clash")
def two_memories_with_the_same_pads_bridged(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    _on_i2c(b, "eeprom", pins, b.logic, "log", a1="bridged")
    return _on_i2c(b, "eeprom", pins, b.logic, "settings", a1="bridged")


@wrong("buses", "stop", "address-clash", "wakes-at-taken")
def two_distance_sensors_that_nobody_keeps_off(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    _on_i2c(b, "distance-sensor", pins, b.holds(b.logic, 3.0), "left")
    return _on_i2c(b, "distance-sensor", pins, b.holds(b.logic, 3.0), "right")


@wrong("buses", "stop", "wakes-at-taken", "address-clash")
def two_distance_sensors_of_two_addresses_that_nobody_keeps_off(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    _on_i2c(b, "distance-sensor", pins, b.holds(b.logic, 3.0), "left")
    right = b.part("distance-sensor", "right", address=50)
    b.ties(right, vin=b.holds(b.logic, 3.0), gnd=b.ground)
    b.i2c(right, pins)
    return right


@wrong("buses", "stop", "address-clash")
def adc_and_another_adc_with_the_same_pad(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    _on_i2c(b, "adc-4", pins, b.logic, "one")
    return _on_i2c(b, "adc-4", pins, b.logic, "other")


@wrong("buses", "stop", "bus-unpulled")
def clock_without_its_pull_ups(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    if any(b.fitted(p) for p in pins.values()):
        raise Cannot("lines without pull-ups of the board")
    return _on_i2c(b, "clock", pins, b.holds(b.logic, 3.0), pulls="taken off")


@wrong("buses", "care", "bus-clock")
def slow_display_on_a_fast_bus(b: Bench) -> str:
    _five_volt_board(b)
    pins = b.bus("i2c", "sda", "scl")
    part = _on_i2c(b, "character-display", pins, b.five)
    _clocked(b, 400e3)
    return part


def _clocked(b: Bench, hz: float) -> None:
    """Another clock for the only I2C bus."""
    from knotplan.core.buses.i2c import i2c_buses
    from knotplan.core.circuit.circuit import Circuit
    from tests.planted.bench import CATALOG

    b.plan = edits.set_clock(b.plan, i2c_buses(Circuit(b.plan, CATALOG))[0].id, hz)


@wrong("inputs", "stop or care", "component-missing", "floating-input")
def alarm_of_a_clock_without_a_pull_up(b: Bench) -> str:
    part = _on_i2c(b, "clock", b.bus("i2c", "sda", "scl"), b.holds(b.logic, 3.0))
    b.tie(f"{part}.sqw", b.pin())
    return part


@wrong("inputs", "stop", "contact-unread")
def alarm_of_a_clock_with_a_pull_down(b: Bench) -> str:
    part = _on_i2c(b, "clock", b.bus("i2c", "sda", "scl"), b.holds(b.logic, 3.0))
    b.tie(f"{part}.sqw", b.pin(), PullDown(10e3))
    return part


@wrong("inputs", "stop", "contact-unread")
def interrupt_of_an_expander_pulled_down_by_the_program(b: Bench) -> str:
    hub, pin = b.part("port-expander"), b.pin(pulls="down")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    b.tie(f"{hub}.int", pin, pull="down")
    return hub


@wrong("inputs", "care", "floating-input")
def button_of_a_stick_without_a_pull_up(b: Bench) -> str:
    stick = b.part("joystick")
    b.ties(stick, vcc=b.reference, gnd=b.ground, x=b.with_job("adc"), y=b.with_job("adc"), sw=b.pin())
    return stick


@wrong("inputs", "stop", "input-over-voltage")
def knob_on_five_volts_at_a_converter_on_three(b: Bench) -> str:
    hub = _on_i2c(b, "adc-4", b.bus("i2c", "sda", "scl"), b.three)
    knob = b.part("knob")
    b.ties(knob, top=b.five, wiper=f"{hub}.a0", bottom=b.ground)
    return knob


@wrong("inputs", "care", "scale-missing")
def knob_on_three_volts_at_a_converter_on_five(b: Bench) -> str:
    hub = _on_i2c(b, "adc-4", b.bus("i2c", "sda", "scl"), b.five)
    knob = b.part("knob")
    b.ties(knob, top=b.three, wiper=f"{hub}.a0", bottom=b.ground)
    return knob


@wrong("inputs", "stop", "need-unmet")
def button_on_an_input_of_a_converter(b: Bench) -> str:
    hub, button = _on_i2c(b, "adc-4", b.bus("i2c", "sda", "scl"), b.logic), b.part("push-button")
    b.ties(button, contact=f"{hub}.a0", common=b.ground)
    return button


# --- SPI devices -------------------------------------------------------------------------------------


def _spi_display(b: Bench, pins: dict[str, str]) -> str:
    part = b.part("spi-display")
    b.ties(part, vcc=b.three, gnd=b.ground, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"])
    return part


@wrong("levels", "stop", "lead-over-voltage")
def colour_display_on_pins_of_five_volts(b: Bench) -> str:
    _five_volt_board(b)
    part = _spi_display(b, b.bus("spi", "mosi", "sclk", "select"))
    b.tie(f"{part}.dc", b.pin())
    return part


@wrong("exchanged", "stop", "leads-exchanged", "need-unmet", "remap-mixed")
def colour_display_with_clock_and_data_exchanged(b: Bench) -> str:
    _three_volt_board(b)
    pins = b.bus("spi", "mosi", "sclk", "select")
    if any(p.jobs("spi") and p.jobs("spi")[0].instance == "any" for p in b.board.pins.values()):
        raise Cannot("units that are led to fixed pins")
    part = _spi_display(b, pins | {"mosi": pins["sclk"], "sclk": pins["mosi"]})
    b.tie(f"{part}.dc", b.pin())
    return part


@wrong("buses", "stop", "pin-shared")
def two_displays_on_one_select(b: Bench) -> str:
    _three_volt_board(b)
    pins = b.bus("spi", "mosi", "sclk", "select")
    for k in (1, 2):
        part = b.part("spi-display", f"display {k}")
        b.ties(part, vcc=b.three, gnd=b.ground, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"])
        b.tie(f"{part}.dc", b.pin())
    return part


def _probe(b: Bench, pins: dict[str, str], both: bool = True, resistor: bool = True) -> str:
    part = b.part("probe-thermometer")
    b.ties(part, vcc=b.logic, gnd=b.ground, sclk=pins["sclk"], ce=pins["select"])
    b.tie(f"{part}.sdio", pins["mosi"], *([R(1000.0)] if resistor else []))
    if both:
        b.plan = edits.tie(b.plan, f"{part}.sdio", pins["miso"], extra=True)
    return part


@wrong("buses", "stop", "three-wire-deaf")
def probe_that_nobody_listens_to(b: Bench) -> str:
    return _probe(b, b.bus("spi", "mosi", "miso", "sclk", "select"), both=False)


@wrong("buses", "stop or care", "three-wire-deaf", "component-missing")
def probe_whose_two_ends_speak_at_once(b: Bench) -> str:
    return _probe(b, b.bus("spi", "mosi", "miso", "sclk", "select"), resistor=False)


def _registered(b: Bench, pins: dict[str, str], supply: str) -> str:
    """An input register, with a button at its first input."""
    hub, button = b.part("input-register"), b.part("push-button")
    b.ties(hub, vcc=supply, gnd=b.ground, clk=pins["sclk"], load=pins["select"], qh=pins["miso"])
    b.tie(f"{button}.contact", f"{hub}.d0", pull_up(b, 10e3))
    b.tie(f"{button}.common", b.ground)
    return hub


@wrong("levels", "stop", "input-over-voltage")
def input_register_on_five_volts_talks_to_three(b: Bench) -> str:
    _three_volt_board(b)
    pins = b.bus("spi", "miso", "sclk", "select")
    if b.driver(pins["miso"]).max_v > 5.1:
        raise Cannot("a pin that bears no 5 V")
    return _registered(b, pins, b.five)


@wrong("buses", "stop", "data-held")
def input_register_holds_the_data_line_of_a_memory(b: Bench) -> str:
    _three_volt_board(b)
    pins = b.bus("spi", "mosi", "miso", "sclk", "select")
    hub, flash = _registered(b, pins, b.three), b.part("spi-flash")
    b.ties(flash, vcc=b.three, gnd=b.ground, clk=pins["sclk"], di=pins["mosi"], do=pins["miso"], cs=b.pin())
    return hub


@wrong("inputs", "stop or care", "floating-input", "component-missing")
def button_without_a_resistor_at_an_input_register(b: Bench) -> str:
    pins, hub = b.bus("spi", "miso", "sclk", "select"), b.part("input-register")
    b.ties(hub, vcc=b.logic, gnd=b.ground, clk=pins["sclk"], load=pins["select"], qh=pins["miso"])
    button = b.part("push-button")
    b.ties(button, contact=f"{hub}.d3", common=b.ground)
    return button


def _chained(b: Bench, supply: str) -> str:
    pins, hub = b.bus("spi", "mosi", "sclk", "select"), b.part("shift-register")
    b.ties(hub, vcc=supply, gnd=b.ground, ser=pins["mosi"], srclk=pins["sclk"], rclk=pins["select"])
    b.tie(f"{hub}.oe", b.ground)
    return hub


@wrong("levels", "stop or care", "output-level")
def shift_register_on_five_volts_behind_pins_of_three(b: Bench) -> str:
    _three_volt_board(b)
    return _chained(b, b.five)


@wrong("lights", "stop", "led-no-resistor")
def led_straight_on_a_shift_register(b: Bench) -> str:
    hub, led = _chained(b, b.logic), b.part("led")
    b.ties(led, anode=f"{hub}.q0", cathode=b.ground)
    return led


@wrong("lights", "stop or care", "bank-over", "pin-over-absolute", "pin-over-recommended")
def eight_bright_leds_on_one_shift_register(b: Bench) -> str:
    hub = _chained(b, b.logic)
    for k in range(8):
        led = b.part("led", f"lamp {k}")
        b.tie(f"{led}.anode", f"{hub}.q{k}", R(120.0 if b.is_5v else 47.0))
        b.tie(f"{led}.cathode", b.ground)
    return hub


@wrong("coils", "stop", "driver-missing", "need-unmet")
def relay_straight_on_a_shift_register(b: Bench) -> str:
    hub, relay = _chained(b, b.logic), b.part("relay")
    b.ties(relay, a1=f"{hub}.q0", a2=b.ground)
    return relay


@wrong("timing", "stop", "need-unmet", "cannot-keep-time")
def servo_behind_a_shift_register(b: Bench) -> str:
    hub, brick, servo = _chained(b, b.logic), b.brick(), b.part("standard-servo")
    b.ties(servo, signal=f"{hub}.q2", power=f"{brick}.plus", ground=f"{brick}.zero")
    return servo


@wrong("timing", "stop", "need-unmet", "cannot-keep-time")
def pixels_behind_a_shift_register(b: Bench) -> str:
    hub, brick, ring = _chained(b, b.logic), b.brick(), b.part("pixel-ring")
    b.ties(ring, vdd=f"{brick}.plus", gnd=b.ground)
    b.tie(f"{ring}.din", f"{hub}.q2", R(330.0))
    return ring


# --- servos, motors, switches ------------------------------------------------------------------------


def _servo(b: Bench, kind: str, plus: str, ground: str) -> str:
    part = b.part(kind)
    b.ties(part, signal=b.with_job("pwm"), power=plus, ground=ground)
    return part


@wrong("feeds", "stop", "need-unmet")
def wheel_on_three_volts(b: Bench) -> str:
    return _servo(b, "continuous-servo", b.three, b.ground)


@wrong("feeds", "stop", "need-unmet")
def strong_servo_on_twelve_volts(b: Bench) -> str:
    brick = b.brick("brick-12v", 3.0)
    return _servo(b, "standard-servo", f"{brick}.plus", b.ground)


@wrong("feeds", "stop or care", "rail-over", "supply-over", "jerky-load-on-board")
def three_strong_servos_on_the_board(b: Bench) -> str:
    b.feed()
    for k in range(3):
        part = b.part("standard-servo", f"leg {k}")
        b.ties(part, signal=b.with_job("pwm"), power=b.five, ground=b.ground)
    return part


@wrong("feeds", "stop", "no-common-ground")
def strong_servo_on_a_brick_that_is_not_grounded(b: Bench) -> str:
    brick = b.brick(grounded=False)
    _servo(b, "standard-servo", f"{brick}.plus", f"{brick}.zero")
    return brick


@wrong("exchanged", "stop", "leads-exchanged")
def wheel_with_signal_and_power_exchanged(b: Bench) -> str:
    brick, part = b.brick(), b.part("continuous-servo")
    b.ties(part, power=b.with_job("pwm"), signal=f"{brick}.plus", ground=b.ground)
    return part


@wrong("feeds", "stop", "need-unmet")
def speed_controller_on_five_volts(b: Bench) -> str:
    brick, part = b.brick(amps=10.0), b.part("motor-speed-controller")
    b.ties(part, signal=b.with_job("pwm"), ground=b.ground, battery=f"{brick}.plus")
    return part


@wrong("timing", "stop", "need-unmet", "cannot-keep-time")
def speed_controller_behind_an_expander(b: Bench) -> str:
    hub = b.part("port-expander")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    brick, part = b.brick("brick-12v", 3.0), b.part("motor-speed-controller")
    b.ties(part, signal=f"{hub}.p0", ground=b.ground, battery=f"{brick}.plus")
    return part


@wrong("coils", "stop", "clamp-low")
def valve_of_twelve_volts_on_a_switch_fed_with_five(b: Bench) -> str:
    five, twelve = b.brick(), b.brick("brick-12v", 2.0)
    switch, valve = b.part("mosfet-switch"), b.part("valve")
    b.ties(switch, trig=b.pin(2e-3, "off when low"), gnd=b.ground, vin=f"{five}.plus")
    b.ties(valve, plus=f"{twelve}.plus", minus=f"{switch}.out")
    return valve


@wrong("feeds", "stop", "need-unmet")
def pump_of_twelve_volts_on_a_switch_fed_with_five(b: Bench) -> str:
    five, switch, pump = b.brick(), b.part("mosfet-switch"), b.part("valve")
    b.ties(switch, trig=b.pin(2e-3, "off when low"), gnd=b.ground, vin=f"{five}.plus")
    b.ties(pump, plus=f"{switch}.vin", minus=f"{switch}.out")
    return pump


# --- pixels, radio, sticks, switches -----------------------------------------------------------------


@wrong("levels", "stop or care", "output-level")
def ring_on_five_volts_behind_pins_of_three(b: Bench) -> str:
    _three_volt_board(b)
    brick, ring = b.brick(), b.part("pixel-ring")
    b.ties(ring, vdd=f"{brick}.plus", gnd=b.ground)
    b.tie(f"{ring}.din", b.stream(), R(330.0))
    return ring


@wrong("exchanged", "stop", "output-for-input", "leads-exchanged")
def ring_fed_at_its_far_end(b: Bench) -> str:
    brick, ring = b.brick(), b.part("pixel-ring")
    b.ties(ring, vdd=f"{brick}.plus", gnd=b.ground)
    b.tie(f"{ring}.dout", b.stream(), R(330.0))
    return ring


@wrong("feeds", "stop or care", "supply-over", "cord-hot")
def hundreds_of_clip_pixels_on_a_small_brick(b: Bench) -> str:
    brick, pixels = b.brick(amps=1.0), b.part("clip-pixel", count=200)
    b.ties(pixels, vdd=f"{brick}.plus", gnd=f"{brick}.zero")
    b.tie(f"{pixels}.din", b.stream(), R(330.0))
    return brick


@wrong("feeds", "stop", "no-common-ground")
def clip_pixels_without_a_common_ground(b: Bench) -> str:
    brick, pixels = b.brick(grounded=False), b.part("clip-pixel", count=5)
    b.ties(pixels, vdd=f"{brick}.plus", gnd=f"{brick}.zero")
    b.tie(f"{pixels}.din", b.stream(), R(330.0))
    return brick


@wrong("feeds", "stop", "need-unmet")
def radio_on_three_volts(b: Bench) -> str:
    radio = b.part("rc-receiver")
    b.ties(radio, plus=b.three, minus=b.ground, ch1=b.pin())
    return radio


@wrong("timing", "stop", "cannot-keep-time", "pulse-unmeasured", "need-unmet")
def radio_channel_behind_an_expander(b: Bench) -> str:
    hub, radio = b.part("port-expander"), b.part("rc-receiver")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    b.ties(radio, plus=b.five, minus=b.ground, ch1=f"{hub}.p0")
    return radio


@wrong("inputs", "stop", "need-unmet")
def stick_on_pins_without_a_converter(b: Bench) -> str:
    stick = b.part("joystick")
    plain = b.take(lambda _, p: p.reads and not p.jobs("adc"), "a pin without a converter")
    b.ties(stick, vcc=b.logic, gnd=b.ground, x=plain, y=b.with_job("adc"))
    return stick


@wrong("inputs", "stop", "input-over-voltage")
def stick_on_five_volts_at_pins_of_three(b: Bench) -> str:
    _three_volt_board(b)
    stick, pins = b.part("joystick"), [b.with_job("adc") for _ in "xy"]
    if b.driver(pins[0]).max_v > 5.1:
        raise Cannot("pins that bear no 5 V")
    b.ties(stick, vcc=b.five, gnd=b.ground, x=pins[0], y=pins[1])
    return stick


@wrong("inputs", "care or stop", "floating-input", "component-missing")
def switch_without_a_pull_up(b: Bench) -> str:
    switch = b.part("switch")
    b.ties(switch, contact=b.pin(), common=b.ground)
    return switch


@wrong("inputs", "stop", "contact-unread", "ends-alike")
def switch_between_a_pull_up_and_the_same_rail(b: Bench) -> str:
    switch = b.part("switch")
    b.tie(f"{switch}.contact", b.pin(), pull_up(b, 10e3))
    b.tie(f"{switch}.common", b.logic)
    return switch


@wrong("inputs", "stop", "nothing-reads")
def switch_between_the_rail_and_ground(b: Bench) -> str:
    switch = b.part("switch")
    b.ties(switch, contact=b.logic, common=b.ground)
    return switch


@wrong("inputs", "stop", "input-over-voltage")
def switch_on_twelve_volts_at_a_pin(b: Bench) -> str:
    brick, switch = b.brick("brick-12v", 1.0), b.part("switch")
    b.ties(switch, contact=b.pin(), common=f"{brick}.plus")
    return switch


# --- supplies ----------------------------------------------------------------------------------------


@wrong("feeds", "stop", "need-unmet")
def twelve_volt_plug_where_less_belongs(b: Bench) -> str:
    socket = next(
        (n for n, s in b.board.sockets.items() if s.plug != "USB" and s.volts.max < 11.0),
        None,
    )
    if socket is None:
        raise Cannot("a socket for less than 11 V")
    brick = b.part("plug-brick", volts="12 V")
    b.tie(f"{brick}.plug", f"board.{socket}")
    return brick


@wrong("feeds", "stop", "no-common-ground")
def bar_whose_minus_leads_nowhere(b: Bench) -> str:
    brick, bar, servo = b.brick(grounded=False), b.part("power-bar"), b.part("micro-servo")
    b.ties(bar, plus=f"{brick}.plus", minus=f"{brick}.zero")
    b.ties(servo, signal=b.with_job("pwm"), power=f"{bar}.plus", ground=f"{bar}.minus")
    return brick


@wrong("feeds", "stop", "supplies-joined")
def two_bricks_on_one_bar(b: Bench) -> str:
    five, twelve, bar = b.brick(), b.brick("brick-12v", 2.0), b.part("power-bar")
    b.ties(bar, plus=f"{five}.plus", minus=f"{five}.zero")
    servo = b.part("micro-servo")
    b.ties(servo, signal=b.with_job("pwm"), power=f"{twelve}.plus", ground=f"{bar}.minus")
    b.tie(f"{twelve}.plus", f"{bar}.plus")
    return twelve


@wrong("feeds", "stop", "need-unmet")
def bar_with_both_bars_on_plus(b: Bench) -> str:
    brick, bar, strip = b.brick(), b.part("power-bar"), b.part("pixel-strip", count=8)
    b.ties(bar, plus=f"{brick}.plus", minus=f"{brick}.plus")
    b.ties(strip, vdd=f"{bar}.plus", gnd=f"{bar}.minus")
    b.tie(f"{strip}.din", b.stream(), R(330.0))
    return bar


@wrong("feeds", "stop or care", "supply-over")
def small_usb_brick_for_a_board_with_strips(b: Bench) -> str:
    brick, ring = b.feed(0.5), b.part("pixel-ring", count=24)
    b.ties(ring, vdd=b.five, gnd=b.ground)
    b.tie(f"{ring}.din", b.stream(), R(330.0))
    return brick


@wrong("feeds", "stop", "capacitor-rating")
def capacitor_of_six_volts_at_twelve(b: Bench) -> str:
    brick, part = b.brick("brick-12v", 3.0), b.part("motor-speed-controller")
    b.ties(part, signal=b.with_job("pwm"), ground=b.ground)
    b.tie(f"{part}.battery", f"{brick}.plus", Capacitor(1e-3, 6.3))
    return part


@wrong("timing", "stop", "pixels-memory")
def more_pixels_than_the_memory_holds(b: Bench) -> str:
    if not (b.board.memory_bytes and b.board.memory_bytes < 6000):
        raise Cannot("a small memory")
    brick, strip = b.brick(amps=10.0), b.part("pixel-ring", count=1900)
    b.ties(strip, vdd=f"{brick}.plus", gnd=b.ground)
    b.tie(f"{strip}.din", b.stream(), R(330.0))
    return strip


@wrong("timing", "stop", "timer-shared")
def wheel_and_fan_on_one_timer(b: Bench) -> str:
    one, other = b.pwm_pair(same=True)
    brick, servo, switch, fan = b.brick(), b.part("continuous-servo"), b.part("n-mosfet"), b.part("dc-motor")
    b.ties(servo, signal=one, power=f"{brick}.plus", ground=b.ground)
    b.tie(f"{switch}.gate", other, R(220.0), PullDown(100e3))
    b.tie(f"{switch}.source", b.ground)
    b.tie(f"{fan}.a", f"{brick}.plus")
    b.tie(f"{fan}.b", f"{switch}.drain", Clamp(rail=f"{brick}.plus"))
    b.hertz(f"{switch}.gate", 2000.0)
    return servo
