"""Programs in Python."""

from tests.programs.facts import Facts, Line


def _settings(x: Line) -> str:
    said = [f"direction=Direction.{'OUTPUT' if x.output else 'INPUT'}"]
    if x.active_low:
        said.append("active_low=True")
    if x.pull != "none":
        said.append(f"bias=Bias.PULL_{x.pull.upper()}")
    return f"gpiod.LineSettings({', '.join(said)})"


HEAD = "import time\n\nimport gpiod\nfrom gpiod.line import Bias, Direction, Value\n\n"


def _blink(name: str, wait_s: float) -> str:
    return (
        f"    while True:\n        lines.set_value({name}, Value.ACTIVE)\n        time.sleep({wait_s})\n"
        f"        lines.set_value({name}, Value.INACTIVE)\n        time.sleep({wait_s})\n"
    )


def constants(f: Facts) -> dict[str, str]:
    """Constants above, one request with a dictionary."""
    text = HEAD + "".join(f"{x.name} = {x.number}\n" for x in f.lines)
    text += "\nCONFIG = {\n" + "".join(f"    {x.name}: {_settings(x)},\n" for x in f.lines) + "}\n\n"
    text += 'with gpiod.request_lines("/dev/gpiochip0", consumer="bench", config=CONFIG) as lines:\n'
    text += _blink(f.outputs[0].name, f.wait_s)
    return {"main.py": text}


def literal(f: Facts) -> dict[str, str]:
    """Bare numbers; what a line is for stands in its user's name."""
    text = HEAD
    for x in f.lines:
        user = x.name.lower().replace("_", " ")
        text += f'{x.name.lower()} = gpiod.request_lines("/dev/gpiochip0", consumer="{user}", '
        text += f"config={{{x.number}: {_settings(x)}}})\n"
    return {"main.py": text}


def wrapped(f: Facts) -> dict[str, str]:
    """A class of the maker's around a line."""
    text = HEAD + (
        "class Output:\n    def __init__(self, pin, low=False):\n        self.pin = pin\n"
        "        settings = gpiod.LineSettings(direction=Direction.OUTPUT, active_low=low)\n"
        '        self.lines = gpiod.request_lines("/dev/gpiochip0", config={pin: settings})\n\n'
        "    def on(self):\n        self.lines.set_value(self.pin, Value.ACTIVE)\n\n"
        "    def off(self):\n        self.lines.set_value(self.pin, Value.INACTIVE)\n\n\n"
    )
    for x in f.outputs:
        text += f"{x.name.lower()} = Output({x.number}{', low=True' if x.active_low else ''})\n"
    first = f.outputs[0].name.lower()
    text += f"\n{first}.on()\ntime.sleep({f.wait_s})\n{first}.off()\n"
    return {"main.py": text}


def enumeration(f: Facts) -> dict[str, str]:
    """An enumeration, and loops over lists of it."""
    text = HEAD + "from enum import IntEnum\n\n\nclass Pin(IntEnum):\n"
    text += "".join(f"    {x.name} = {x.number}\n" for x in f.lines)
    for low in (False, True):
        names = ", ".join(f"Pin.{x.name}" for x in f.outputs if x.active_low == low)
        if names:
            settings = f"gpiod.LineSettings(direction=Direction.OUTPUT, active_low={low})"
            text += f"\n\nfor pin in [{names}]:\n    gpiod.request_lines('/dev/gpiochip0', config={{pin: {settings}}})\n"
    return {"main.py": text}


def table(f: Facts) -> dict[str, str]:
    """A dictionary of names, gone through."""
    rows = "".join(f'    "{x.name.lower()}": {x.number},\n' for x in f.outputs if not x.active_low)
    text = HEAD + "PINS = {\n" + rows + "}\n\n"
    text += (
        "settings = gpiod.LineSettings(direction=Direction.OUTPUT)\nchip = gpiod.Chip('/dev/gpiochip0')\n"
        "lines = chip.request_lines(config={pin: settings for pin in PINS.values()}, consumer='table')\n"
        "for name, pin in PINS.items():\n    lines.set_value(pin, Value.INACTIVE)\n"
    )
    return {"main.py": text}


def reckoned(f: Facts) -> dict[str, str]:
    """Numbers that are sums, taken apart from a tuple."""
    names = ", ".join(x.name for x in f.lines)
    sums = ", ".join(
        f"BANK + {x.number - 32}" if x.number >= 32 else f"BANK - {32 - x.number}" for x in f.lines
    )
    text = HEAD + f"BANK = 0x20\n{names} = {sums}\n\ndef ask(pin, settings):\n"
    text += "    return gpiod.request_lines('/dev/gpiochip0', consumer='me', config={pin: settings})\n\n\ndef main():\n"
    text += "".join(f"    ask({x.name}, {_settings(x)})\n" for x in f.lines)
    return {"main.py": text + "\n\nif __name__ == '__main__':\n    main()\n"}


def two_files(f: Facts) -> dict[str, str]:
    """Constants in a module of their own."""
    pins = "".join(f"{x.name}_PIN = {x.number}\n" for x in f.lines)
    main = (
        HEAD
        + "import pins\n\n\n"
        + "".join(
            f"gpiod.request_lines('/dev/gpiochip0', config={{pins.{x.name}_PIN: {_settings(x)}}})\n"
            for x in f.lines
        )
    )
    return {"pins.py": pins, "main.py": main}


def bus(f: Facts) -> dict[str, str]:
    """Devices on I2C."""
    text = "from smbus2 import SMBus\n\n" + "".join(
        f"{d.name}_ADDRESS = 0x{d.address:02x}\n" for d in f.devices
    )
    for number in dict.fromkeys(d.bus for d in f.devices):
        text += f"\nwith SMBus({number}) as bus{number}:\n"
        text += "".join(
            f"    bus{number}.read_byte_data({d.name}_ADDRESS, 0)\n" for d in f.devices if d.bus == number
        )
    return {"main.py": text}


def bus_class(f: Facts) -> dict[str, str]:
    """Devices as objects with their addresses."""
    text = (
        "import smbus2\n\n\nclass Device:\n    def __init__(self, bus, address):\n        self.bus, "
        "self.address = bus, address\n\n"
        "    def read(self, register):\n        return self.bus.read_byte_data(self.address, register)\n\n\n"
    )
    for d in f.devices:
        text += f"{d.name.lower()} = Device(smbus2.SMBus({d.bus}), {d.address})\n{d.name.lower()}.read(0)\n"
    return {"main.py": text}


def steps(f: Facts) -> dict[str, str]:
    """A motor: its coils and its steps."""
    coils = ", ".join(str(f.line(n).number) for n in f.coils)
    text = HEAD + "".join(f"{name}_STEPS_PER_TURN = {n}\n" for name, n in f.steps.items())
    if coils:
        text += f"COILS = ({coils})\nsettings = gpiod.LineSettings(direction=Direction.OUTPUT)\n"
        text += "motor = gpiod.request_lines('/dev/gpiochip0', config={pin: settings for pin in COILS})\n"
    return {"main.py": text}


def own(f: Facts) -> dict[str, str]:
    """The maker's own library."""
    text = "import board_io as io\n\n" + "".join(f"{x.name} = {x.number}\n" for x in f.lines) + "\n"
    for x in f.lines:
        pull = f", io.PULL_{x.pull.upper()}" if x.pull != "none" else ""
        text += f"io.make({x.name}, io.OUT)\n" if x.output else f"io.make({x.name}, io.IN{pull})\n"
    first = f.outputs[0] if f.outputs else None
    if first is not None:
        on, off = ("0", "1") if first.active_low else ("1", "0")
        text += f"\n\ndef {first.name.lower()}_on():\n    io.set({first.name}, {on})\n"
        text += f"\n\ndef {first.name.lower()}_off():\n    io.set({first.name}, {off})\n"
        text += (
            f"\n\n{first.name.lower()}_on()\nio.wait_ms({f.wait_s * 1000:g})\n{first.name.lower()}_off()\n"
        )
    text += "".join(f"{name}_STEPS_PER_TURN = {n}\n" for name, n in f.steps.items())
    text += f"PLACE_BAUD = {f.baud}\n" if f.baud else ""
    text += "".join(f"io.speak_to(0x{d.address:02x})  # {d.name.lower()}\n" for d in f.devices)
    return {"main.py": text}


LINUX = (constants, literal, wrapped, enumeration, table, reckoned, two_files)
BUSES = (bus, bus_class)
MOTORS = (steps,)
OWN = (own,)


def own_class(f: Facts) -> dict[str, str]:
    """A class with its pins as fields, set up in a loop over a list of pairs."""
    text = "import board_io\nfrom board_io import IN, OUT, PULL_UP, PULL_DOWN\n\n\nclass Bench:\n    def __init__(self):\n"
    text += "".join(f"        self.{x.name.lower()} = {x.number}\n" for x in f.lines)
    outs = ", ".join(f"self.{x.name.lower()}" for x in f.outputs)
    text += f"        for pin in ({outs},):\n            board_io.make(pin, OUT)\n" if outs else ""
    for x in f.inputs:
        pull = f", PULL_{x.pull.upper()}" if x.pull != "none" else ""
        text += f"        board_io.make(self.{x.name.lower()}, IN{pull})\n"
    return {"bench.py": text + "\n\nbench = Bench()\n"}


def own_pairs(f: Facts) -> dict[str, str]:
    """Tuples of a name and a number, taken apart; f-strings and comprehensions around."""
    rows = "".join(f'    ("{x.name.lower()}", {x.number}),\n' for x in f.outputs)
    text = (
        "import board_io as io\n\nOUTPUTS = [\n"
        + rows
        + "]\nDONE = [io.make(pin, io.OUT) for name, pin in OUTPUTS]\n"
    )
    for x in f.inputs:
        pull = f"io.PULL_{x.pull.upper()}" if x.pull != "none" else "None"
        text += f"{x.name.lower()} = {x.number}\nio.make({x.name.lower()}, io.IN, {pull})\nprint(f'{{{x.name.lower()}=}}')\n"
    return {"main.py": text}


def own_functions(f: Facts) -> dict[str, str]:
    """Functions with defaults, called with names; branches."""
    text = "import board_io as io\n\n\ndef output(pin, quiet=True):\n    if quiet:\n        io.make(pin, io.OUT)\n    else:\n        io.make(pin=pin, direction=io.OUT)\n    return pin\n\n\n"
    text += "def contact(pin, pull=None):\n    io.make(pin, io.IN, pull)\n    return pin\n\n\n"
    for x in f.outputs:
        text += f"{x.name} = output(pin={x.number})\n"
    for x in f.inputs:
        pull = f", pull=io.PULL_{x.pull.upper()}" if x.pull != "none" else ""
        text += f"{x.name} = contact({x.number}{pull})\n"
    return {"main.py": text}


OWN = (own, own_class, own_pairs, own_functions)
