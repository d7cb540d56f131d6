"""Programs as people write them, for the demo: names in angle brackets are its pins, as the system counts
them."""

PINS = {"RED": 41, "GREEN": 34, "HORN": 43, "BELL": 33, "DOOR": 38, "MARK": 40}
OUTPUTS = ("RED", "GREEN", "HORN", "BELL")

DATACLASSES = '''
"""Lights as objects with a description."""
from dataclasses import dataclass, field
import gpiod
from gpiod.line import Direction, Value

@dataclass
class Light:
    line: int
    label: str = ""
    low: bool = False
    history: list = field(default_factory=list)

    def settings(self):
        return gpiod.LineSettings(direction=Direction.OUTPUT, active_low=self.low)

red_pier_light = Light(<RED>, "red pier light")
green_pier_light = Light(line=<GREEN>, label="green pier light")
horn = Light(<HORN>, "horn", low=True)
bell = Light(<BELL>, low=True, label="bell")
ALL = [red_pier_light, green_pier_light, horn, bell]
request = gpiod.request_lines("/dev/gpiochip0", consumer="pier", config={x.line: x.settings() for x in ALL})
for light in ALL:
    request.set_value(light.line, Value.ACTIVE)
'''

INT_ENUM = """
from enum import IntEnum, unique
import gpiod
from gpiod.line import Bias, Direction, Value

@unique
class Pin(IntEnum):
    PIER_RED = <RED>
    PIER_GREEN = <GREEN>
    HORN = <HORN>
    BELL = <BELL>
    DOOR = <DOOR>
    TIDE_MARK = <MARK>

def output(low=False):
    return gpiod.LineSettings(direction=Direction.OUTPUT, active_low=low, output_value=Value.INACTIVE)

def contact():
    return gpiod.LineSettings(direction=Direction.INPUT, bias=Bias.PULL_UP)

lines = gpiod.request_lines(
    "/dev/gpiochip0",
    config={
        Pin.PIER_RED: output(), Pin.PIER_GREEN: output(), Pin.HORN: output(low=True), Pin.BELL: output(True),
        Pin.DOOR: contact(), Pin.TIDE_MARK.value: contact(),
    },
)
print(lines.get_value(Pin.DOOR), lines.get_value(Pin.TIDE_MARK))
"""

SETTINGS_FILE = """
import logging
import time
import gpiod
from gpiod.line import Bias, Direction, Value

log = logging.getLogger(__name__)
BENCH = {
    "chip": "/dev/gpiochip0",
    "lights": {"pier_red": <RED>, "pier_green": <GREEN>},
    "relays": {"horn": <HORN>, "bell": <BELL>},
    "contacts": {"door": <DOOR>, "tide_mark": <MARK>},
    "seconds": 2.5,
}

class Bench:
    def __init__(self, settings):
        self.lights = settings["lights"]
        self.relays = settings["relays"]
        self.request = gpiod.request_lines(settings["chip"], config=self._config(settings))

    def _config(self, settings):
        config = {}
        for name, number in settings["lights"].items():
            log.info("light %s on %d", name, number)
            config[number] = gpiod.LineSettings(direction=Direction.OUTPUT)
        for number in settings["relays"].values():
            config[number] = gpiod.LineSettings(direction=Direction.OUTPUT, active_low=True)
        for number in settings["contacts"].values():
            config[number] = gpiod.LineSettings(direction=Direction.INPUT, bias=Bias.PULL_UP)
        return config

    def flash(self, name, times=3):
        number = self.lights[name]
        for _ in range(times):
            self.request.set_value(number, Value.ACTIVE)
            time.sleep(0.2)
            self.request.set_value(number, Value.INACTIVE)
            time.sleep(0.2)

bench = Bench(BENCH)
try:
    while True:
        bench.flash("pier_red", times=2)
        bench.flash("pier_green")
except KeyboardInterrupt:
    pass
finally:
    bench.request.release()
"""

DEFINES = """
/* One file, old style. */
#include <gpiod.h>
#include <stdio.h>
#include <stdlib.h>

#define CHIP "gpiochip0"
#define PIER_RED_LINE    <RED>u   /* cord brown */
#define PIER_GREEN_LINE  (<GREEN>)
#define HORN_LINE        <HORN>
#define BELL_LINE        <BELL>
#define DOOR_LINE        <DOOR>
#define TIDE_MARK_LINE   <MARK>
#ifndef NDEBUG
#define SAY(...) fprintf(stderr, __VA_ARGS__)
#else
#define SAY(...) ((void)0)
#endif

static struct gpiod_chip *chip;

static struct gpiod_line *out(unsigned offset, int low)
{
    struct gpiod_line *line = gpiod_chip_get_line(chip, offset);
    int flags = low ? GPIOD_LINE_REQUEST_FLAG_ACTIVE_LOW : 0;
    if (!line || gpiod_line_request_output_flags(line, "pier", flags, 0) < 0) {
        perror("line");
        exit(EXIT_FAILURE);
    }
    return line;
}

static struct gpiod_line *in(unsigned offset)
{
    struct gpiod_line *line = gpiod_chip_get_line(chip, offset);
    gpiod_line_request_input_flags(line, "pier", GPIOD_LINE_REQUEST_FLAG_BIAS_PULL_UP);
    return line;
}

int main(int argc, char **argv)
{
    chip = gpiod_chip_open_by_name(CHIP);
    struct gpiod_line *red = out(PIER_RED_LINE, 0), *green = out(PIER_GREEN_LINE, 0);
    struct gpiod_line *horn = out(HORN_LINE, 1), *bell = out(BELL_LINE, 1);
    struct gpiod_line *door = in(DOOR_LINE), *mark = in(TIDE_MARK_LINE);
    int times = argc > 1 ? atoi(argv[1]) : 10;
    while (times-- > 0) {
        SAY("%d left\\n", times);
        gpiod_line_set_value(red, gpiod_line_get_value(door));
        gpiod_line_set_value(green, gpiod_line_get_value(mark));
        gpiod_line_set_value(bell, 0);
        gpiod_line_set_value(horn, 0);
    }
    gpiod_chip_close(chip);
    return EXIT_SUCCESS;
}
"""

CPP_CONSTEXPR = """
// C++17 over the C interface, with a guard of its own.
#include <array>
#include <gpiod.h>
#include <memory>

namespace pins {
constexpr unsigned pier_red = <RED>;
constexpr unsigned pier_green = <GREEN>;
inline constexpr auto horn = <HORN>U;
static constexpr unsigned int bell{<BELL>};
constexpr unsigned door = <DOOR>, tide_mark = <MARK>;
}  // namespace pins

struct Close {
    void operator()(gpiod_chip *c) const { gpiod_chip_close(c); }
};
using Chip = std::unique_ptr<gpiod_chip, Close>;

class Output {
public:
    Output(gpiod_chip *chip, unsigned line, bool low = false)
        : line_(gpiod_chip_get_line(chip, line))
    {
        gpiod_line_request_output_flags(line_, "pier", low ? GPIOD_LINE_REQUEST_FLAG_ACTIVE_LOW : 0, 0);
    }
    void set(bool on) { gpiod_line_set_value(line_, on ? 1 : 0); }
    ~Output() { gpiod_line_release(line_); }

private:
    gpiod_line *line_;
};

class Contact {
public:
    Contact(gpiod_chip *chip, unsigned line) : line_{gpiod_chip_get_line(chip, line)}
    {
        gpiod_line_request_input_flags(line_, "pier", GPIOD_LINE_REQUEST_FLAG_BIAS_PULL_UP);
    }
    bool closed() const { return gpiod_line_get_value(line_) == 0; }

private:
    gpiod_line *line_;
};

int main()
{
    Chip chip{gpiod_chip_open("/dev/gpiochip0")};
    Output red(chip.get(), pins::pier_red);
    Output green{chip.get(), pins::pier_green};
    Output horn(chip.get(), pins::horn, true), bell(chip.get(), pins::bell, true);
    Contact door{chip.get(), pins::door};
    Contact mark(chip.get(), pins::tide_mark);
    for (;;) {
        red.set(door.closed());
        green.set(mark.closed());
    }
}
"""

DESIGNATED = """
#include <gpiod.h>

struct thing {
    const char *name;
    unsigned line;
    int low;
};

static const struct thing outputs[] = {
    { .name = "pier-red", .line = <RED> },
    { .name = "pier-green", .line = <GREEN>, .low = 0 },
    { .low = 1, .name = "horn", .line = <HORN> },
    { .name = "bell", .line = <BELL>, .low = 1 },
};

int main(void)
{
    struct gpiod_chip *chip = gpiod_chip_open_lookup("gpiochip0");
    for (unsigned k = 0; k < sizeof outputs / sizeof outputs[0]; k++) {
        const struct thing *t = &outputs[k];
        struct gpiod_line *line = gpiod_chip_get_line(chip, t->line);
        gpiod_line_request_output(line, t->name, 0);
    }
    return 0;
}
"""

OVERLAY = """
/dts-v1/;
/plugin/;
#include <dt-bindings/gpio/gpio.h>

&{/} {
    pier_leds: leds {
        compatible = "gpio-leds";
        pier-red { gpios = <&gpio0 <RED> GPIO_ACTIVE_HIGH>; default-state = "off"; };
        pier-green { gpios = <&gpio0 <GREEN> 0>; };
    };
    buttons {
        compatible = "gpio-keys";
        door { label = "door"; linux,code = <30>; gpios = <&gpio0 <DOOR> (GPIO_ACTIVE_LOW | GPIO_PULL_UP)>; };
    };
};
"""

PROGRAMS: dict[str, tuple[str, str]] = {
    "dataclasses": ("main.py", DATACLASSES),
    "int enum": ("main.py", INT_ENUM),
    "settings": ("bench.py", SETTINGS_FILE),
    "defines": ("main.c", DEFINES),
    "constexpr": ("main.cpp", CPP_CONSTEXPR),
    "designated": ("main.c", DESIGNATED),
    "overlay": ("pier.dts", OVERLAY),
}


def written(text: str, pins: dict[str, int]) -> str:
    """The program with these pins."""
    for name, number in pins.items():
        text = text.replace(f"<{name}>", str(number))
    return text
