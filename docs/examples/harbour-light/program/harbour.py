"""A day at the harbour. Three things in it are not as planned: compare finds them."""

import time

import gpiod
import smbus2
from gpiod.line import Bias, Direction, Value

CHIP = "/dev/gpiochip0"
PIER_RED = 41
PIER_GREEN = 35  # counted on from the red one
HORN, BELL = 15, 33  # the horn as it is called on the header
DOOR = 38
TIDE_MARK = 40
LENS = (45, 59, 42, 47)
LENS_STEPS_PER_TURN = 2038

lights = gpiod.LineSettings(direction=Direction.OUTPUT)
relays = gpiod.LineSettings(direction=Direction.OUTPUT, active_low=True)
contacts = gpiod.LineSettings(direction=Direction.INPUT, bias=Bias.PULL_UP)
config = {PIER_RED: lights, PIER_GREEN: lights, HORN: relays, BELL: relays}
config |= {DOOR: contacts, TIDE_MARK: contacts}
config |= dict.fromkeys(LENS, lights)


def water(bus):
    """Degrees, from the thermometer in the water."""
    high, low = bus.read_i2c_block_data(0x90, 0, 2)
    return (high << 8 | low) / 256


def main():
    """Lights, and a bell at the door."""
    request = gpiod.request_lines(CHIP, consumer="harbour", config=config)
    with smbus2.SMBus(1) as bus, request as lines:
        while True:
            lines.set_value(PIER_RED, Value.ACTIVE)
            lines.set_value(PIER_GREEN, Value.ACTIVE)
            if lines.get_value(DOOR) == Value.ACTIVE:
                lines.set_value(BELL, Value.ACTIVE)
                time.sleep(0.5)
                lines.set_value(BELL, Value.INACTIVE)
            print(water(bus))
            time.sleep(1)


main()
