"""More plans that an engineer would pass: shared switches, ways that are seldom gone, cells."""

from knotplan.core.plan.beads import Capacitor, Clamp, Fuse, PullDown, PullUp
from knotplan.core.plan.document import split
from tests.planted.bench import Bench, Cannot, pull_up
from tests.planted.right import R, right, shifted


def _mosfet(b: Bench) -> str:
    fet = b.part("n-mosfet")
    b.tie(f"{fet}.gate", b.pin(1e-3, "off when low"), R(220.0), PullDown(100e3))
    b.tie(f"{fet}.source", b.ground)
    return fet


def _module(b: Bench) -> str:
    """A relay module with its coil on 5 V, and a pin that drives it."""
    five, module = b.brick(), b.part("relay-module", channels="1")
    b.ties(module, vcc=b.holds(b.logic, 3.0), gnd=b.ground, coil=f"{five}.plus")
    b.tie(f"{module}.in1", b.pin(3e-3, "off when high"))
    return module


@right
def two_relays_on_one_mosfet(b: Bench) -> None:
    brick, fet = b.brick(), _mosfet(b)
    for k in (1, 2):
        relay = b.part("relay", f"relay {k}")
        b.tie(f"{relay}.a1", f"{brick}.plus")
        b.tie(f"{relay}.a2", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))


@right
def two_leds_on_one_mosfet(b: Bench) -> None:
    fet = _mosfet(b)
    for k in (1, 2):
        led = b.part("led", f"led {k}")
        b.tie(f"{led}.anode", b.five, R(470.0))
        b.tie(f"{led}.cathode", f"{fet}.drain")


@right
def leds_in_series_on_twelve_volts(b: Bench) -> None:
    brick, fet = b.brick("brick-12v", 2.0), _mosfet(b)
    one, other = b.part("led", "one"), b.part("led", "other")
    b.tie(f"{one}.anode", f"{brick}.plus", R(820.0))
    b.tie(f"{one}.cathode", f"{other}.anode")
    b.tie(f"{other}.cathode", f"{fet}.drain")


@right
def load_at_the_common_contact(b: Bench) -> None:
    """The supply comes in at the contact that rests open, and leaves at the common one."""
    module, twelve, pump = _module(b), b.brick("brick-12v", 2.0), b.part("pump")
    b.tie(f"{module}.no1", f"{twelve}.plus")
    b.ties(pump, plus=f"{module}.com1", minus=f"{twelve}.zero")


@right
def contact_in_the_way_back(b: Bench) -> None:
    module, twelve, pump = _module(b), b.brick("brick-12v", 2.0), b.part("pump")
    b.tie(f"{module}.com1", f"{twelve}.zero")
    b.ties(pump, plus=f"{twelve}.plus", minus=f"{module}.no1")


@right
def relay_on_a_transistor_with_a_valve_behind_it(b: Bench) -> None:
    twelve, relay, npn, valve = (
        b.brick("brick-12v", 2.0),
        b.part("relay"),
        b.part("npn-transistor"),
        b.part("valve"),
    )
    b.tie(f"{npn}.base", b.pin(4e-3, "off when low"), R(1000.0))
    b.tie(f"{npn}.emitter", b.ground)
    b.tie(f"{relay}.a1", b.five)
    b.tie(f"{relay}.a2", f"{npn}.collector", Clamp(rail=b.five))
    b.tie(f"{relay}.com", f"{twelve}.plus")
    b.ties(valve, plus=f"{relay}.no", minus=f"{twelve}.zero")


@right
def servos_on_bars(b: Bench) -> None:
    ground, power, brick = b.part("ground-bar"), b.part("power-bar"), b.brick()
    b.tie(f"{ground}.bar", b.ground)
    b.ties(power, plus=f"{brick}.plus", minus=f"{brick}.zero")
    for k in (1, 2):
        servo = b.part("micro-servo", f"servo {k}")
        b.ties(servo, power=f"{power}.plus", ground=f"{ground}.bar", signal=b.with_job("pwm"))


@right
def ground_at_the_next_module(b: Bench) -> None:
    pins, one, other = b.bus("i2c", "sda", "scl"), b.part("i2c-thermometer"), b.part("oled-display")
    b.ties(one, vcc=b.logic, gnd=b.ground)
    b.ties(other, vcc=b.holds(b.logic, 3.0), gnd=f"{one}.gnd")
    b.i2c(one, pins)
    b.i2c(other, pins)


@right
def buttons_with_one_common_cord(b: Bench) -> None:
    one, other = b.part("push-button", "one"), b.part("push-button", "other")
    for button in (one, other):
        b.tie(f"{button}.contact", b.pin(pulls="up"), pull="up")
    b.tie(f"{one}.common", b.ground)
    b.tie(f"{other}.common", f"{one}.common")


@right
def servo_on_rechargeable_cells(b: Bench) -> None:
    cells, servo = b.part("cell-pack", cells="4 rechargeable"), b.part("micro-servo")
    b.tie(f"{cells}.minus", b.ground)
    b.ties(servo, power=f"{cells}.plus", ground=f"{cells}.minus", signal=b.with_job("pwm"))


@right
def board_fed_by_a_converter_at_its_pin(b: Bench) -> None:
    if b.board.rails[b.board.pins[split(b.five)[1]].rail].own_worst_a > 2.0:
        raise Cannot("a board that the converter can feed")
    brick, buck = b.brick("brick-12v", 2.0), b.part("buck-converter", volts="5 V")
    b.ties(buck, **{"in": f"{brick}.plus", "gnd": b.ground})
    b.tie(f"{buck}.out", b.five, Fuse(2.0))


@right
def clock_with_its_square_wave(b: Bench) -> None:
    clock = b.part("clock")
    b.ties(clock, vcc=b.holds(b.logic, 3.0), gnd=b.ground)
    b.i2c(clock)
    b.tie(f"{clock}.sqw", b.pin(pulls="up"), pull="up")


@right
def inertial_sensor_that_calls(b: Bench) -> None:
    if b.is_5v:
        raise Cannot("lines of 3.3 V")
    sensor = b.part("inertial-sensor")
    b.ties(sensor, vcc=b.three, gnd=b.ground, int=b.pin())
    b.i2c(sensor)


@right
def memory_on_a_bus(b: Bench) -> None:
    memory = b.part("eeprom")
    b.ties(memory, vcc=b.logic, gnd=b.ground)
    b.i2c(memory)


@right
def series_resistors_that_protect_a_bus(b: Bench) -> None:
    part, pins = b.part("i2c-thermometer"), b.bus("i2c", "sda", "scl")
    b.ties(part, vcc=b.logic, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], R(100.0))


@right
def memory_and_converter_on_one_bus(b: Bench) -> None:
    if b.is_5v:
        raise Cannot("lines of 3.3 V")
    pins, flash, adc = b.bus("spi", "mosi", "miso", "sclk", "select"), b.part("spi-flash"), b.part("spi-adc")
    b.tie(f"{flash}.cs", pins["select"], PullUp(10e3, rail=b.three))
    b.ties(flash, vcc=b.three, gnd=b.ground, clk=pins["sclk"], di=pins["mosi"], do=pins["miso"])
    b.tie(f"{adc}.cs", b.pin(), PullUp(10e3, rail=b.three))
    b.ties(adc, vdd=b.three, agnd=b.ground, clk=pins["sclk"], din=pins["mosi"], dout=pins["miso"])


@right
def spi_display(b: Bench) -> None:
    if b.is_5v:
        raise Cannot("lines of 3.3 V")
    pins, display = b.bus("spi", "mosi", "sclk", "select"), b.part("spi-display")
    b.ties(display, vcc=b.three, gnd=b.ground, bl=b.three, dc=b.pin(), rst=b.pin())
    b.ties(display, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"])


@right
def fan_of_twelve_volts_on_a_mosfet(b: Bench) -> None:
    brick, fan, fet = b.brick("brick-12v", 2.0), b.part("fan", style="12 V, two wires"), _mosfet(b)
    b.tie(f"{fan}.plus", f"{brick}.plus")
    b.tie(f"{fan}.minus", f"{fet}.drain", Clamp(rail=f"{brick}.plus"))


@right
def sensor_on_a_regulator(b: Bench) -> None:
    brick, regulator, sensor = (
        b.brick("brick-12v", 2.0),
        b.part("linear-regulator", volts="5 V"),
        b.part("motion-sensor"),
    )
    b.tie(f"{regulator}.in", f"{brick}.plus", Capacitor(330e-9, 25.0))
    b.tie(f"{regulator}.gnd", b.ground)
    b.ties(sensor, vcc=f"{regulator}.out", gnd=b.ground, out=b.pin())


@right
def two_step_drivers(b: Bench) -> None:
    brick = b.brick("brick-12v", 4.0)
    for k in (1, 2):
        hub, motor = b.part("step-driver", f"driver {k}"), b.part("bipolar-stepper", f"motor {k}")
        b.ties(hub, vdd=b.holds(b.logic, 3.0), gnd=b.ground, step=b.pin(safe="off when low"), dir=b.pin())
        b.tie(f"{hub}.vmot", f"{brick}.plus", Capacitor(100e-6, 25.0))
        for lead in ("a1", "a2", "b1", "b2"):
            b.tie(f"{motor}.{lead}", f"{hub}.{lead}")


@right
def clip_pixels_one_after_another(b: Bench) -> None:
    brick, before = b.brick(), ""
    for k in range(3):
        pixel = b.part("clip-pixel", f"pixel {k}")
        b.ties(pixel, vdd=f"{brick}.plus", gnd=f"{brick}.zero")
        if before:
            b.tie(f"{pixel}.din", f"{before}.dout")
        else:
            b.tie(f"{pixel}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))
        before = pixel


@right
def bare_piezo_disc(b: Bench) -> None:
    disc = b.part("buzzer", style="bare piezo disc")
    b.tie(f"{disc}.plus", b.with_job("pwm"), R(220.0))
    b.tie(f"{disc}.minus", b.ground)


@right
def two_buttons_on_an_input_register(b: Bench) -> None:
    pins, register = b.bus("spi", "miso", "sclk", "select"), b.part("input-register")
    b.ties(register, vcc=b.logic, gnd=b.ground)
    b.ties(register, clk=pins["sclk"], load=pins["select"], qh=pins["miso"])
    for k in (0, 1):
        button = b.part("push-button", f"button {k}")
        b.tie(f"{button}.contact", f"{register}.d{k}", pull_up(b, 10e3))
        b.tie(f"{button}.common", b.ground)


@right
def board_fed_past_its_socket(b: Bench) -> None:
    """Worth a note, and a fuse."""
    brick = b.brick("brick-5v", 4.0)
    b.tie(f"{brick}.plus", b.five)


@right
def regulator_on_six_cells(b: Bench) -> None:
    """It drops out when the cells are nearly empty, as it has to."""
    cells, regulator, sensor = (
        b.part("cell-pack", cells="6 alkaline"),
        b.part("linear-regulator", volts="5 V"),
        b.part("motion-sensor"),
    )
    b.tie(f"{cells}.minus", b.ground)
    b.tie(f"{regulator}.in", f"{cells}.plus", Capacitor(330e-9, 16.0))
    b.tie(f"{regulator}.gnd", b.ground)
    b.ties(sensor, vcc=f"{regulator}.out", gnd=b.ground, out=b.pin())


@right
def sensor_on_the_closed_contact(b: Bench) -> None:
    """It measures while no program runs, and nobody minds."""
    module, sensor = _module(b), b.part("motion-sensor")
    b.tie(f"{module}.com1", b.five)
    b.ties(sensor, vcc=f"{module}.nc1", gnd=b.ground, out=b.pin())
