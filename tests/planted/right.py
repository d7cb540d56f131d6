"""Templates of plans that an engineer would pass: nothing in them deserves a stop or a care."""

from collections.abc import Callable

from knotplan.core.plan.beads import (
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
    SeriesResistor,
)
from tests.planted.bench import Bench, Cannot, pull_up

Template = Callable[[Bench], None]
RIGHT: dict[str, Template] = {}
R = SeriesResistor


def right(template: Template) -> Template:
    """Puts a template on the list, under its own name."""
    RIGHT[template.__name__] = template
    return template


def led_ohm(bench: Bench, amps: float = 3e-3, volts: float | None = None) -> float:
    """A usual resistor for a red LED (1.9 V): R = (V - V_F)/I, next value of E12 at or above."""
    exact = ((volts or bench.board.logic_v) - 1.9) / amps
    values = [
        m * 10**k for k in range(1, 5) for m in (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
    ]
    return next(round(v, 3) for v in values if v >= exact)


def shifted(bench: Bench, far: str) -> tuple[LevelShifter, ...]:
    """A fast level shifter to the supply at a contact, where the pins have less than that."""
    if bench.is_5v:
        return ()
    return (LevelShifter("buffer", lead_rail=far, pin_rail=bench.logic),)


def three_volt(bench: Bench) -> str:
    """3.3 V for parts that take no more; a board of 5 V without such a rail cannot have them."""
    return bench.three if not bench.is_5v else bench.rail(3.0, 3.5)


# --- lights ------------------------------------------------------------------------------------------


@right
def led_resistor_at_anode(b: Bench) -> None:
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(3e-3), R(led_ohm(b, 2.5e-3)))
    b.tie(f"{led}.cathode", b.ground)


@right
def led_resistor_at_cathode(b: Bench) -> None:
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(3e-3))
    b.tie(f"{led}.cathode", b.ground, R(led_ohm(b, 2.5e-3)))


@right
def led_active_low(b: Bench) -> None:
    led = b.part("led", colour="amber")
    b.tie(f"{led}.anode", b.logic, R(led_ohm(b, 2.5e-3)))
    b.tie(f"{led}.cathode", b.pin(3e-3))


@right
def led_bright_without_a_wish(b: Bench) -> None:
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(12e-3), R(led_ohm(b, 8.6e-3)))
    b.tie(f"{led}.cathode", b.ground)


@right
def led_faint_without_a_wish(b: Bench) -> None:
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(2e-3), R(led_ohm(b, 1.5e-3)))
    b.tie(f"{led}.cathode", b.ground)


@right
def led_on_npn(b: Bench) -> None:
    led, npn = b.part("led"), b.part("npn-transistor")
    b.tie(f"{npn}.base", b.pin(2e-3, "off when low"), R(2200.0))
    b.tie(f"{npn}.emitter", b.ground)
    b.tie(f"{led}.anode", b.logic, R(led_ohm(b, 8e-3)))
    b.tie(f"{led}.cathode", f"{npn}.collector")


@right
def led_on_mosfet(b: Bench) -> None:
    led, fet = b.part("led"), b.part("n-mosfet")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{led}.anode", b.logic, R(led_ohm(b, 8e-3)))
    b.tie(f"{led}.cathode", f"{fet}.drain")


@right
def leds_on_coil_driver(b: Bench) -> None:
    hub = b.part("coil-driver")
    b.tie(f"{hub}.gnd", b.ground)
    for k in (1, 2, 3):
        led = b.part("led", f"led {k}")
        b.tie(f"{hub}.in{k}", b.pin(4e-3, "off when low"))
        b.tie(f"{led}.anode", b.five, R(390.0))
        b.tie(f"{led}.cathode", f"{hub}.out{k}")


@right
def rgb_common_cathode(b: Bench) -> None:
    led = b.part("rgb-led")
    b.holds(b.logic, 3.0)
    for lead, volts in (("red", 1.9), ("green", 2.7), ("blue", 2.8)):
        b.tie(f"{led}.{lead}", b.pin(3e-3), R(led_ohm(b, 2.2e-3, b.board.logic_v + 1.9 - volts)))
    b.tie(f"{led}.common", b.ground)


@right
def rgb_common_anode(b: Bench) -> None:
    led = b.part("rgb-led", common="anode")
    for lead in ("red", "green", "blue"):
        b.tie(f"{led}.{lead}", b.pin(3e-3), R(led_ohm(b, 2.2e-3)))
    b.tie(f"{led}.common", b.holds(b.logic, 3.0))


@right
def seven_segment(b: Bench) -> None:
    digit = b.part("seven-segment")
    for lead in "abcdefg":
        b.tie(f"{digit}.{lead}", b.pin(2e-3), R(led_ohm(b, 2e-3)))
    b.tie(f"{digit}.common", b.ground)


@right
def pixel_strip(b: Bench) -> None:
    brick, strip = b.brick(amps=3.0), b.part("pixel-strip", count=30.0)
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))


@right
def ring_and_strip_in_a_chain(b: Bench) -> None:
    brick, ring, strip = b.brick(amps=4.0), b.part("pixel-ring"), b.part("pixel-strip", count=30.0)
    for part in (ring, strip):
        b.tie(f"{part}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
        b.tie(f"{part}.gnd", f"{brick}.zero")
    b.tie(f"{ring}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    b.tie(f"{strip}.din", f"{ring}.dout")


@right
def led_grid(b: Bench) -> None:
    brick, grid = b.brick(amps=2.0), b.part("led-grid")
    pins = b.bus("spi", "mosi", "sclk", "select")
    b.tie(f"{grid}.vcc", f"{brick}.plus", Capacitor(10e-6, 16.0))
    b.tie(f"{grid}.gnd", f"{brick}.zero")
    for lead, role in (("din", "mosi"), ("cs", "select"), ("clk", "sclk")):
        b.tie(f"{grid}.{lead}", pins[role], *shifted(b, f"{brick}.plus"))


@right
def shift_register_with_leds(b: Bench) -> None:
    hub, pins = b.part("shift-register"), b.bus("spi", "mosi", "sclk", "select")
    b.ties(hub, vcc=b.logic, gnd=b.ground, oe=b.ground)
    b.ties(hub, ser=pins["mosi"], srclk=pins["sclk"], rclk=pins["select"])
    for k in range(4):
        led = b.part("led", f"led {k}")
        b.tie(f"{led}.anode", f"{hub}.q{k}", R(led_ohm(b, 3e-3)))
        b.tie(f"{led}.cathode", b.ground)


# --- people and sensors ------------------------------------------------------------------------------


@right
def button_with_inner_pull_up(b: Bench) -> None:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(pulls="up"), pull="up")
    b.tie(f"{button}.common", b.ground)


@right
def button_to_the_rail(b: Bench) -> None:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), PullDown(10e3))
    b.tie(f"{button}.common", b.logic)


@right
def reed_with_pull_up_and_capacitor(b: Bench) -> None:
    reed = b.part("reed-contact")
    b.tie(f"{reed}.contact", b.pin(), PullUp(10e3, rail=b.logic), Capacitor(100e-9))
    b.tie(f"{reed}.common", b.ground)


@right
def encoder_to_ground(b: Bench) -> None:
    encoder = b.part("encoder")
    for lead in ("a", "b", "sw"):
        b.tie(f"{encoder}.{lead}", b.pin(), pull_up(b, 10e3))
    b.ties(encoder, common=b.ground, sw_common=b.ground)


@right
def encoder_to_the_rail(b: Bench) -> None:
    encoder = b.part("encoder")
    for lead in ("a", "b"):
        b.tie(f"{encoder}.{lead}", b.pin(), PullDown(10e3))
    b.tie(f"{encoder}.common", b.logic)


@right
def keypad(b: Bench) -> None:
    pad = b.part("keypad")
    for k in range(1, 5):
        b.tie(f"{pad}.row{k}", b.pin())
        b.tie(f"{pad}.col{k}", b.pin(pulls="up"), pull="up")


@right
def knob(b: Bench) -> None:
    part = b.part("knob")
    b.ties(part, top=b.reference, wiper=b.with_job("adc"), bottom=b.ground)


@right
def knob_turned_round(b: Bench) -> None:
    part = b.part("knob")
    b.ties(part, top=b.ground, wiper=b.with_job("adc"), bottom=b.reference)


@right
def joystick(b: Bench) -> None:
    part = b.part("joystick")
    b.ties(part, vcc=b.reference, gnd=b.ground, x=b.with_job("adc"), y=b.with_job("adc"))


@right
def light_resistor_to_the_rail(b: Bench) -> None:
    cell = b.part("light-resistor")
    b.tie(f"{cell}.one", b.with_job("adc"), PullDown(10e3))
    b.tie(f"{cell}.other", b.reference)


@right
def light_resistor_to_ground(b: Bench) -> None:
    cell = b.part("light-resistor")
    b.tie(f"{cell}.one", b.with_job("adc"), PullUp(10e3, rail=b.reference))
    b.tie(f"{cell}.other", b.ground)


@right
def thermistor(b: Bench) -> None:
    bead = b.part("thermistor")
    b.tie(f"{bead}.one", b.with_job("adc"), PullUp(10e3, rail=b.reference), Capacitor(100e-9))
    b.tie(f"{bead}.other", b.ground)


@right
def thermistor_turned_round(b: Bench) -> None:
    bead = b.part("thermistor")
    b.tie(f"{bead}.other", b.ground)
    b.tie(f"{bead}.one", b.with_job("adc"), PullUp(8.2e3, rail=b.reference))


@right
def divider_before_a_converter(b: Bench) -> None:
    module = b.part("light-module")
    b.ties(module, vcc=b.holds(b.logic, 3.0), gnd=b.ground, ao=b.with_job("adc"))
    if b.reference != b.logic:
        raise Cannot("a converter that measures against the logic's rail")


@right
def echo_ranger(b: Bench) -> None:
    ranger = b.part("echo-ranger")
    b.ties(ranger, vcc=b.five, gnd=b.ground)
    if b.is_linux:
        raise Cannot("a pin that measures pulses")
    b.tie(f"{ranger}.trig", b.pin())
    if b.is_5v:
        b.tie(f"{ranger}.echo", b.pin())
    else:
        b.tie(f"{ranger}.echo", b.pin(), R(1e3), PullDown(1.8e3))


@right
def motion_sensor(b: Bench) -> None:
    sensor = b.part("motion-sensor")
    b.ties(sensor, vcc=b.five, gnd=b.ground, out=b.pin())


@right
def infrared_receiver(b: Bench) -> None:
    if b.is_linux:
        raise Cannot("a pin that measures pulses")
    part = b.part("infrared-receiver")
    b.ties(part, vs=b.logic, gnd=b.ground, out=b.pin())


@right
def radio_receiver(b: Bench) -> None:
    if b.is_linux:
        raise Cannot("a pin that measures pulses")
    part = b.part("rc-receiver")
    b.ties(part, plus=b.five, minus=b.ground, ch1=b.pin(), ch2=b.pin())


@right
def one_wire(b: Bench) -> None:
    line = b.pin()
    for k in (1, 2):
        part = b.part("one-wire-thermometer", f"thermometer {k}")
        b.ties(part, vdd=b.holds(b.logic, 3.0), gnd=b.ground)
        b.tie(f"{part}.dq", line, *([pull_up(b)] if k == 1 else []))


@right
def humidity(b: Bench) -> None:
    if b.is_linux:
        raise Cannot("a pin that keeps time both ways")
    part = b.part("humidity-sensor")
    b.ties(part, vcc=b.holds(b.logic, 3.0), gnd=b.ground)
    b.tie(f"{part}.data", b.pin(), pull_up(b, 10e3))


# --- buses -------------------------------------------------------------------------------------------


@right
def two_i2c_devices(b: Bench) -> None:
    pins = b.bus("i2c", "sda", "scl")
    for kind in ("i2c-thermometer", "oled-display"):
        part = b.part(kind)
        b.ties(part, vcc=b.holds(b.logic, 3.0), gnd=b.ground)
        b.i2c(part, pins)


@right
def two_thermometers_with_straps(b: Bench) -> None:
    pins = b.bus("i2c", "sda", "scl")
    for k, strap in enumerate(("open", "bridged")):
        part = b.part("i2c-thermometer", f"thermometer {k}", a0=strap)
        b.ties(part, vcc=b.logic, gnd=b.ground)
        b.i2c(part, pins)


@right
def i2c_of_three_volts_on_five(b: Bench) -> None:
    """Two-way level shifters in data and clock."""
    if not b.is_5v:
        raise Cannot("5 V lines")
    part, pins = b.part("inertial-sensor"), b.bus("i2c", "sda", "scl")
    supply = b.rail(3.0, 3.5)
    b.ties(part, vcc=supply, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], LevelShifter("mosfet", lead_rail=supply, pin_rail=b.logic))


@right
def bus_switch_with_twins(b: Bench) -> None:
    switch = b.part("bus-switch")
    b.ties(switch, vin=b.logic, gnd=b.ground)
    b.i2c(switch)
    for k in (0, 1):
        part = b.part("oled-display", f"display {k}")
        b.ties(part, vcc=b.holds(b.logic, 3.0), gnd=b.ground, sda=f"{switch}.sd{k}", scl=f"{switch}.sc{k}")


@right
def port_expander_with_button_and_led(b: Bench) -> None:
    hub = b.part("port-expander")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    button, led = b.part("push-button"), b.part("led")
    b.tie(f"{button}.contact", f"{hub}.p0", pull_up(b, 10e3))
    b.tie(f"{button}.common", b.ground)
    b.tie(f"{led}.anode", f"{hub}.p1", R(led_ohm(b, 3e-3)))
    b.tie(f"{led}.cathode", b.ground)


@right
def flash_of_three_volts(b: Bench) -> None:
    if b.is_5v:
        raise Cannot("3.3 V pins")
    part, pins = b.part("spi-flash"), b.bus("spi", "mosi", "miso", "sclk", "select")
    b.ties(part, vcc=b.three, gnd=b.ground)
    b.ties(part, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"], do=pins["miso"])


@right
def flash_behind_shifters(b: Bench) -> None:
    if not b.is_5v:
        raise Cannot("5 V pins")
    part, pins, supply = b.part("spi-flash"), b.bus("spi", "mosi", "miso", "sclk", "select"), b.rail(3.0, 3.5)
    b.ties(part, vcc=supply, gnd=b.ground, do=pins["miso"])
    for lead, role in (("cs", "select"), ("clk", "sclk"), ("di", "mosi")):
        b.tie(f"{part}.{lead}", pins[role], LevelShifter("buffer", lead_rail=supply, pin_rail=b.logic))


@right
def spi_adc_with_knob(b: Bench) -> None:
    hub, pins = b.part("spi-adc"), b.bus("spi", "mosi", "miso", "sclk", "select")
    b.ties(hub, vdd=b.logic, agnd=b.ground)
    b.ties(hub, cs=pins["select"], clk=pins["sclk"], din=pins["mosi"], dout=pins["miso"])
    knob = b.part("knob")
    b.ties(knob, top=b.logic, wiper=f"{hub}.ch0", bottom=b.ground)


@right
def positioning(b: Bench) -> None:
    if b.is_5v:
        raise Cannot("3.3 V pins")
    part, pins = b.part("positioning-receiver"), b.bus("uart", "tx", "rx")
    b.ties(part, vcc=b.three, gnd=b.ground, tx=pins["rx"], rx=pins["tx"])


# --- motors ------------------------------------------------------------------------------------------


def servo(b: Bench, kind: str, brick: str, signal: str) -> str:
    """A servo on a brick."""
    part = b.part(kind)
    b.ties(part, signal=signal, power=f"{brick}.plus", ground=f"{brick}.zero")
    return part


@right
def micro_servo(b: Bench) -> None:
    servo(b, "micro-servo", b.brick(), b.with_job("pwm"))


@right
def continuous_servo(b: Bench) -> None:
    servo(b, "continuous-servo", b.brick(), b.with_job("pwm", amps=2e-3))


@right
def servos_on_a_pwm_hub(b: Bench) -> None:
    brick, hub = b.brick(amps=6.0), b.part("pwm-hub")
    b.ties(hub, vcc=b.logic, gnd=b.ground)
    b.tie(f"{hub}.vplus", f"{brick}.plus", Capacitor(470e-6, 16.0))
    b.i2c(hub)
    for k in range(4):
        part = b.part("micro-servo", f"servo {k}")
        b.ties(part, signal=f"{hub}.ch{k}", power=f"{hub}.vplus", ground=f"{hub}.gnd")


@right
def one_brick_for_board_and_servo(b: Bench) -> None:
    """Side by side on the brick: the servo's current never runs through the board."""
    rail = next(
        (r for r, x in b.board.rails.items() if x.accepts and x.accepts.max > 5.15 and x.accepts.min <= 4.85),
        "",
    )
    if not rail:
        raise Cannot("a rail that takes 5 V in")
    brick = b.brick(amps=4.0)
    pin = next(f"board.{n}" for n, p in b.board.pins.items() if p.rail == rail)
    b.tie(f"{brick}.plus", pin)
    servo(b, "micro-servo", brick, b.with_job("pwm"))


@right
def motor_on_mosfet(b: Bench) -> None:
    motor_on(b, ("a", "b"))


@right
def motor_turned_round(b: Bench) -> None:
    motor_on(b, ("b", "a"))


def motor_on(b: Bench, leads: tuple[str, str]) -> None:
    """A small motor on a transistor, a diode from the drain to the motor's rail."""
    brick, fet, motor = b.brick(amps=3.0), b.part("n-mosfet"), b.part("dc-motor")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{motor}.{leads[0]}", f"{brick}.plus")
    b.tie(f"{motor}.{leads[1]}", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))


@right
def motor_on_bridge(b: Bench) -> None:
    brick, bridge, motor = b.brick(amps=3.0), b.part("motor-bridge"), b.part("dc-motor")
    b.ties(bridge, vcc=b.logic, vm=f"{brick}.plus", gnd=b.ground, standby=b.logic)
    b.ties(bridge, ain1=b.pin(safe="off when low"), ain2=b.pin(safe="off when low"))
    b.ties(motor, a=f"{bridge}.aout2", b=f"{bridge}.aout1")


@right
def solenoid_on_mosfet(b: Bench) -> None:
    solenoid_on(b, ("plus", "minus"))


@right
def solenoid_turned_round(b: Bench) -> None:
    solenoid_on(b, ("minus", "plus"))


def solenoid_on(b: Bench, leads: tuple[str, str]) -> None:
    """12 V over a solenoid, switched to ground; its clamp on its own rail."""
    brick, fet, coil = b.brick("brick-12v", 2.0), b.part("n-mosfet"), b.part("solenoid")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{coil}.{leads[0]}", f"{brick}.plus")
    b.tie(f"{coil}.{leads[1]}", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))


@right
def pump_on_switch_module(b: Bench) -> None:
    brick, switch, pump = b.brick("brick-12v", 2.0), b.part("mosfet-switch"), b.part("pump")
    b.ties(switch, trig=b.pin(2e-3, "off when low"), gnd=b.ground, vin=f"{brick}.plus")
    b.tie(f"{pump}.plus", f"{switch}.vin")
    b.tie(f"{pump}.minus", f"{switch}.out", Clamp(rail=f"{brick}.plus"))


@right
def valves_on_coil_driver(b: Bench) -> None:
    """Two of 0.4 A do not go on one sink driver's channel: relays of 12 V and 40 mA do."""
    brick, hub = b.brick("brick-12v", 2.0), b.part("coil-driver")
    b.ties(hub, gnd=b.ground, com=f"{brick}.plus")
    for k in (1, 2):
        relay = b.part("relay", f"relay {k}", coil="12 V")
        b.tie(f"{hub}.in{k}", b.pin(4e-3, "off when low"))
        b.ties(relay, a1=f"{brick}.plus", a2=f"{hub}.out{k}")


@right
def relay_on_npn(b: Bench) -> None:
    relay_on(b, ("a1", "a2"))


@right
def relay_coil_turned_round(b: Bench) -> None:
    relay_on(b, ("a2", "a1"))


def relay_on(b: Bench, leads: tuple[str, str]) -> None:
    """A coil of 70 mA on a small transistor from a brick of 5 V."""
    brick, npn, relay = b.brick(amps=2.0), b.part("npn-transistor"), b.part("relay")
    b.tie(f"{npn}.base", b.pin(10e-3, "off when low"), R(470.0 if b.is_5v else 270.0))
    b.tie(f"{npn}.emitter", b.ground)
    b.tie(f"{relay}.{leads[0]}", f"{brick}.plus")
    b.tie(f"{relay}.{leads[1]}", f"{npn}.collector", Clamp(rail=f"{brick}.plus"))


@right
def relay_module_with_pump_behind_it(b: Bench) -> None:
    brick, twelve = b.brick(amps=2.0), b.brick("brick-12v", 2.0)
    module, pump = b.part("relay-module", channels="1"), b.part("pump")
    b.ties(
        module,
        vcc=b.holds(b.logic, 3.0),
        gnd=b.ground,
        coil=f"{brick}.plus",
        in1=b.pin(3e-3, "off when high"),
    )
    b.tie(f"{module}.com1", f"{twelve}.plus")
    b.ties(pump, plus=f"{module}.no1", minus=f"{twelve}.zero")


@right
def geared_stepper(b: Bench) -> None:
    brick, hub, motor = b.brick(amps=2.0), b.part("coil-driver"), b.part("geared-stepper")
    b.ties(hub, gnd=b.ground, com=f"{brick}.plus")
    b.tie(f"{motor}.common", f"{brick}.plus")
    for k, lead in enumerate(("blue", "pink", "yellow", "orange"), 1):
        b.tie(f"{hub}.in{k}", b.pin(4e-3, "off when low"))
        b.tie(f"{motor}.{lead}", f"{hub}.out{k}")


@right
def bipolar_stepper_on_step_driver(b: Bench) -> None:
    brick, hub, motor = b.brick("brick-12v", 2.0), b.part("step-driver"), b.part("bipolar-stepper")
    b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
    b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 25.0))
    for lead in ("a1", "a2", "b1", "b2"):
        b.tie(f"{motor}.{lead}", f"{hub}.{lead}")


@right
def bipolar_stepper_on_bridge(b: Bench) -> None:
    brick, hub, motor = b.brick("brick-12v", 2.0), b.part("motor-bridge"), b.part("bipolar-stepper")
    b.ties(hub, vcc=b.logic, vm=f"{brick}.plus", gnd=b.ground, standby=b.logic)
    for lead in ("ain1", "ain2", "bin1", "bin2"):
        b.tie(f"{hub}.{lead}", b.pin(safe="off when low"))
    b.ties(motor, a1=f"{hub}.aout1", a2=f"{hub}.aout2", b1=f"{hub}.bout1", b2=f"{hub}.bout2")


@right
def fan_on_npn(b: Bench) -> None:
    fan, fet, brick = b.part("fan"), b.part("n-mosfet"), b.brick(amps=2.0)
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.ties(fan, plus=f"{brick}.plus", minus=f"{fet}.drain")


@right
def buzzer_on_npn(b: Bench) -> None:
    buzzer, npn = b.part("buzzer"), b.part("npn-transistor")
    b.tie(f"{npn}.base", b.pin(3e-3, "off when low"), R(1000.0))
    b.tie(f"{npn}.emitter", b.ground)
    b.ties(buzzer, plus=b.five, minus=f"{npn}.collector")


# --- supplies ----------------------------------------------------------------------------------------


@right
def fed_by_usb(b: Bench) -> None:
    b.feed()
    led_resistor_at_anode(b)


@right
def twelve_volts_through_a_buck_for_a_servo(b: Bench) -> None:
    twelve, buck = b.brick("brick-12v", 3.0), b.part("buck-converter")
    b.tie(f"{buck}.in", f"{twelve}.plus")
    b.tie(f"{buck}.gnd", b.ground)
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm"), power=f"{buck}.out", ground=b.ground)


@right
def cell_with_a_boost_converter_before_the_board(b: Bench) -> None:
    rail = next(
        (r for r, x in b.board.rails.items() if x.accepts and x.accepts.max > 5.1 and x.accepts.min <= 4.9),
        "",
    )
    if not rail:
        raise Cannot("a rail that takes 5 V in")
    cell, boost = b.part("single-cell"), b.part("boost-converter")
    b.tie(f"{cell}.minus", b.ground)
    b.tie(f"{boost}.gnd", b.ground)
    b.tie(f"{boost}.in", f"{cell}.plus")
    b.tie(f"{boost}.out", next(f"board.{n}" for n, p in b.board.pins.items() if p.rail == rail))
    led_resistor_at_anode(b)


@right
def twelve_volt_plug_on_the_barrel_jack(b: Bench) -> None:
    socket = next((n for n, s in b.board.sockets.items() if s.volts.max >= 12), "")
    if not socket:
        raise Cannot("a socket for 12 V")
    brick = b.part("plug-brick", volts="9 V", amperes=1.0)
    b.tie(f"{brick}.plug", f"board.{socket}")
    led_resistor_at_anode(b)


@right
def cells_on_their_socket(b: Bench) -> None:
    socket = next((n for n, s in b.board.sockets.items() if "cell" in s.title), "")
    if not socket:
        raise Cannot("a socket for cells")
    cells = b.part("cell-pack", cells="2 alkaline")
    b.tie(f"{cells}.plus", b.logic)
    b.tie(f"{cells}.minus", b.ground)
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(3e-3), R(470.0))
    b.tie(f"{led}.cathode", b.ground)


@right
def servo_behind_a_fuse(b: Bench) -> None:
    brick, part = b.brick(amps=3.0), b.part("micro-servo")
    b.tie(f"{part}.power", f"{brick}.plus", Fuse(1.0))
    b.ties(part, signal=b.with_job("pwm"), ground=f"{brick}.zero")


@right
def servo_behind_a_schottky_diode(b: Bench) -> None:
    brick, part = b.brick(amps=3.0), b.part("micro-servo")
    b.tie(f"{part}.power", f"{brick}.plus", Diode("lead", "schottky"))
    b.ties(part, signal=b.with_job("pwm"), ground=f"{brick}.zero")
