"""Templates of plans with one mistake each, and what has to be said about it."""

from collections.abc import Callable

from msgspec import Struct

from knotplan.core.plan import edits
from knotplan.core.plan.beads import (
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
)
from tests.planted.bench import Bench, Cannot, pull_up
from tests.planted.right import R, led_ohm, servo, shifted

Planted = Callable[[Bench], str]


class Mistake(Struct, frozen=True):
    """A template; it returns the part that the finding has to name."""

    family: str
    severities: tuple[str, ...]
    rules: tuple[str, ...]
    lay: Planted


WRONG: dict[str, Mistake] = {}


def wrong(family: str, severity: str, *rules: str) -> Callable[[Planted], Planted]:
    """Puts a template on the list. `rules`: any of them tells the cause. `severity` may name two."""

    def listed(lay: Planted) -> Planted:
        WRONG[lay.__name__] = Mistake(family, tuple(severity.split(" or ")), rules, lay)
        return lay

    return listed


# --- lights ------------------------------------------------------------------------------------------


@wrong("lights", "stop", "led-no-resistor")
def led_without_resistor(b: Bench) -> str:
    led = b.part("led")
    b.ties(led, anode=b.pin(3e-3), cathode=b.ground)
    return led


@wrong("lights", "care", "led-current")
def led_hardly_visible(b: Bench) -> str:
    led = b.part("led")
    b.tie(f"{led}.anode", b.pin(3e-3), R(100e3))
    b.tie(f"{led}.cathode", b.ground)
    return led


@wrong("lights", "stop", "pin-over-absolute", "led-current")
def led_resistor_far_too_small(b: Bench) -> str:
    led = b.part("led")
    pin = b.pin(3e-3)
    if (b.board.logic_v - 2.1) / (b.driver(pin).high_ohm.typ + 3.3) < 1.3 * min(
        0.03, b.driver(pin).absolute_a
    ):
        raise Cannot("a pin that gives so much")
    b.tie(f"{led}.anode", pin, R(3.3))
    b.tie(f"{led}.cathode", b.ground)
    return led


@wrong("exchanged", "stop", "led-reversed", "leads-exchanged")
def led_reversed(b: Bench) -> str:
    led = b.part("led")
    b.tie(f"{led}.cathode", b.pin(3e-3), R(470.0))
    b.tie(f"{led}.anode", b.ground)
    return led


@wrong("lights", "stop", "led-no-resistor")
def led_across_a_rail(b: Bench) -> str:
    led = b.part("led")
    b.ties(led, anode=b.logic, cathode=b.ground)
    return led


@wrong("lights", "care", "led-shared-resistor")
def one_resistor_for_three_colours(b: Bench) -> str:
    led = b.part("rgb-led")
    for lead in ("red", "green", "blue"):
        b.tie(f"{led}.{lead}", b.pin(3e-3))
    b.tie(f"{led}.common", b.ground, R(470.0))
    return led


@wrong("levels", "stop", "output-level")
def pixels_of_five_volts_without_a_shifter(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(330.0))
    return strip


@wrong("feeds", "stop", "rail-over", "supply-over", "load-underfed")
def long_strip_on_the_board(b: Bench) -> str:
    strip, rail = b.part("pixel-strip", count=144.0), b.five
    b.tie(f"{strip}.vdd", rail, Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", b.ground)
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, rail))
    return strip


@wrong("feeds", "care", "chain-dim", "load-underfed")
def long_strip_fed_at_one_end(b: Bench) -> str:
    brick, strip = b.brick(amps=20.0), b.part("pixel-strip", count=240.0)
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    for lead in ("vdd", "gnd"):
        b.cord(f"{strip}.{lead}", 0.2, 2.5)
    return strip


@wrong("levels", "stop", "output-level")
def grid_of_five_volts_without_a_shifter(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    brick, grid = b.brick(), b.part("led-grid")
    pins = b.bus("spi", "mosi", "sclk", "select")
    b.ties(grid, vcc=f"{brick}.plus", gnd=f"{brick}.zero")
    b.ties(grid, din=pins["mosi"], cs=pins["select"], clk=pins["sclk"])
    return grid


# --- inputs ------------------------------------------------------------------------------------------


@wrong("inputs", "care", "floating-input")
def button_without_a_pull(b: Bench) -> str:
    button = b.part("push-button")
    b.ties(button, contact=b.pin(), common=b.ground)
    return button


@wrong("inputs", "stop", "contact-unread")
def button_pulled_to_its_own_side(b: Bench) -> str:
    button = b.part("push-button")
    b.tie(f"{button}.contact", b.pin(), PullDown(10e3))
    b.tie(f"{button}.common", b.ground)
    return button


@wrong("levels", "stop", "input-over-voltage")
def five_volts_from_an_echo(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    ranger, pin = b.part("echo-ranger"), b.pin()
    if b.driver(pin).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    b.ties(ranger, vcc=b.five, gnd=b.ground, trig=b.pin(), echo=pin)
    return ranger


@wrong("levels", "stop", "input-over-voltage")
def button_to_five_volts(b: Bench) -> str:
    button, pin = b.part("push-button"), b.pin()
    if b.driver(pin).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    b.tie(f"{button}.contact", pin, PullDown(10e3))
    b.tie(f"{button}.common", b.five)
    return button


@wrong("levels", "stop", "input-level")
def divider_that_goes_too_deep(b: Bench) -> str:
    ranger = b.part("echo-ranger")
    b.ties(ranger, vcc=b.five, gnd=b.ground, trig=b.pin())
    b.tie(f"{ranger}.echo", b.pin(), R(10e3), PullDown(1e3))
    return ranger


@wrong("levels", "stop or care", "input-level")
def three_volts_into_five(b: Bench) -> str:
    """High is 2.9 V, and the pin takes 3.0 V and more for high."""
    if not b.is_5v:
        raise Cannot("5 V pins")
    part, pins = b.part("positioning-receiver"), b.bus("uart", "rx")
    b.ties(part, vcc=b.five, gnd=b.ground, tx=pins["rx"])
    return part


@wrong("inputs", "stop", "one-sided-sensor")
def sensor_without_its_second_resistor(b: Bench) -> str:
    cell = b.part("light-resistor")
    b.ties(cell, one=b.with_job("adc"), other=b.reference)
    return cell


@wrong("inputs", "stop", "one-sided-sensor")
def sensor_with_both_on_one_side(b: Bench) -> str:
    cell = b.part("light-resistor")
    b.tie(f"{cell}.one", b.with_job("adc"), PullUp(10e3, rail=b.reference))
    b.tie(f"{cell}.other", b.reference)
    return cell


@wrong("inputs", "care", "sensor-range")
def second_resistor_far_from_the_sensor(b: Bench) -> str:
    bead = b.part("thermistor")
    b.tie(f"{bead}.one", b.with_job("adc"), PullUp(100.0, rail=b.reference))
    b.tie(f"{bead}.other", b.ground)
    return bead


@wrong("inputs", "care", "scale-missing")
def knob_fed_from_a_lower_voltage(b: Bench) -> str:
    knob = b.part("knob")
    b.ties(knob, top=b.rail(3.0, 3.5), wiper=b.with_job("adc"), bottom=b.ground)
    if (
        b.reference == b.plan.tie_of(f"{knob}.top").to
        or b.board.converters["adc:0" if "adc:0" in b.board.converters else "adc:1"].reference != "5v"
    ):
        raise Cannot("a converter that measures against 5 V")
    return knob


@wrong("levels", "stop", "input-over-voltage")
def knob_fed_from_five_volts(b: Bench) -> str:
    knob, pin = b.part("knob"), b.with_job("adc")
    if b.driver(pin).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    b.ties(knob, top=b.five, wiper=pin, bottom=b.ground)
    return knob


@wrong("pins", "stop", "need-unmet")
def knob_on_a_pin_without_converter(b: Bench) -> str:
    knob = b.part("knob")
    pin = b.take(lambda n, p: p.drives and not p.jobs("adc"), "a pin without a converter")
    b.ties(knob, top=b.logic, wiper=pin, bottom=b.ground)
    return knob


@wrong("timing", "care", "pulse-unmeasured")
def echo_measured_by_a_system(b: Bench) -> str:
    if not b.is_linux:
        raise Cannot("a system")
    ranger = b.part("echo-ranger")
    b.ties(ranger, vcc=b.five, gnd=b.ground, trig=b.pin())
    b.tie(f"{ranger}.echo", b.pin(), R(1e3), PullDown(1.8e3))
    return ranger


@wrong("timing", "care or stop", "cannot-keep-time")
def humidity_read_by_a_system(b: Bench) -> str:
    if not b.is_linux:
        raise Cannot("a system")
    part = b.part("humidity-sensor")
    b.ties(part, vcc=b.logic, gnd=b.ground)
    b.tie(f"{part}.data", b.pin(), pull_up(b, 10e3))
    return part


@wrong("inputs", "stop", "component-missing", "bus-unpulled")
def one_wire_without_pull_up(b: Bench) -> str:
    part = b.part("one-wire-thermometer")
    b.ties(part, vdd=b.logic, gnd=b.ground, dq=b.pin())
    return part


@wrong("exchanged", "stop", "leads-exchanged")
def sensor_supply_reversed(b: Bench) -> str:
    part = b.part("motion-sensor")
    b.ties(part, vcc=b.ground, gnd=b.five, out=b.pin())
    return part


# --- time --------------------------------------------------------------------------------------------


@wrong("timing", "stop", "cannot-keep-time", "need-unmet")
def pixels_on_a_plain_pin_of_a_system(b: Bench) -> str:
    if not b.is_linux:
        raise Cannot("a system")
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.pin(), R(330.0), *shifted(b, f"{brick}.plus"))
    return strip


def pixels_on(b: Bench, pin: str, far: str = "") -> str:
    """A strip whose data come from a pin."""
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", pin, R(330.0), *shifted(b, f"{brick}.plus"))
    return strip


@wrong("timing", "stop", "cannot-keep-time", "need-unmet")
def pixels_on_the_data_input(b: Bench) -> str:
    if not b.is_linux:
        raise Cannot("a system")
    return pixels_on(b, b.bus("spi", "miso")["miso"])


@wrong("timing", "stop", "cannot-keep-time", "need-unmet")
def pixels_on_a_select(b: Bench) -> str:
    if not b.is_linux:
        raise Cannot("a system")
    return pixels_on(b, b.bus("spi", "mosi", "sclk", "select")["select"])


@wrong("timing", "stop", "cannot-keep-time", "need-unmet")
def pixels_on_the_clock(b: Bench) -> str:
    if not b.is_linux:
        raise Cannot("a system")
    return pixels_on(b, b.bus("spi", "mosi", "sclk")["sclk"])


@wrong("timing", "stop", "cannot-keep-time", "need-unmet")
def pixels_behind_an_expander(b: Bench) -> str:
    hub = b.part("port-expander")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    return pixels_on(b, f"{hub}.p3")


@wrong("timing", "stop", "cannot-keep-time", "need-unmet")
def one_wire_behind_an_expander(b: Bench) -> str:
    hub, part = b.part("port-expander"), b.part("one-wire-thermometer")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    b.ties(part, vdd=b.logic, gnd=b.ground)
    b.tie(f"{part}.dq", f"{hub}.p3", pull_up(b))
    return part


@wrong("timing", "stop", "cannot-keep-time", "need-unmet")
def humidity_behind_an_expander(b: Bench) -> str:
    hub, part = b.part("port-expander"), b.part("humidity-sensor")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    b.ties(part, vcc=b.logic, gnd=b.ground)
    b.tie(f"{part}.data", f"{hub}.p3", pull_up(b, 10e3))
    return part


@wrong("timing", "care or stop", "pulse-unmeasured", "cannot-keep-time")
def echo_behind_an_expander(b: Bench) -> str:
    hub, part = b.part("port-expander"), b.part("echo-ranger")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    b.ties(part, vcc=b.five, gnd=b.ground, trig=b.pin())
    b.tie(f"{part}.echo", f"{hub}.p3", *(() if b.is_5v else (R(1e3), PullDown(1.8e3))))
    return part


@wrong("timing", "stop", "need-unmet")
def servo_on_a_pin_without_pulses(b: Bench) -> str:
    pin = b.take(lambda n, p: p.drives and not p.jobs("pwm"), "a pin without pulses")
    return servo(b, "micro-servo", b.brick(), pin)


@wrong("timing", "stop", "need-unmet")
def servo_behind_an_expander(b: Bench) -> str:
    hub = b.part("port-expander")
    b.ties(hub, vdd=b.logic, gnd=b.ground)
    b.i2c(hub)
    return servo(b, "micro-servo", b.brick(), f"{hub}.p2")


@wrong("timing", "stop", "timer-shared", "frame-short")
def two_frequencies_on_one_timer(b: Bench) -> str:
    one, other = b.pwm_pair(same=True)
    part = servo(b, "micro-servo", b.brick(), one)
    led = b.part("rgb-led")
    b.tie(f"{led}.red", other, R(led_ohm(b, 2.5e-3)))
    b.tie(f"{led}.green", b.pin(2e-3), R(led_ohm(b, 2.5e-3)))
    b.tie(f"{led}.blue", b.pin(2e-3), R(led_ohm(b, 2.5e-3)))
    b.tie(f"{led}.common", b.ground)
    return part


@wrong("timing", "stop", "timer-shared")
def two_frequencies_on_one_hub(b: Bench) -> str:
    brick, hub = b.brick(), b.part("pwm-hub")
    b.ties(hub, vcc=b.logic, gnd=b.ground, vplus=f"{brick}.plus")
    b.i2c(hub)
    part = b.part("micro-servo")
    b.ties(part, signal=f"{hub}.ch0", power=f"{hub}.vplus", ground=f"{hub}.gnd")
    led = b.part("rgb-led")
    for k, lead in enumerate(("red", "green", "blue"), 1):
        b.tie(f"{led}.{lead}", f"{hub}.ch{k}", R(led_ohm(b, 2.5e-3)))
    b.tie(f"{led}.common", b.ground)
    return part


@wrong("timing", "stop", "frame-short")
def servo_frame_shorter_than_its_pulse(b: Bench) -> str:
    part = servo(b, "micro-servo", b.brick(), b.with_job("pwm", amps=2e-3))
    b.hertz(f"{part}.signal", 500.0)
    return part


@wrong("timing", "stop", "stepper-fast")
def stepper_asked_to_turn_too_fast(b: Bench) -> str:
    motor = geared(b)
    b.asks(motor, "rpm", 60.0)
    return motor


def geared(
    b: Bench, order: tuple[str, ...] = ("blue", "pink", "yellow", "orange"), com: str = "", motor_on: str = ""
) -> str:
    """A geared stepper on a sink driver."""
    brick, hub, motor = b.brick(), b.part("coil-driver"), b.part("geared-stepper")
    b.ties(hub, gnd=b.ground)
    if com != "none":
        b.tie(f"{hub}.com", com or f"{brick}.plus")
    b.tie(f"{motor}.common", motor_on or f"{brick}.plus")
    for k, lead in enumerate(order, 1):
        b.tie(f"{hub}.in{k}", b.pin(4e-3, "off when low"))
        b.tie(f"{motor}.{lead}", f"{hub}.out{k}")
    return motor


@wrong("coils", "note", "coil-order")
def coils_out_of_stepping_order(b: Bench) -> str:
    return geared(b, ("blue", "yellow", "pink", "orange"))


@wrong("timing", "care or stop", "relay-fast")
def relay_faster_than_it_moves(b: Bench) -> str:
    brick, module = b.brick(), b.part("relay-module", channels="1")
    b.ties(
        module,
        vcc=b.holds(b.logic, 3.0),
        gnd=b.ground,
        coil=f"{brick}.plus",
        in1=b.pin(3e-3, "off when high"),
    )
    b.asks(module, "on_s", 0.02)
    b.asks(module, "off_s", 0.02)
    return module


# --- coils, motors, contacts ---------------------------------------------------------------------------


@wrong("coils", "stop", "driver-missing")
def motor_straight_on_pins(b: Bench) -> str:
    motor = b.part("dc-motor")
    b.ties(motor, a=b.pin(), b=b.pin())
    return motor


@wrong("coils", "stop", "driver-missing")
def relay_straight_on_a_pin(b: Bench) -> str:
    relay = b.part("relay")
    b.ties(relay, a1=b.five, a2=b.pin())
    return relay


def on_mosfet(b: Bench, kind: str, brick: str, clamp: str = "", **params: str) -> str:
    """A load on a transistor, its clamp to a contact; without one where that is empty."""
    fet, load = b.part("n-mosfet"), b.part(kind, **params)
    plus, minus = {"relay": ("a1", "a2"), "dc-motor": ("a", "b")}.get(kind, ("plus", "minus"))
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{load}.{plus}", f"{brick}.plus")
    b.tie(f"{load}.{minus}", f"{fet}.drain", *([Clamp(rail=clamp)] if clamp else []))
    return load


@wrong("coils", "stop", "clamp-missing")
def valve_without_a_clamp(b: Bench) -> str:
    return on_mosfet(b, "valve", b.brick("brick-12v", 2.0))


@wrong("coils", "stop", "clamp-low")
def clamp_on_a_lower_rail(b: Bench) -> str:
    five = b.brick()
    return on_mosfet(b, "valve", b.brick("brick-12v", 2.0), f"{five}.plus")


@wrong("coils", "stop", "clamp-low")
def clamp_on_the_logic_rail(b: Bench) -> str:
    return on_mosfet(b, "solenoid", b.brick("brick-12v", 2.0), b.logic)


@wrong("coils", "stop", "clamp-missing")
def sink_driver_common_untied(b: Bench) -> str:
    return geared(b, com="none")


@wrong("coils", "stop", "clamp-low")
def sink_driver_common_on_a_lower_rail(b: Bench) -> str:
    five, twelve, hub = b.brick(), b.brick("brick-12v", 2.0), b.part("coil-driver")
    b.ties(hub, gnd=b.ground, com=f"{five}.plus")
    relay = b.part("relay", coil="12 V")
    b.tie(f"{hub}.in1", b.pin(4e-3, "off when low"))
    b.ties(relay, a1=f"{twelve}.plus", a2=f"{hub}.out1")
    return relay


@wrong("coils", "stop or care", "coils-crossed")
def windings_crossed_between_bridges(b: Bench) -> str:
    brick, hub, motor = b.brick("brick-12v", 2.0), b.part("step-driver"), b.part("bipolar-stepper")
    b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
    b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 25.0))
    b.ties(motor, a1=f"{hub}.a1", a2=f"{hub}.b1", b1=f"{hub}.a2", b2=f"{hub}.b2")
    return motor


@wrong("coils", "stop", "component-missing")
def step_driver_without_its_capacitor(b: Bench) -> str:
    brick, hub, motor = b.brick("brick-12v", 2.0), b.part("step-driver"), b.part("bipolar-stepper")
    b.ties(
        hub,
        vdd=b.holds(b.logic, 3.0),
        vmot=f"{brick}.plus",
        gnd=b.ground,
        step=b.pin(safe="off when low"),
        dir=b.pin(),
    )
    for lead in ("a1", "a2", "b1", "b2"):
        b.tie(f"{motor}.{lead}", f"{hub}.{lead}")
    return hub


@wrong("contacts", "care", "runs-unpowered")
def pump_on_the_closed_contact(b: Bench) -> str:
    five, twelve = b.brick(), b.brick("brick-12v", 2.0)
    module, pump = b.part("relay-module", channels="1"), b.part("pump")
    b.ties(
        module, vcc=b.holds(b.logic, 3.0), gnd=b.ground, coil=f"{five}.plus", in1=b.pin(3e-3, "off when high")
    )
    b.tie(f"{module}.com1", f"{twelve}.plus")
    b.ties(pump, plus=f"{module}.nc1", minus=f"{twelve}.zero")
    return pump


@wrong("contacts", "stop", "contact-over")
def contact_beyond_its_rating(b: Bench) -> str:
    five, cells = b.brick(), b.brick("brick-12v", 20.0)
    relay, controller, npn = b.part("relay"), b.part("motor-speed-controller"), b.part("n-mosfet")
    b.tie(f"{npn}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{npn}.source", b.ground)
    b.tie(f"{relay}.a1", f"{five}.plus")
    b.tie(f"{relay}.a2", f"{npn}.drain", Clamp(rail=f"{five}.plus"))
    b.tie(f"{relay}.com", f"{cells}.plus")
    b.ties(controller, battery=f"{relay}.no", ground=f"{cells}.zero", signal=b.with_job("pwm", amps=2e-3))
    for lead in (f"{controller}.battery", f"{controller}.ground", f"{relay}.com", f"{cells}.zero"):
        b.cord(lead, 0.2, 2.5)
    return relay


@wrong("contacts", "to-do", "lead-untied")
def common_contact_untied(b: Bench) -> str:
    five, twelve = b.brick(), b.brick("brick-12v", 2.0)
    module, pump = b.part("relay-module", channels="1"), b.part("pump")
    b.ties(
        module, vcc=b.holds(b.logic, 3.0), gnd=b.ground, coil=f"{five}.plus", in1=b.pin(3e-3, "off when high")
    )
    b.ties(pump, plus=f"{module}.no1", minus=f"{twelve}.zero")
    return module


@wrong("power-on", "care", "wakes-load")
def relay_that_fires_at_power_on(b: Bench) -> str:
    brick, module = b.brick(), b.part("relay-module", channels="1")
    pin = b.take(
        lambda n, p: (
            p.drives
            and p.power_on in ("pull-down", "low")
            and not p.fitted_pull_ohm
            and b.board.drivers[p.driver].recommended_a > 2e-3
        ),
        "a pin that is low at power-on",
    )
    module_fed = b.holds(b.logic, 3.0)
    b.ties(module, vcc=f"{brick}.plus" if b.is_5v else module_fed, gnd=b.ground, coil=f"{brick}.plus")
    b.tie(f"{module}.in1", pin)
    if b.board.pins[pin.removeprefix("board.")].power_on == "pull-down":
        raise Cannot("a pin that drives low at power-on")  # a pull-down of 50 kΩ lights no optocoupler
    return module


@wrong("power-on", "care", "wakes-load")
def mosfet_that_opens_at_power_on(b: Bench) -> str:
    brick, fet, motor = b.brick(), b.part("n-mosfet"), b.part("dc-motor")
    pin = b.take(
        lambda n, p: p.drives and p.power_on in ("pull-up", "high") and not p.fitted_pull_ohm,
        "a pin that is high at power-on",
    )
    b.tie(f"{fet}.gate", pin, R(220.0))
    b.tie(f"{fet}.source", b.ground)
    b.tie(f"{motor}.a", f"{brick}.plus")
    b.tie(f"{motor}.b", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))
    return fet


@wrong("levels", "stop", "output-level", "switch-half-open")
def mosfet_for_ten_volts_on_a_pin(b: Bench) -> str:
    load = on_mosfet(b, "dc-motor", (brick := b.brick()), f"{brick}.plus")
    fet = next(p.id for p in b.plan.parts if p.part == "n-mosfet")
    b.plan = edits.set_param(b.plan, fet, "kind", "for 10 V")
    if b.is_5v:
        raise Cannot("a pin of 3.3 V")
    return fet if load else ""


@wrong("coils", "stop", "component-missing")
def base_without_a_resistor(b: Bench) -> str:
    brick, npn, relay = b.brick(), b.part("npn-transistor"), b.part("relay")
    b.ties(npn, base=b.pin(safe="off when low"), emitter=b.ground)
    b.tie(f"{relay}.a1", f"{brick}.plus")
    b.tie(f"{relay}.a2", f"{npn}.collector", Clamp(rail=f"{brick}.plus"))
    return npn


@wrong("coils", "stop or care", "switch-half-open", "component-missing")
def base_resistor_far_too_large(b: Bench) -> str:
    brick, npn, relay = b.brick(), b.part("npn-transistor"), b.part("relay")
    b.tie(f"{npn}.base", b.pin(safe="off when low"), R(47e3))
    b.tie(f"{npn}.emitter", b.ground)
    b.tie(f"{relay}.a1", f"{brick}.plus")
    b.tie(f"{relay}.a2", f"{npn}.collector", Clamp(rail=f"{brick}.plus"))
    return npn


# --- exchanged -----------------------------------------------------------------------------------------


@wrong("exchanged", "stop", "leads-exchanged", "supplies-exchanged")
def bridge_supplies_exchanged(b: Bench) -> str:
    twelve, hub, motor = b.brick("brick-12v", 2.0), b.part("motor-bridge"), b.part("dc-motor", volts="12 V")
    b.ties(hub, vcc=f"{twelve}.plus", vm=b.logic, gnd=b.ground, standby=b.logic)
    b.ties(hub, ain1=b.pin(safe="off when low"), ain2=b.pin(safe="off when low"))
    b.ties(motor, a=f"{hub}.aout1", b=f"{hub}.aout2")
    return hub


@wrong("exchanged", "stop", "leads-exchanged", "supplies-exchanged")
def step_driver_supplies_exchanged(b: Bench) -> str:
    twelve, hub, motor = b.brick("brick-12v", 2.0), b.part("step-driver"), b.part("bipolar-stepper")
    b.ties(hub, vdd=f"{twelve}.plus", gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
    b.tie(f"{hub}.vmot", b.holds(b.logic, 3.0), Capacitor(100e-6, 25.0))
    for lead in ("a1", "a2", "b1", "b2"):
        b.tie(f"{motor}.{lead}", f"{hub}.{lead}")
    return hub


@wrong("exchanged", "stop", "leads-exchanged")
def data_and_clock_exchanged(b: Bench) -> str:
    part, pins = b.part("i2c-thermometer"), b.bus("i2c", "sda", "scl")
    if b.board.pool("i2c"):
        raise Cannot("lines that have their pins")
    b.ties(part, vcc=b.logic, gnd=b.ground, sda=pins["scl"], scl=pins["sda"])
    return part


@wrong("exchanged", "stop", "leads-exchanged")
def data_in_and_out_exchanged(b: Bench) -> str:
    hub, pins = b.part("spi-adc"), b.bus("spi", "mosi", "miso", "sclk", "select")
    if b.board.pool("spi"):
        raise Cannot("lines that have their pins")
    b.ties(hub, vdd=b.logic, agnd=b.ground)
    b.ties(hub, cs=pins["select"], clk=pins["sclk"], din=pins["miso"], dout=pins["mosi"])
    return hub


@wrong("exchanged", "stop", "leads-exchanged", "uart-crossed")
def transmit_on_transmit(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("3.3 V pins")
    part, pins = b.part("positioning-receiver"), b.bus("uart", "tx", "rx")
    if not any(j.channel for j in b.board.pins[pins["tx"].removeprefix("board.")].jobs("uart")):
        raise Cannot("a UART whose pins have their roles")
    b.ties(part, vcc=b.three, gnd=b.ground, tx=pins["tx"], rx=pins["rx"])
    return part


@wrong("exchanged", "stop", "leads-exchanged")
def servo_red_and_brown_exchanged(b: Bench) -> str:
    brick, part = b.brick(), b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{brick}.zero", ground=f"{brick}.plus")
    return part


@wrong("exchanged", "stop", "leads-exchanged")
def servo_signal_and_supply_exchanged(b: Bench) -> str:
    brick, part = b.brick(), b.part("micro-servo")
    b.ties(part, signal=f"{brick}.plus", power=b.with_job("pwm", amps=2e-3), ground=f"{brick}.zero")
    return part


@wrong("exchanged", "stop", "supply-reversed", "leads-exchanged")
def brick_the_wrong_way_round(b: Bench) -> str:
    brick, part = b.part("brick-5v"), b.part("micro-servo")
    b.ties(brick, plus=b.ground)
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{brick}.zero", ground=b.ground)
    return brick


@wrong("exchanged", "stop", "leads-exchanged")
def thermometer_supply_reversed(b: Bench) -> str:
    part = b.part("i2c-thermometer")
    b.ties(part, vcc=b.ground, gnd=b.logic)
    b.i2c(part)
    return part


# --- feeds ---------------------------------------------------------------------------------------------


@wrong("feeds", "stop", "no-common-ground")
def brick_without_common_ground(b: Bench) -> str:
    brick = b.brick(grounded=False)
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{brick}.plus", ground=f"{brick}.zero")
    return brick


@wrong("feeds", "care or stop", "jerky-load-on-board")
def servo_on_the_boards_rail(b: Bench) -> str:
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=b.five, ground=b.ground)
    return part


@wrong("feeds", "stop", "need-unmet")
def servo_on_three_volts(b: Bench) -> str:
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=b.rail(2.8, 3.5), ground=b.ground)
    return part


@wrong("feeds", "stop", "need-unmet")
def servo_on_twelve_volts(b: Bench) -> str:
    return servo(b, "micro-servo", b.brick("brick-12v", 2.0), b.with_job("pwm", amps=2e-3))


@wrong("feeds", "stop", "load-underfed")
def resistor_in_a_servos_feed(b: Bench) -> str:
    brick, part = b.brick(), b.part("micro-servo")
    b.tie(f"{part}.power", f"{brick}.plus", R(47.0, rating_w=5.0))
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), ground=f"{brick}.zero")
    return part


@wrong("feeds", "stop", "feed-blocked", "load-underfed", "leads-exchanged")
def diode_turned_round_in_a_feed(b: Bench) -> str:
    brick, part = b.brick(), b.part("micro-servo")
    b.tie(f"{part}.power", f"{brick}.plus", Diode("pin", "schottky"))
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), ground=f"{brick}.zero")
    return part


@wrong("feeds", "care or stop", "load-underfed")
def silicon_diode_in_a_servos_feed(b: Bench) -> str:
    """4.85 V less about 0.9 V at 0.65 A: 4.0 V, of 4.5."""
    brick, part = b.brick(), b.part("micro-servo")
    b.tie(f"{part}.power", f"{brick}.plus", Diode("lead", "silicon"))
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), ground=f"{brick}.zero")
    return part


@wrong("feeds", "stop", "drop-out")
def buck_converter_fed_at_its_own_voltage(b: Bench) -> str:
    brick, buck = b.brick(), b.part("buck-converter")
    b.tie(f"{buck}.in", f"{brick}.plus")
    b.tie(f"{buck}.gnd", b.ground)
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{buck}.out", ground=b.ground)
    return buck


@wrong("feeds", "care", "fuse-wrong")
def fuse_that_opens_in_use(b: Bench) -> str:
    brick, strip = b.brick(), b.part("pixel-strip", count=60.0)
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0), Fuse(0.5))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    return strip


@wrong("feeds", "care", "load-underfed")
def thin_long_cord_to_a_servo(b: Bench) -> str:
    part = servo(b, "standard-servo", (brick := b.brick()), b.with_job("pwm", amps=2e-3))
    for lead in ("power", "ground"):
        b.cord(f"{part}.{lead}", 3.0, 0.25)
    return part if brick else ""


@wrong("feeds", "stop", "cord-hot")
def cord_that_gets_hot(b: Bench) -> str:
    brick, strip = b.brick(amps=10.0), b.part("pixel-strip", count=144.0, feeds=4.0)
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
    for lead in ("vdd", "gnd"):
        b.cord(f"{strip}.{lead}", 0.1, 0.14)
    return strip


@wrong("feeds", "care or stop", "supply-over")
def brick_too_small(b: Bench) -> str:
    brick = b.brick(amps=1.0)
    for k in range(3):
        part = b.part("micro-servo", f"servo {k}")
        b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{brick}.plus", ground=f"{brick}.zero")
    return brick


@wrong("feeds", "stop", "supplies-joined", "need-unmet")
def two_supplies_joined(b: Bench) -> str:
    one, other = b.brick(), b.brick("brick-12v", 2.0)
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{one}.plus", ground=f"{one}.zero")
    b.tie(f"{other}.plus", f"{one}.plus")
    return other


@wrong("feeds", "stop", "supplies-joined", "need-unmet")
def twelve_volts_into_the_board(b: Bench) -> str:
    brick = b.brick("brick-12v", 2.0)
    b.tie(f"{brick}.plus", b.five)
    return brick


@wrong("feeds", "stop", "capacitor-rating")
def capacitor_for_too_little_voltage(b: Bench) -> str:
    brick, hub = b.brick("brick-12v", 2.0), b.part("step-driver")
    b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
    b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 10.0))
    return hub


@wrong("feeds", "care or stop", "regulator-hot")
def regulator_that_gets_too_hot(b: Bench) -> str:
    twelve, regulator = b.brick("brick-12v", 2.0), b.part("linear-regulator")
    b.tie(f"{regulator}.in", f"{twelve}.plus", Capacitor(330e-9, 50.0))
    b.tie(f"{regulator}.gnd", b.ground)
    part = b.part("micro-servo")
    b.ties(part, signal=b.with_job("pwm", amps=2e-3), power=f"{regulator}.out", ground=b.ground)
    return regulator


@wrong("feeds", "care", "need-unmet", "load-underfed")
def a_little_below_the_parts_minimum(b: Bench) -> str:
    """3.0 V, 2.85 V at worst, for a part of 3.0 V and more."""
    rail = b.logic
    if not 2.7 < b.board.rails[b.board.pins[rail.removeprefix("board.")].rail].volts.min < 3.0:
        raise Cannot("a rail of about 3 V")
    part = b.part("oled-display")
    b.ties(part, vcc=rail, gnd=b.ground)
    b.i2c(part)
    return part


# --- pins ----------------------------------------------------------------------------------------------


@wrong("pins", "stop", "pin-shared")
def two_leds_on_one_pin(b: Bench) -> str:
    pin = b.pin(5e-3)
    one, other = b.part("push-button"), b.part("led")
    b.tie(f"{one}.contact", pin, pull_up(b, 10e3))
    b.tie(f"{one}.common", b.ground)
    b.tie(f"{other}.anode", pin, R(led_ohm(b, 3e-3)))
    b.tie(f"{other}.cathode", b.ground)
    return other


@wrong("pins", "stop or care or note", "pin-reserved")
def led_on_a_reserved_pin(b: Bench) -> str:
    name = next(
        (
            n
            for n, p in b.board.pins.items()
            if p.reserved
            and p.kind == "io"
            and b.board.drivers[p.driver].recommended_a >= 3e-3
            and b.board.reservations[p.reserved].severity != "note"
        ),
        "",
    )
    if not name:
        raise Cannot("a reserved pin")
    led = b.part("led")
    b.tie(f"{led}.anode", f"board.{name}", R(led_ohm(b, 2.5e-3)))
    b.tie(f"{led}.cathode", b.ground)
    return led


@wrong("pins", "stop", "need-unmet")
def led_on_an_input_only_pin(b: Bench) -> str:
    pin = b.take(lambda n, p: p.reads and not p.drives, "an input-only pin")
    led = b.part("led")
    b.tie(f"{led}.anode", pin, R(330.0))
    b.tie(f"{led}.cathode", b.ground)
    return led


@wrong("pins", "care or stop", "peripheral-off", "need-unmet")
def bus_that_the_system_has_off(b: Bench) -> str:
    from tests.planted.right import flash_of_three_volts

    if not b.is_linux:
        raise Cannot("a system")
    flash_of_three_volts(b)
    if not b.plan.set_up:
        raise Cannot("a bus that is off at first")
    for setting in b.plan.set_up:
        b.plan = edits.set_up(b.plan, setting)
    return b.plan.parts[0].id


@wrong("pins", "stop or care", "strap-level")
def button_on_a_boot_strap(b: Bench) -> str:
    for n, p in b.board.pins.items():
        if p.strap and p.kind == "io" and not p.reserved:
            button = b.part("push-button")
            level = b.board.straps[p.strap].level
            b.tie(
                f"{button}.contact",
                f"board.{n}",
                PullDown(1e3) if level == "high" else PullUp(1e3, rail=b.logic),
            )
            b.tie(f"{button}.common", b.logic if level == "high" else b.ground)
            return button
    raise Cannot("a boot strap")


@wrong("pins", "stop or care", "pins-over", "pin-over-recommended", "rail-over")
def twelve_leds_at_full_current(b: Bench) -> str:
    if b.board.all_pins_a > 14 * 9e-3:
        raise Cannot("a limit that so many exceed")
    for k in range(14):
        led = b.part("led", f"led {k}")
        b.tie(f"{led}.anode", b.pin(11e-3), R(led_ohm(b, 10e-3)))
        b.tie(f"{led}.cathode", b.ground)
    return ""


# --- buses ---------------------------------------------------------------------------------------------


@wrong("buses", "stop", "address-clash")
def two_devices_at_one_address(b: Bench) -> str:
    pins = b.bus("i2c", "sda", "scl")
    for k in (0, 1):
        part = b.part("oled-display", f"display {k}")
        b.ties(part, vcc=b.holds(b.logic, 3.0), gnd=b.ground)
        b.i2c(part, pins)
    return part


@wrong("buses", "stop", "bus-unpulled")
def bus_without_pull_ups(b: Bench) -> str:
    part, pins = b.part("i2c-thermometer", pulls="taken off"), b.bus("i2c", "sda", "scl")
    if any(b.fitted(p) for p in pins.values()):
        raise Cannot("a bus without pull-ups of the board's own")
    b.ties(part, vcc=b.logic, gnd=b.ground)
    b.i2c(part, pins)
    return part


@wrong("buses", "care or stop", "bus-slow")
def weak_pulls_on_a_long_cord(b: Bench) -> str:
    part, pins = b.part("i2c-thermometer", pulls="taken off"), b.bus("i2c", "sda", "scl")
    if any(b.fitted(p) for p in pins.values()):
        raise Cannot("a bus without pull-ups of the board's own")
    b.ties(part, vcc=b.logic, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], PullUp(47e3, rail=b.logic))
        b.cord(f"{part}.{line}", 2.0)
    return part


@wrong("levels", "stop", "lead-over-voltage", "bus-level", "bus-pulled-apart")
def bus_of_five_volts_into_three(b: Bench) -> str:
    if not b.is_5v:
        raise Cannot("5 V lines")
    part, supply = b.part("inertial-sensor"), b.rail(3.0, 3.5)
    b.ties(part, vcc=supply, gnd=b.ground)
    for line, pin in b.bus("i2c", "sda", "scl").items():
        b.tie(f"{part}.{line}", pin, PullUp(4.7e3, rail=b.logic))
    return part


@wrong("levels", "stop", "input-over-voltage", "bus-level", "bus-pulled-apart")
def display_of_five_volts_pulls_up_the_bus(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("3.3 V lines")
    part, pins = b.part("character-display"), b.bus("i2c", "sda", "scl")
    if b.driver(pins["sda"]).max_v > 5:
        raise Cannot("pins that bear no 5 V")
    b.ties(part, vcc=b.five, gnd=b.ground)
    b.i2c(part, pins)
    return part


@wrong("levels", "stop", "lead-over-voltage")
def five_volts_into_a_flash(b: Bench) -> str:
    if not b.is_5v:
        raise Cannot("5 V pins")
    part, pins, supply = b.part("spi-flash"), b.bus("spi", "mosi", "miso", "sclk", "select"), b.rail(3.0, 3.5)
    b.ties(part, vcc=supply, gnd=b.ground, do=pins["miso"])
    b.ties(part, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"])
    return part


@wrong("levels", "stop", "lead-over-voltage")
def five_volts_into_a_receiver(b: Bench) -> str:
    if not b.is_5v:
        raise Cannot("5 V pins")
    part, pins = b.part("positioning-receiver"), b.bus("uart", "tx", "rx")
    b.ties(part, vcc=b.rail(3.0, 3.5), gnd=b.ground, tx=pins["rx"], rx=pins["tx"])
    return part


@wrong("buses", "stop", "pin-shared")
def one_select_for_two(b: Bench) -> str:
    pins = b.bus("spi", "mosi", "miso", "sclk", "select")
    for k in (0, 1):
        hub = b.part("spi-adc", f"adc {k}")
        b.ties(hub, vdd=b.logic, agnd=b.ground)
        b.ties(hub, cs=pins["select"], clk=pins["sclk"], din=pins["mosi"], dout=pins["miso"])
    return hub


@wrong("buses", "stop", "need-unmet")
def bus_leads_on_plain_pins(b: Bench) -> str:
    part = b.part("i2c-thermometer")
    pins = [b.take(lambda n, p: p.drives and not p.jobs("i2c"), "a pin without I2C") for _ in range(2)]
    b.ties(part, vcc=b.logic, gnd=b.ground, sda=pins[0], scl=pins[1])
    return part


# --- edges and shifters ------------------------------------------------------------------------------


@wrong("edges", "stop", "edge-slow")
def capacitor_on_the_pixels_data(b: Bench) -> str:
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), Capacitor(100e-9), R(330.0), *shifted(b, f"{brick}.plus"))
    return strip


@wrong("edges", "stop", "edge-slow")
def large_resistor_in_the_pixels_data(b: Bench) -> str:
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(f"{strip}.din", b.stream(), R(100e3), *shifted(b, f"{brick}.plus"))
    return strip


@wrong("edges", "stop", "edge-slow")
def slow_shifter_before_pixels(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(
        f"{strip}.din",
        b.stream(),
        R(330.0),
        LevelShifter("mosfet", lead_rail=f"{brick}.plus", pin_rail=b.logic),
    )
    return strip


@wrong("edges", "stop", "edge-slow", "bus-slow")
def capacitor_on_an_spi_clock(b: Bench) -> str:
    hub, pins = b.part("spi-adc"), b.bus("spi", "mosi", "miso", "sclk", "select")
    b.ties(hub, vdd=b.logic, agnd=b.ground, cs=pins["select"], din=pins["mosi"], dout=pins["miso"])
    b.tie(f"{hub}.clk", pins["sclk"], Capacitor(100e-9))
    return hub


@wrong("edges", "care or stop", "bus-slow", "edge-slow")
def capacitor_on_an_i2c_line(b: Bench) -> str:
    part, pins = b.part("i2c-thermometer"), b.bus("i2c", "sda", "scl")
    b.ties(part, vcc=b.logic, gnd=b.ground, sda=pins["sda"])
    b.tie(f"{part}.scl", pins["scl"], Capacitor(100e-9))
    return part


@wrong("edges", "stop", "edge-slow")
def capacitor_on_a_servos_signal(b: Bench) -> str:
    brick, part = b.brick(), b.part("micro-servo")
    b.tie(f"{part}.signal", b.with_job("pwm", amps=2e-3), R(1e3), Capacitor(100e-6))
    b.ties(part, power=f"{brick}.plus", ground=f"{brick}.zero")
    return part


@wrong("exchanged", "stop", "shifter-turned", "leads-exchanged")
def shifter_turned_round(b: Bench) -> str:
    if b.is_5v:
        raise Cannot("pins of 3.3 V")
    brick, strip = b.brick(), b.part("pixel-strip")
    b.tie(f"{strip}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{strip}.gnd", f"{brick}.zero")
    b.tie(
        f"{strip}.din",
        b.stream(),
        LevelShifter("buffer", lead_rail=b.logic, pin_rail=f"{brick}.plus"),
        R(330.0),
    )
    return strip
