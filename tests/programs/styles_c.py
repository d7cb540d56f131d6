"""Programs in C, C++ and Devicetree source."""

from tests.programs.facts import Facts, Line


def _low(x: Line) -> str:
    return "true" if x.active_low else "false"


def first_generation(f: Facts) -> dict[str, str]:
    """Macros, and a line got for each."""
    text = "#include <gpiod.h>\n#include <unistd.h>\n\n" + "".join(
        f"#define {x.name}_LINE {x.number}u\n" for x in f.lines
    )
    text += '\nint main(void)\n{\n    struct gpiod_chip *chip = gpiod_chip_open("/dev/gpiochip0");\n'
    for x in f.lines:
        v = x.name.lower()
        text += f"    struct gpiod_line *{v} = gpiod_chip_get_line(chip, {x.name}_LINE);\n"
        if x.output and x.active_low:
            text += (
                f'    gpiod_line_request_output_flags({v}, "{v}", GPIOD_LINE_REQUEST_FLAG_ACTIVE_LOW, 0);\n'
            )
        elif x.output:
            text += f'    gpiod_line_request_output({v}, "{v}", 0);\n'
        else:
            flags = f"GPIOD_LINE_REQUEST_FLAG_BIAS_PULL_{x.pull.upper()}" if x.pull != "none" else "0"
            text += f'    gpiod_line_request_input_flags({v}, "{v}", {flags});\n'
    v = f.outputs[0].name.lower()
    us = round(f.wait_s * 1e6)
    text += f"    for (;;) {{\n        gpiod_line_set_value({v}, 1);\n        usleep({us});\n"
    text += f"        gpiod_line_set_value({v}, 0);\n        usleep({us});\n    }}\n}}\n"
    return {"main.c": text}


def second_generation(f: Facts) -> dict[str, str]:
    """An enumeration, and a function that requests."""
    text = (
        "#include <gpiod.h>\n\nenum line {\n"
        + "".join(f"    {x.name} = {x.number},\n" for x in f.lines)
        + "};\n\n"
    )
    text += (
        "static void ask(struct gpiod_line_config *config, unsigned int offset, int way, int bias, "
        "bool low)\n{\n"
        "    struct gpiod_line_settings *settings = gpiod_line_settings_new();\n"
        "    gpiod_line_settings_set_direction(settings, way);\n    "
        "gpiod_line_settings_set_bias(settings, bias);\n"
        "    gpiod_line_settings_set_active_low(settings, low);\n"
        "    gpiod_line_config_add_line_settings(config, &offset, 1, settings);\n}\n\nint main(void)\n{\n"
        "    struct gpiod_line_config *config = gpiod_line_config_new();\n"
    )
    for x in f.lines:
        way = "GPIOD_LINE_DIRECTION_OUTPUT" if x.output else "GPIOD_LINE_DIRECTION_INPUT"
        bias = "GPIOD_LINE_BIAS_DISABLED" if x.pull == "none" else f"GPIOD_LINE_BIAS_PULL_{x.pull.upper()}"
        text += f"    ask(config, {x.name}, {way}, {bias}, {_low(x)});\n"
    return {"main.c": text + "    return 0;\n}\n"}


def structures(f: Facts) -> dict[str, str]:
    """An array of structures, gone through."""
    text = (
        "#include <gpiod.h>\n\nstruct out {\n    const char *name;\n    int pin;\n};\n\nstatic const "
        "struct out outs[] = {\n"
    )
    text += "".join(
        f'    {{ .name = "{x.name.lower()}", .pin = {x.number} }},\n' for x in f.outputs if not x.active_low
    )
    text += (
        "};\n\nint main(void)\n{\n    struct gpiod_chip *chip = gpiod_chip_open_by_number(0);\n"
        "    for (unsigned i = 0; i < sizeof(outs) / sizeof(outs[0]); i++) {\n"
        "        struct gpiod_line *line = gpiod_chip_get_line(chip, outs[i].pin);\n"
        "        gpiod_line_request_output(line, outs[i].name, 0);\n    }\n    return 0;\n}\n"
    )
    return {"main.c": text}


def bus(f: Facts) -> dict[str, str]:
    """Devices on I2C over the device node."""
    text = "#include <fcntl.h>\n#include <linux/i2c-dev.h>\n#include <sys/ioctl.h>\n\n"
    text += "".join(f"#define {d.name}_ADDR 0x{d.address:02X}\n" for d in f.devices)
    text += "\nint main(void)\n{\n"
    for number in dict.fromkeys(d.bus for d in f.devices):
        text += f'    int bus{number} = open("/dev/i2c-{number}", O_RDWR);\n'
    text += "".join(f"    ioctl(bus{d.bus}, I2C_SLAVE, {d.name}_ADDR);\n" for d in f.devices)
    return {"main.c": text + "    return 0;\n}\n"}


def objects(f: Facts) -> dict[str, str]:
    """C++: a class around a line, objects with their pins."""
    text = (
        "#include <gpiod.h>\n#include <unistd.h>\n\nclass Output {\npublic:\n"
        "    explicit Output(int pin, bool low = false) : pin_(pin)\n    {\n"
        "        line_ = gpiod_chip_get_line(chip, pin_);\n"
        '        gpiod_line_request_output_flags(line_, "out", low ? GPIOD_LINE_REQUEST_FLAG_ACTIVE_LOW : 0, 0);\n    }\n'
        "    void on() { gpiod_line_set_value(line_, 1); }\n    void off() "
        "{ gpiod_line_set_value(line_, 0); }\n\n"
        "private:\n    int pin_;\n    gpiod_line *line_;\n};\n\n"
    )
    for x in f.outputs:
        if not x.active_low:
            text += f"Output {x.name.lower()}({x.number});\n"
    plain = [x for x in f.outputs if not x.active_low]
    if plain:
        v = plain[0].name.lower()
        text += f"\nint main()\n{{\n    {v}.on();\n    usleep({round(f.wait_s * 1e6)});\n    {v}.off();\n}}\n"
    return {"main.cpp": text}


def namespaces(f: Facts) -> dict[str, str]:
    """C++: constants in a namespace, a loop over a list."""
    text = "#include <gpiod.h>\n\nnamespace pins {\n"
    text += "".join(f"constexpr int {x.name.lower()} = {x.number};\n" for x in f.lines) + "}\n\n"
    outs = ", ".join(f"pins::{x.name.lower()}" for x in f.outputs if not x.active_low)
    text += f"int main()\n{{\n    for (int pin : {{{outs}}}) {{\n        auto *line = gpiod_chip_get_line(chip, pin);\n"
    text += '        gpiod_line_request_output(line, "x", 0);\n    }\n'
    for x in f.inputs:
        flags = f"GPIOD_LINE_REQUEST_FLAG_BIAS_PULL_{x.pull.upper()}" if x.pull != "none" else "0"
        text += f'    gpiod_line_request_input_flags(gpiod_chip_get_line(chip, pins::{x.name.lower()}), "in", {flags});\n'
    return {"main.cpp": text + "}\n"}


def motor(f: Facts) -> dict[str, str]:
    """C: coils in an array, steps as a macro."""
    coils = ", ".join(f.coils)
    text = "#include <gpiod.h>\n\n" + "".join(f"#define {n} {f.line(n).number}\n" for n in f.coils)
    text += "".join(f"static const int {name.lower()}_steps_per_rev = {n};\n" for name, n in f.steps.items())
    if coils:
        text += f"static const unsigned int coils[4] = {{ {coils} }};\n\nint main(void)\n{{\n"
        text += '    for (int k = 0; k < 4; k++)\n        gpiod_line_request_output(gpiod_chip_get_line(chip, coils[k]), "m", 0);\n}\n'
    return {"main.c": text}


def own(f: Facts) -> dict[str, str]:
    """The maker's own library, with a header of constants."""
    pins = "#ifndef PINS_H\n#define PINS_H\n" + "".join(
        f"#define {x.name}_PIN ({x.number})\n" for x in f.lines
    )
    pins += "".join(f"#define {name}_STEPS_PER_TURN {n}L\n" for name, n in f.steps.items())
    pins += "".join(f"#define {d.name}_ADDRESS 0x{d.address:X}\n" for d in f.devices) + "#endif\n"
    main = '#include "board_io.h"\n#include "pins.h"\n\nvoid setup(void)\n{\n'
    for x in f.lines:
        way = "IO_OUT" if x.output else ("IO_IN" if x.pull == "none" else f"IO_IN_PULL_{x.pull.upper()}")
        main += f"    io_make({x.name}_PIN, {way});\n"
    main += "".join(f"    io_speak_to({d.name}_ADDRESS);\n" for d in f.devices) + "}\n"
    if f.outputs:
        x = f.outputs[0]
        on, off = ("0", "1") if x.active_low else ("1", "0")
        main += f"\nvoid {x.name.lower()}_on(void)\n{{\n    io_set({x.name}_PIN, {on});\n}}\n"
        main += f"\nvoid {x.name.lower()}_off(void)\n{{\n    io_set({x.name}_PIN, {off});\n}}\n"
        main += f"\nvoid loop(void)\n{{\n    {x.name.lower()}_on();\n    wait_ms({round(f.wait_s * 1000)});\n"
        main += f"    {x.name.lower()}_off();\n    wait_ms({round(f.wait_s * 1000)});\n}}\n"
    return {"pins.h": pins, "main.c": main}


def own_objects(f: Facts) -> dict[str, str]:
    """C++ with the maker's own library: objects, enumerations."""
    text = (
        '#include "board_io.h"\n\nenum class Pin : int {\n'
        + "".join(f"    {x.name} = {x.number},\n" for x in f.lines)
        + "};\n\n"
    )
    text += "struct Switch {\n    int pin;\n    Switch(Pin p) : pin(static_cast<int>(p)) { io_make(pin, IO_OUT); }\n};\n\n"
    text += "".join(f"Switch {x.name.lower()}{{Pin::{x.name}}};\n" for x in f.outputs)
    text += "\nvoid setup()\n{\n"
    for x in f.inputs:
        way = "IO_IN" if x.pull == "none" else f"IO_IN_PULL_{x.pull.upper()}"
        text += f"    io_make(static_cast<int>(Pin::{x.name}), {way});\n"
    return {"main.cpp": text + "}\n"}


def own_list(f: Facts) -> dict[str, str]:
    """C with bare numbers in an array whose comment says what they are; names come from variables."""
    text = '#include "board_io.h"\n\n'
    text += "".join(f"static uint8_t const {x.name.lower()} = {x.number};\n" for x in f.lines)
    outs = ", ".join(x.name.lower() for x in f.outputs)
    text += f"static const uint8_t outputs[] = {{ {outs} }};\n\nint main(void)\n{{\n"
    text += f"    for (uint8_t i = 0; i < {len(f.outputs)}; ++i)\n        io_make(outputs[i], IO_OUT);\n"
    for x in f.inputs:
        way = "IO_IN" if x.pull == "none" else f"IO_IN_PULL_{x.pull.upper()}"
        text += f"    io_make({x.name.lower()}, {way});\n"
    return {"main.c": text + "}\n"}


def devicetree(f: Facts) -> dict[str, str]:
    """Lights, keys and devices on a bus."""
    text = "/dts-v1/;\n/plugin/;\n\n#include <dt-bindings/gpio/gpio.h>\n\n"
    text += "".join(f"#define {x.name} {x.number}\n" for x in f.lines)
    text += '\n/ {\n\tleds {\n\t\tcompatible = "gpio-leds";\n'
    for x in f.outputs:
        flag = "GPIO_ACTIVE_LOW" if x.active_low else "GPIO_ACTIVE_HIGH"
        node = x.name.lower().replace("_", "-")
        text += f'\t\t{node} {{ label = "{node}"; gpios = <&gpio0 {x.name} {flag}>; }};\n'
    text += '\t};\n\tkeys {\n\t\tcompatible = "gpio-keys";\n'
    for x in f.inputs:
        flag = "GPIO_ACTIVE_LOW | GPIO_PULL_UP" if x.pull == "up" else "GPIO_ACTIVE_HIGH"
        node = x.name.lower().replace("_", "-")
        text += (
            f'\t\t{node} {{ label = "{node}"; linux,code = <28>; gpios = <&gpio0 {x.name} ({flag})>; }};\n'
        )
    text += "\t};\n};\n"
    for number in dict.fromkeys(d.bus for d in f.devices):
        text += f'&i2c{number} {{\n\tstatus = "okay";\n'
        for d in f.devices:
            if d.bus == number:
                text += f'\t{d.name.lower()}: sensor@{d.address:x} {{ compatible = "own,thing"; reg = <0x{d.address:x}>; }};\n'
        text += "};\n"
    return {"bench.dts": text}


LINUX = (first_generation, second_generation, structures, objects, namespaces, devicetree)
BUSES = (bus,)
MOTORS = (motor,)
OWN = (own, own_objects, own_list)


def own_structures(f: Facts) -> dict[str, str]:
    """C: an array of structures without field names, gone through by a function."""
    text = '#include "board_io.h"\n\ntypedef struct { const char *name; unsigned char pin; } line_t;\n\n'
    text += (
        "static const line_t outs[] = {\n"
        + "".join(f'    {{ "{x.name.lower()}", {x.number} }},\n' for x in f.outputs)
        + "};\n\n"
    )
    text += (
        "static void each(const line_t *line)\n{\n    io_make(line->pin, IO_OUT);\n}\n\nint main(void)\n{\n"
    )
    text += f"    for (int i = 0; i < {len(f.outputs)}; i++)\n        each(&outs[i]);\n"
    for x in f.inputs:
        way = "IO_IN" if x.pull == "none" else f"IO_IN_PULL_{x.pull.upper()}"
        text += f"    const int {x.name.lower()} = {x.number};\n    io_make({x.name.lower()}, {way});\n"
    return {"main.c": text + "    return 0;\n}\n"}


def own_macros(f: Facts) -> dict[str, str]:
    """C: macros made of macros, in a header of their own, behind a condition."""
    header = "#pragma once\n#define BASE 2\n#ifndef BOARD_B\n"
    header += (
        "".join(f"#define PIN_{x.name} (BASE + {x.number - 2}) /* {x.name.lower()} */\n" for x in f.lines)
        + "#endif\n"
    )
    text = '#include "pins.h"\n#include "board_io.h"\n\nvoid begin(void)\n{\n'
    for x in f.lines:
        way = "IO_OUT" if x.output else ("IO_IN" if x.pull == "none" else f"IO_IN_PULL_{x.pull.upper()}")
        text += f"    io_make((unsigned char)PIN_{x.name}, {way});\n"
    return {"pins.h": header, "main.c": text + "}\n"}


OWN = (own, own_objects, own_list, own_structures, own_macros)
