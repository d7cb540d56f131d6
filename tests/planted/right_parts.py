"""Plans that an engineer would pass, on parts that the other lots leave out."""

from knotplan.core.plan.beads import Capacitor, LevelShifter, PullDown
from tests.planted.bench import Bench, Cannot, pull_up
from tests.planted.right import R, led_ohm, right, shifted
from tests.planted.wrong_boards import _watched
from tests.planted.wrong_parts import _five_volt_board, _on_i2c, _probe, _registered, _three_volt_board


@right
def character_display_on_a_board_of_five_volts(b: Bench) -> None:
    _five_volt_board(b)
    _on_i2c(b, "character-display", b.bus("i2c", "sda", "scl"), b.five)


@right
def character_display_behind_shifters(b: Bench) -> None:
    _three_volt_board(b)
    pins, part = b.bus("i2c", "sda", "scl"), b.part("character-display")
    b.ties(part, vcc=b.five, gnd=b.ground)
    for line in ("sda", "scl"):
        b.tie(f"{part}.{line}", pins[line], LevelShifter("mosfet", lead_rail=b.five, pin_rail=b.logic))


@right
def weather_on_one_bus(b: Bench) -> None:
    _three_volt_board(b)
    pins = b.bus("i2c", "sda", "scl")
    for kind in ("light-sensor", "pressure-sensor", "clock", "eeprom"):
        pulls = "fitted" if kind == "pressure-sensor" else "taken off"
        _on_i2c(b, kind, pins, b.holds(b.three, 3.0), pulls=pulls)


@right
def two_pressure_sensors_with_one_pad_bridged(b: Bench) -> None:
    _three_volt_board(b)
    pins = b.bus("i2c", "sda", "scl")
    _on_i2c(b, "pressure-sensor", pins, b.three, "indoors")
    _on_i2c(b, "pressure-sensor", pins, b.three, "outdoors", sdo="bridged")


@right
def clock_with_its_alarm(b: Bench) -> None:
    part = _on_i2c(b, "clock", b.bus("i2c", "sda", "scl"), b.holds(b.logic, 3.0))
    b.tie(f"{part}.sqw", b.pin(), pull_up(b, 10e3))


@right
def clock_with_its_alarm_at_an_inner_pull_up(b: Bench) -> None:
    part = _on_i2c(b, "clock", b.bus("i2c", "sda", "scl"), b.holds(b.logic, 3.0))
    b.tie(f"{part}.sqw", b.pin(pulls="up"), pull="up")


def _waits(b: Bench) -> None:
    """A controller that waits while a device holds the clock."""
    if not all(p.waits for p in b.board.peripherals.values()):
        raise Cannot("a controller that waits")


@right
def one_distance_sensor(b: Bench) -> None:
    _waits(b)
    part = _on_i2c(b, "distance-sensor", b.bus("i2c", "sda", "scl"), b.holds(b.logic, 3.0))
    b.tie(f"{part}.off", b.pin())


@right
def two_distance_sensors_one_of_which_is_kept_off(b: Bench) -> None:
    _waits(b)
    pins = b.bus("i2c", "sda", "scl")
    left = b.part("distance-sensor", "left", address=50)
    right_one = b.part("distance-sensor", "right", address=51)
    for part in (left, right_one):
        b.ties(part, vin=b.holds(b.logic, 3.0), gnd=b.ground)
        b.i2c(part, pins)
        b.tie(f"{part}.off", b.pin(3e-3, "off when low"), PullDown(1500.0))


@right
def knob_at_a_converter_of_its_own_rail(b: Bench) -> None:
    hub = _on_i2c(b, "adc-4", b.bus("i2c", "sda", "scl"), b.logic)
    knob = b.part("knob")
    b.ties(knob, top=b.logic, wiper=f"{hub}.a0", bottom=b.ground)


@right
def four_converters_of_four_addresses(b: Bench) -> None:
    pins = b.bus("i2c", "sda", "scl")
    for pad in ("GND", "VCC"):
        _on_i2c(b, "adc-4", pins, b.logic, f"adc {pad}", addr=pad)


@right
def colour_display(b: Bench) -> None:
    _three_volt_board(b)
    part, pins = b.part("spi-display"), b.bus("spi", "mosi", "sclk", "select")
    b.ties(part, vcc=b.three, gnd=b.ground, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"])
    b.ties(part, dc=b.pin(), rst=b.pin(), bl=b.three)


@right
def colour_display_that_is_dimmed(b: Bench) -> None:
    _three_volt_board(b)
    part, pins = b.part("spi-display"), b.bus("spi", "mosi", "sclk", "select")
    b.ties(part, vcc=b.three, gnd=b.ground, cs=pins["select"], clk=pins["sclk"], di=pins["mosi"])
    b.ties(part, dc=b.pin(), bl=b.with_job("pwm"))


@right
def colour_display_behind_buffers(b: Bench) -> None:
    _five_volt_board(b)
    part, pins = b.part("spi-display"), b.bus("spi", "mosi", "sclk", "select")
    regulator = b.part("linear-regulator", volts="3.3 V")
    b.tie(f"{regulator}.in", f"{b.brick('brick-12v')}.plus")
    b.tie(f"{regulator}.gnd", b.ground)
    supply = f"{regulator}.out"
    b.ties(part, vcc=supply, gnd=b.ground)
    leads = {"cs": pins["select"], "clk": pins["sclk"], "di": pins["mosi"], "dc": b.pin()}
    for lead, pin in leads.items():
        b.tie(f"{part}.{lead}", pin, LevelShifter("buffer", lead_rail=supply, pin_rail=b.logic))


@right
def probe_on_three_wires(b: Bench) -> None:
    _probe(b, b.bus("spi", "mosi", "miso", "sclk", "select"))


@right
def eight_inputs_on_a_register(b: Bench) -> None:
    _registered(b, b.bus("spi", "miso", "sclk", "select"), b.logic)


@right
def two_registers_in_a_chain_with_leds(b: Bench) -> None:
    pins = b.bus("spi", "mosi", "sclk", "select")
    first, second = b.part("shift-register", "first"), b.part("shift-register", "second")
    for hub, ser in ((first, pins["mosi"]), (second, f"{first}.qh")):
        b.ties(hub, vcc=b.logic, gnd=b.ground, ser=ser, srclk=pins["sclk"], rclk=pins["select"])
        b.tie(f"{hub}.oe", b.ground)
        for k in range(3):
            led = b.part("led", f"{hub} {k}")
            b.tie(f"{led}.anode", f"{hub}.q{k}", R(led_ohm(b, 3e-3)))
            b.tie(f"{led}.cathode", b.ground)


@right
def wheels_left_and_right(b: Bench) -> None:
    brick = b.brick(amps=4.0)
    for pin in (b.with_job("pwm"), b.with_job("pwm")):
        part = b.part("continuous-servo", f"wheel on {pin}")
        b.ties(part, signal=pin, power=f"{brick}.plus", ground=f"{brick}.zero")


@right
def strong_servo_with_a_big_capacitor(b: Bench) -> None:
    brick, part = b.brick(amps=4.0), b.part("standard-servo")
    b.ties(part, signal=b.with_job("pwm"), ground=f"{brick}.zero")
    b.tie(f"{part}.power", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.cord(f"{part}.power", 0.2, 0.5)
    b.cord(f"{part}.ground", 0.2, 0.5)


@right
def light_load_on_a_switch_module(b: Bench) -> None:
    brick, switch, valve = b.brick("brick-12v", 2.0), b.part("mosfet-switch"), b.part("valve")
    b.ties(switch, trig=b.pin(2e-3, "off when low"), gnd=b.ground, vin=f"{brick}.plus")
    b.ties(valve, plus=f"{switch}.vin", minus=f"{switch}.out")


@right
def dimmed_load_on_a_switch_module(b: Bench) -> None:
    brick, switch, motor = b.brick(), b.part("mosfet-switch"), b.part("dc-motor")
    b.ties(switch, trig=b.with_job("pwm", amps=2e-3), gnd=b.ground, vin=f"{brick}.plus")
    b.ties(motor, a=f"{switch}.vin", b=f"{switch}.out")


@right
def ring_on_the_board_of_five_volts(b: Bench) -> None:
    _five_volt_board(b)
    brick, ring = b.brick(), b.part("pixel-ring")
    b.tie(f"{ring}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{ring}.gnd", f"{brick}.zero")
    b.tie(f"{ring}.din", b.stream(), R(330.0))


@right
def ring_behind_a_buffer(b: Bench) -> None:
    _three_volt_board(b)
    brick, ring = b.brick(), b.part("pixel-ring")
    b.tie(f"{ring}.vdd", f"{brick}.plus", Capacitor(1e-3, 16.0))
    b.tie(f"{ring}.gnd", f"{brick}.zero")
    b.tie(f"{ring}.din", b.stream(), R(330.0), *shifted(b, f"{brick}.plus"))


@right
def clip_pixels_one_after_another(b: Bench) -> None:
    brick, first, second = b.brick(), b.part("clip-pixel", "first"), b.part("clip-pixel", "second")
    b.ties(first, vdd=f"{brick}.plus", gnd=f"{brick}.zero")
    b.tie(f"{first}.din", b.stream(), R(330.0), *([] if b.is_5v else shifted(b, f"{brick}.plus")))
    b.ties(second, vdd=f"{first}.vdd", gnd=f"{first}.gnd", din=f"{first}.dout")


@right
def radio_with_three_channels(b: Bench) -> None:
    if b.is_linux:
        raise Cannot("pins that measure time")
    radio = b.part("rc-receiver")
    b.ties(radio, plus=b.five, minus=b.ground)
    for k in (1, 2, 3):
        b.tie(f"{radio}.ch{k}", b.pin())


@right
def stick_with_its_button(b: Bench) -> None:
    stick = b.part("joystick")
    b.ties(stick, vcc=b.reference, gnd=b.ground, x=b.with_job("adc"), y=b.with_job("adc"))
    b.tie(f"{stick}.sw", b.pin(pulls="up"), pull="up")


@right
def switch_with_an_inner_pull_up(b: Bench) -> None:
    switch = b.part("switch")
    b.tie(f"{switch}.contact", b.pin(pulls="up"), pull="up")
    b.tie(f"{switch}.common", b.ground)


@right
def switch_to_the_rail_with_a_pull_down(b: Bench) -> None:
    switch = b.part("switch")
    b.tie(f"{switch}.contact", b.pin(), PullDown(10e3))
    b.tie(f"{switch}.common", b.logic)


@right
def switch_in_the_way_of_a_load(b: Bench) -> None:
    """A switch that the hand throws, between the brick and what it feeds."""
    brick, switch, motor = b.brick(), b.part("switch"), b.part("dc-motor")
    b.ties(switch, common=f"{brick}.plus", contact=f"{motor}.a")
    b.tie(f"{motor}.b", f"{brick}.zero")


@right
def plug_in_the_socket_for_it(b: Bench) -> None:
    for name, socket in b.board.sockets.items():
        for volts, most in (("5 V", 5.2), ("9 V", 9.4), ("12 V", 12.4)):
            least = {"5 V": 4.85, "9 V": 8.6, "12 V": 11.6}[volts]
            if socket.plug != "USB" and socket.volts.min <= least and most <= socket.volts.max:
                brick = b.part("plug-brick", volts=volts)
                b.tie(f"{brick}.plug", f"board.{name}")
                return
    raise Cannot("a socket for a barrel plug")


@right
def bars_between_a_brick_and_many(b: Bench) -> None:
    brick, bar = b.brick(amps=6.0), b.part("power-bar")
    b.ties(bar, plus=f"{brick}.plus", minus=f"{brick}.zero")
    b.cord(f"{bar}.plus", 0.2, 0.75)
    b.cord(f"{bar}.minus", 0.2, 0.75)
    for pin in (b.with_job("pwm"), b.with_job("pwm")):
        part = b.part("micro-servo", f"servo on {pin}")
        b.ties(part, signal=pin, power=f"{bar}.plus", ground=f"{bar}.minus")


@right
def speed_controller_on_cells(b: Bench) -> None:
    brick, part = b.brick("brick-12v", 20.0), b.part("motor-speed-controller")
    b.ties(part, signal=b.with_job("pwm", amps=3e-3), ground=f"{brick}.zero", battery=f"{brick}.plus")
    for lead in ("ground", "battery"):
        b.cord(f"{part}.{lead}", 0.2, 4.0)


@right
def fast_bus_for_fast_devices(b: Bench) -> None:
    from tests.planted.wrong_parts import _clocked

    pins = b.bus("i2c", "sda", "scl")
    _on_i2c(b, "clock", pins, b.holds(b.logic, 3.0))
    _clocked(b, 400e3)


@right
def sensor_straight_on_a_gate(b: Bench) -> None:
    """No program between, and no pull-down: the sensor's output holds the gate at all times."""
    output, fet = _watched(b, "logic level")
    b.tie(f"{fet}.gate", output, R(220.0))


@right
def gate_at_the_end_of_a_sensor_s_cord(b: Bench) -> None:
    output, fet = _watched(b, "logic level")
    b.tie(output, f"{fet}.gate", R(220.0))
