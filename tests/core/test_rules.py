"""Each rule has a plan that breaks it and a good twin: exactly this is
found in the one, nothing in the other."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.check.rules import RULES, bus_lines, buses, serial, spi, timing
from knotplan.core.check.rules.rule import Rule, rule
from knotplan.core.text import buses as overview
from knotplan.core.text import timing_findings as about_time
from knotplan.examples import example

EXPECTED: dict[str, tuple[str, tuple[str, ...], str]] = {
    "pin-shared": (
        "stop",
        ("board.p11", "one.anode", "two.anode"),
        "One · anode and Two · anode are both on L9 (pos 11).",
    ),
    "need-unmet": (
        "stop",
        ("flag.signal", "board.p20"),
        "Flag · signal on L6 (pos 20): no pulse output.",
    ),
    "lead-untied": (
        "to-do",
        ("lamp.cathode",),
        "Lamp · cathode has to be tied.",
    ),
    "timer-shared": (
        "stop",
        ("flag.signal", "lamp.anode"),
        "Pulse pair a would have to give 50 Hz for Flag · signal and 1 kHz for Lamp · anode.",
    ),
    "short-circuit": (
        "stop",
        ("brick.plus", "flag.power"),
        "Brick · +5 V and ground are joined with nothing between.",
    ),
    "supplies-joined": (
        "stop",
        ("brick.plus",),
        "5 V rail (4.75 – 5.25 V) and Brick · +5 V (4.85 – 5.15 V) are joined with nothing between.",
    ),
    "no-common-ground": (
        "stop",
        ("brick",),
        "Brick feeds parts of this plan, but its 0 V is not joined to the board's ground.",
    ),
    "input-over-voltage": (
        "stop",
        ("board.p12", "door.contact"),
        "L14 (pos 12) sees 5 V, up to 5.25 V (L14 input, Door closed); it bears 3.6 V.",
    ),
    "output-level": (
        "stop",
        ("flag.signal", "board.p18"),
        "Flag · signal gets 1.7 V, at worst 1.21 V, when L3 (pos 18) is high; it needs at least 2.5 V.",
    ),
    "contact-unread": (
        "stop",
        ("door.contact", "board.p12"),
        "L14 (pos 12) sees 0 V while Door is open and 0 V while it is closed; low is below 990 mV, high "
        "above 2.31 V.",
    ),
    "led-no-resistor": (
        "stop",
        ("lamp",),
        "Lamp has no resistor: it would draw 29.4 mA, up to 48.6 mA; 5 mA is wished.",
    ),
    "led-current": (
        "care",
        ("lamp",),
        "Lamp gets 274 µA to 411 µA, typically 339 µA; below 500 µA it can hardly be seen.",
    ),
    "pin-over-absolute": (
        "stop",
        ("board.p11", "lamp.anode"),
        "L9 (pos 11) carries 24.4 mA, at worst 38 mA; it survives at most 16 mA.",
    ),
    "pin-over-recommended": (
        "care",
        ("board.p11", "lamp.anode"),
        "L9 (pos 11) carries 9.78 mA, at worst 13.1 mA; recommended are at most 12 mA.",
    ),
    "pins-over": (
        "stop",
        ("pins",),
        "Pins together: 66.3 mA usually, 86.6 mA at worst; the limit is 60 mA. The largest: L9 Light 0 · "
        "anode 9.62 mA, L2 Light 1 · anode 9.62 mA, L11 Light 2 · anode 9.62 mA.",
    ),
    "bank-over": (
        "stop",
        ("pa",),
        "Port PA: 106 mA usually, 131 mA at worst; the limit is 100 mA. The largest: D2 Light 0 · anode 16.3 "
        "mA, D3 Light 1 · anode 16.3 mA, D4 Light 2 · anode 16.3 mA.",
    ),
    "rail-over": (
        "care",
        ("5v",),
        "5 V rail: 227 mA usually, 493 mA at worst; the limit is 450 mA. The largest: Pump 0 160 mA, Pump 1 "
        "160 mA, Pump 2 160 mA.",
    ),
    "supply-over": (
        "care",
        ("usb-brick",),
        "USB brick: 603 mA usually, 1.2 A at worst; the limit is 1 A. The largest: Bowline 40 1.2 A, for the "
        "3.3 V rail 4.44 mA.",
    ),
    "jerky-load-on-board": (
        "stop",
        ("flag.power",),
        "Flag draws 650 mA when it starts or stalls. With 650 mA in all, the 5 V rail falls to 4.52 V; the "
        "board resets below 4.63 V.",
    ),
    "left-running": (
        "note",
        ("latch", "board.p15"),
        "Latch bears 10 s of being on, and L11 (pos 15) stays as it was when the program ends or crashes "
        "(the kernel gives a line back as it is; a program sets its outputs off before it ends).",
    ),
    "wakes-load": (
        "care",
        ("horn.in1", "board.p15"),
        "Horn may switch on at power-on: L11 (pos 15) is pulled down then, Horn · IN 1 is active low, and "
        "61.6 µA flow; it is off below 5 µA.",
    ),
    "floating-input": (
        "care",
        ("door.contact", "board.p12"),
        "Nothing holds L14 (pos 12) while Door is open.",
    ),
    "pin-reserved": (
        "care",
        (
            "lamp.anode",
            "board.p40",
        ),
        "Lamp · anode on L21 (pos 40): the system prints its start-up messages here and takes log-ins. To "
        "free it: turn the serial console off in the system's set-up, then restart.",
    ),
    "strap-level": (
        "stop",
        ("board.e3", "lamp.anode"),
        "G3 (pos E3) (boot mode) has to be high at start, above 2.48 V; otherwise the module waits for a new "
        "program instead of starting the one it has. With Lamp · anode it is 1.41 V (at power-on, G3 "
        "pull-up).",
    ),
    "peripheral-off": (
        "care",
        ("flag-1.signal",),
        "Flag 1 · signal cannot work before somebody switches on the pulse outputs. To do so: give the pulse "
        "pins their function in the system's header set-up, then restart.",
    ),
    "converter-blocked": (
        "stop",
        ("dial.wiper", "board.e2"),
        "Dial · wiper on G4 (pos E2) is measured by converter 2, which cannot be used while the radio is on.",
    ),
    "weak-pin": (
        "care",
        ("lamp.anode", "board.e22"),
        "PC0 (pos E22) gives 2 mA (weak: fed through the clock's supply switch, 3 mA and slow edges; one of "
        "the three at a time); Lamp · anode wants 5 mA.",
    ),
    "tolerance-lost": (
        "care",
        ("board.w7", "door.contact"),
        "PB6 (pos W7) sees 5.25 V while its own pull-up leads to the 3.3 V rail; it bears 5 V while its own "
        "pull is off.",
    ),
    "bus-mixed": (
        "stop",
        ("mast.sda", "mast.scl"),
        "Mast · SDA on L0 (I2C bus 0), Mast · SCL on L3 (I2C bus 1).",
    ),
    "remap-mixed": (
        "stop",
        ("flag-1.signal", "flag-2.signal"),
        "Timer 2 would have to be led to two groups of pins at once, for Flag 1 · signal on PA0 (pos E17) "
        "and Flag 2 · signal on PB3 (pos W10).",
    ),
    "pool-over": (
        "stop",
        ("flag-1.signal", "flag-2.signal", "flag-3.signal", "flag-4.signal"),
        "4 leads want one of the pulse channels; the board has 3.",
    ),
    "board-unfed": (
        "to-do",
        ("board.usb",),
        "No supply is planned. Board and parts draw up to 1.2 A: USB power socket can give that. "
        "Until then the budgets count as if USB power socket gave 3 A.",
    ),
    "supply-reversed": (
        "stop",
        ("brick.plus", "brick.zero"),
        "Brick · +5 V is joined to ground and Brick · 0 V to what has to be fed: the supply is the "
        "wrong way round.",
    ),
    "driver-missing": (
        "stop",
        ("latch", "latch.minus"),
        "Latch takes up to 450 mA and is tied straight to L9 (pos 11), which can bear 16 mA at most.",
    ),
    "clamp-missing": (
        "stop",
        ("bell.a2", "switch.collector"),
        "When Switch · collector switches off, Bell · A2 goes on driving 80.5 mA, 809 µJ stored, with "
        "nowhere to go.",
    ),
    "supplies-exchanged": (
        "stop",
        ("bridge.vcc", "bridge.vm"),
        "Bridge · VCC on Brick and Bridge · VM on 5 V rail: each would be right on the other's.",
    ),
    "uart-crossed": (
        "stop",
        ("place.tx", "place.rx"),
        "Place · TX and L12 (pos 4) both transmit, and Place · RX and L7 (pos 6) both receive: "
        "nothing that is sent is heard.",
    ),
    "address-clash": (
        "stop",
        ("inside", "outside"),
        "Inside and Outside both answer at 0x48.",
    ),
    "bead-loose": (
        "to-do",
        ("door.contact",),
        "The pull-up in Door · contact is not joined to a rail yet.",
    ),
    "led-reversed": (
        "stop",
        ("lamp.anode", "lamp.cathode"),
        "Lamp · anode is on GND (pos 5) and Lamp · cathode on L9 (pos 11): no current can flow.",
    ),
    "cannot-keep-time": (
        "stop",
        ("quay.din", "board.p11"),
        "Quay · DI on L9 (pos 11) has to be timed to 150 ns, which this pin cannot; L22 (pos 7), L14 "
        "(pos 12), L3 (pos 18), L8 (pos 24) and 1 more can.",
    ),
    "one-sided-sensor": (
        "stop",
        ("dusk.one", "board.w4"),
        "Dusk varies from 1 kΩ to 1 MΩ, but there is no second resistor at A0 (pos W4): the pin sees "
        "no change.",
    ),
    "part-level": (
        "stop",
        ("switch.gate", "watch.out"),
        "Switch · gate gets 3.3 V, at worst 3.3 V, when Watch · OUT is high; it reads high from 8 V.",
    ),
    "load-starved": (
        "care",
        ("bell.a1", "bell.a2"),
        "Bell gets 2.97 V of the 5 V that it is made for, and wants 3.5 V at least.",
    ),
    "component-missing": (
        "care",
        ("air.data",),
        "Air · DATA wants a 10 kΩ pull-up; 2.2 kΩ to 22 kΩ will do: between messages only a resistor holds "
        "the line high.",
    ),
    "pulse-unmeasured": (
        "stop",
        ("remote.out", "more-pins.p0"),
        "Remote · OUT on More pins · P 0 has to be measured to 50 µs, but it is read over I2C on "
        "G16, every 390 µs at best; G28 (pos W3), G29 (pos W4), G30 (pos W5), G31 (pos W6) and 12 "
        "more can.",
    ),
    "load-underfed": (
        "care",
        ("flag.power",),
        "Flag · power gets 4.26 V at worst and needs 4.8 V: 4.85 V are there, and 594 mV are lost on "
        "the way, 567 mV of that in its own cords (2 m, 0.14 mm² (AWG 24) there, 2 m, 0.5 mm² (AWG "
        "20) back).",
    ),
    "cord-hot": (
        "stop",
        ("quay.vdd",),
        "The cord of Quay · 5V (0.14 mm²) carries 2.16 A at worst and bears 1.9 A.",
    ),
    "chain-dim": (
        "care",
        ("quay",),
        "Quay, fed at its beginning, has 3.52 V left at its farthest pixel when all are white; it needs 3.7 "
        "V, which 2 feeds give.",
    ),
    "capacitor-rating": (
        "stop",
        ("quay.vdd",),
        "The 1 mF capacitor at Quay · 5V is made for 3 V and sees 5.15 V.",
    ),
    "fuse-wrong": (
        "care",
        ("flag.power",),
        "The 6.3 A fuse of Flag · power is above the 3.2 A that its cord bears.",
    ),
    "resistor-hot": (
        "care",
        ("lamp.anode",),
        "The 560 Ω resistor in Lamp · anode turns 220 mW into heat; it is made for 250 mW, and lasts "
        "with 50 % of that.",
    ),
    "back-fed": (
        "note",
        ("quay.din",),
        "While Brick is off, 11 mA flow through Quay · DI into it, which rises to 285 mV.",
    ),
    "switch-half-open": (
        "stop",
        ("switch.collector",),
        "Switch · collector keeps up to 10.7 V for itself while it carries 93.7 mA: 1 W of heat, and its "
        "base gets too little.",
    ),
    "regulator-hot": (
        "care",
        ("five",),
        "Five volts turns 4.8 W into heat at worst, at 650 mA: it would reach 343 °C and switches off at 125 "
        "°C.",
    ),
    "activities-meet": (
        "care",
        ("flag", "pennant"),
        "Horn sounds and Flag waves exclude one another, and both go on at 5 s of the cycle.",
    ),
    "scale-missing": (
        "care",
        ("knob.wiper",),
        "Knob · wiper reaches 3.3 V, and 10-bit converter measures against 5 V: only 66 % of the scale are "
        "in use.",
    ),
    "source-weak": (
        "note",
        ("dusk.one",),
        "Dusk · one end is a source of up to 31.9 kΩ; 10-bit converter wants 10 kΩ at most, or a capacitor "
        "at its pin.",
    ),
    "wakes-at-taken": (
        "stop",
        ("far", "near"),
        "At power-on Far answers at 0x29, and Near answers there too: the program cannot tell one from the "
        "other.",
    ),
    "bus-unpulled": (
        "stop",
        ("inside.sda", "inside.scl"),
        "Nothing pulls the data and the clock line of I2C bus 1 up (Inside).",
    ),
    "bus-pulled-hard": (
        "care",
        ("face", "inside", "face.sda"),
        "4 pull-ups on the data line of I2C bus 1 make 1.03 kΩ together. To pull them low takes 3.05 mA at "
        "worst; Face can take 3 mA at 0.4 V.",
    ),
    "bus-slow": (
        "care",
        ("inside.sda",),
        "The data line of I2C bus 1 takes 4.63 µs to rise, 520 pF behind 10 kΩ; Standard mode allows 1 µs.",
    ),
    "bus-clock": (
        "care",
        ("inside",),
        "I2C bus 1 is to run at 1 MHz; Inside bears 400 kHz.",
    ),
    "bus-pulled-apart": (
        "care",
        ("face", "face.sda"),
        "I2C bus 1 is pulled to 3.3 V (fitted on the board) and to 5 V (on Face): it stands at 3.77 V.",
    ),
    "bus-level": (
        "care",
        ("face", "face.sda"),
        "Face reads a high from 3.67 V on, 0.7 of its 5.25 V; I2C bus 1 rises to 3.2 V.",
    ),
    "stretch-unheard": (
        "care",
        ("near",),
        "Near may hold the clock of I2C bus 1 low while busy, and its controller does not wait.",
    ),
    "select-unheld": (
        "care",
        ("log.cs", "board.p2"),
        "Log · CS on L1 is pulled down until the program runs, and shares SPI controller 0 with Scales.",
    ),
    "spi-clock": (
        "care",
        ("adc",),
        "SPI controller 0 is to run at 20 MHz; Scales bears 1.35 MHz.",
    ),
    "data-held": (
        "stop",
        ("keys.qh", "board.p1"),
        "Keys never lets go of L0, where Scales answers as well.",
    ),
    "three-wire-deaf": (
        "stop",
        ("oven.sdio",),
        "Oven · SDIO answers on the line on which it is spoken to; that reaches only L3, and no data input.",
    ),
    "spi-modes": (
        "note",
        ("oven", "row"),
        "SPI controller 0: Oven mode 1 or 3, most significant bit first; Row mode 0, most significant bit "
        "first.",
    ),
    "spi-by-program": (
        "note",
        ("adc.clk",),
        "Scales · CLK on L4: no controller reaches this pin, so the program has to make each edge, at about "
        "200 kHz; the part can take 1.35 MHz.",
    ),
    "uart-rate": (
        "care",
        ("place",),
        "UART 1 makes 117647 baud of 115200: 2.9 % apart from Place at worst.",
    ),
    "line-slow": (
        "care",
        ("soil.dq", "board.p9"),
        "L6 takes 12.1 µs to rise over 40 m of cord; 9 µs are left for it.",
    ),
    "line-starved": (
        "care",
        ("soil.vdd", "board.p9"),
        "Soil draws 1.5 mA through 4.7 kΩ while it measures; "
        "to keep 3 V, the pull-up may have 133 Ω at most.",
    ),
    "bus-heavy": (
        "note",
        ("inside.sda",),
        "I2C bus 1 has 420 pF on each line; Standard mode counts with 400 pF. It still rises in time, in 674 "
        "ns.",
    ),
    "pulse-off": (
        "care",
        ("flag.signal",),
        "Timer 2 gives 61.04 Hz for Flag · signal, which wants 50 Hz: 22 % off.",
    ),
    "capture-shared": (
        "care",
        ("remote.ch1", "lamp.anode"),
        "Remote · CH 1 has pulses of up to 2 ms; timer 1, which measures them, starts anew every 1 ms for "
        "Lamp · anode.",
    ),
    "servo-coarse": (
        "care",
        ("flag.signal", "board.e13"),
        "Flag · signal moves in steps of 6.4°: timer 2 sets pulses only to 64 µs.",
    ),
    "stepper-fast": (
        "care",
        ("dial",),
        "Dial is to turn 20 times a minute, 679 Hz in full steps; without a ramp it can follow up to 500 Hz.",
    ),
    "coil-order": (
        "note",
        ("dial.blue", "dial.pink", "dial.yellow", "dial.orange"),
        "Dial is wired to its driver as blue, yellow, pink, orange: switched in the driver's order it only "
        "buzzes. List the pins in the program as IN 1, IN 3, IN 2, IN 4, or exchange the wires.",
    ),
    "relay-fast": (
        "care",
        ("bell",),
        "Bell cannot follow: it is switched every 20 ms, and needs 100 ms between two switchings.",
    ),
    "pixels-slow": (
        "care",
        ("rim",),
        "Rim is to show 100 frames a second; 400 pixels take 12.3 ms each, 81 a second. At 100 "
        "frames, 324 pixels fit.",
    ),
    "pixels-memory": (
        "stop",
        ("rim",),
        "Rim needs 1650 bytes for 550 pixels; Clove 22 has 2048, of which 75 % may be taken: 512 pixels.",
    ),
    "clamp-low": (
        "stop",
        ("valve.minus", "n-mosfet.drain"),
        "The clamp diode at Valve · – leads to Brick, 5 V, and Valve hangs on Twelve, 12 V: current "
        "runs through it and the diode all the time.",
    ),
    "coils-crossed": (
        "stop",
        ("bipolar-stepper.a1", "bipolar-stepper.a2", "bipolar-stepper.b1", "bipolar-stepper.b2"),
        "Winder · A and A' are the ends of one winding, and lie on Steps · 1A and Steps · 2A: two "
        "bridges. The other end of the first one is Steps · 1B.",
    ),
    "ends-alike": (
        "stop",
        ("knob.top", "knob.bottom"),
        "Knob · top and bottom are both on ground: Knob does nothing.",
    ),
    "nothing-reads": (
        "stop",
        ("push-button.contact", "push-button.common"),
        "No pin reads Door: both of its ends are on supplies or ground, and closed it is a short circuit.",
    ),
    "leads-exchanged": (
        "stop",
        ("i2c-thermometer.sda", "i2c-thermometer.scl"),
        "Air · SDA on L16 (pos 22) and Air · SCL on L31 (pos 14) are exchanged: each would be right "
        "on the other's.",
    ),
    "shifter-turned": (
        "stop",
        ("pixel-strip.din", "board.p25"),
        "The level shifter in Quay · DIN has 3.3 V rail on the side of Quay and Brick on the side of "
        "L27 (pos 25): these are exchanged.",
    ),
    "feed-blocked": (
        "stop",
        ("micro-servo.power",),
        "The diode in Flag · power lets current through towards Brick · +5 V only: Flag gets nothing.",
    ),
    "lead-over-voltage": (
        "stop",
        ("spi-flash.cs", "board.s34"),
        "Log · CS gets 5 V, up to 5.25 V (D47 high), from D47 (pos S34); it bears 3.9 V.",
    ),
    "input-level": (
        "stop",
        ("echo-ranger.echo", "board.w17"),
        "PA9 (pos W17) gets 448 mV, at worst 384 mV, when Gauge · ECHO is high; it reads high from 2.31 V.",
    ),
    "edge-slow": (
        "stop",
        ("pixel-strip.din", "board.p25"),
        "An edge on Quay · DIN takes 80.3 µs (365 Ω into 100 nF); its capacitor makes most of that; "
        "pixels tell 150 ns apart: at most 150 ns are left for it.",
    ),
    "led-shared-resistor": (
        "care",
        ("rgb-led",),
        "3 LEDs of Lamp share one resistor: Lamp blue gets 1.24 mA alone, and 526 µA when the others "
        "are lit as well.",
    ),
    "frame-short": (
        "stop",
        ("micro-servo.signal", "board.p24"),
        "Flag · signal has pulses of up to 2.3 ms, and at 500 Hz a frame lasts 2 ms.",
    ),
    "sensor-range": (
        "care",
        ("thermistor.one", "board.w6"),
        "G31 (pos W6) sees 3 V to 3.3 V over the whole range of Frost: 9 % of the scale of 3.3 V. "
        "With 10 kΩ as the second resistor most of it is used.",
    ),
    "sensor-heats": (
        "care",
        ("thermistor.one",),
        "Frost takes up to 5.5 mW and reads 3.7 K too warm; it is accurate to 1 K.",
    ),
    "contact-over": (
        "stop",
        ("relay.com",),
        "Bell · COM carries 17.3 A at worst, at 12 V; the contact is made for 10 A and 250 V.",
    ),
    "runs-unpowered": (
        "care",
        ("pump.plus", "relay-module.nc1"),
        "Pump hangs on Horn · NC 1, which is closed while the relay is off: it runs at power-on, "
        "during a reset and after the program has ended.",
    ),
    "step-current": (
        "care",
        ("step-driver", "bipolar-stepper"),
        "Steps is set to 600 mA; a winding of Winder is made for 400 mA.",
    ),
    "drop-out": (
        "stop",
        ("buck-converter.in",),
        "Buck converter · IN + gets 4.99 V usually, 4.8 V at worst; to make 5 V it needs 6 V.",
    ),
    "supply-high": (
        "care",
        ("micro-servo.power", "cell-pack.plus"),
        "Flag · power gets 5.2 V usually and up to 6.4 V from Cell pack; it is made for 6 V at most.",
    ),
    "output-for-input": (
        "stop",
        ("n-mosfet.drain", "n-mosfet.source"),
        "Switch · drain is tied to GND (pos 5), which belongs to source: drain is there for other parts.",
    ),
    "pin-rush": (
        "care",
        ("led.anode", "board.p19"),
        "L20 (pos 19) charges the 100 µF capacitor in Lamp · anode with 78.6 mA at every edge, for "
        "4.2 ms; it bears 16 mA.",
    ),
    "line-pulled-down": (
        "stop",
        ("i2c-thermometer.sda",),
        "The 4.7 kΩ pull-down in Air · SDA leaves 1.06 V on the data line of I2C on G26 for high, "
        "which begins at 2.31 V.",
    ),
    "line-not-low": (
        "stop",
        ("i2c-thermometer.sda", "board.p14"),
        "L31 (pos 14) gets no lower than 2.86 V behind the 10 kΩ in Air · SDA, and reads low below 990 mV.",
    ),
    "shifter-one-way": (
        "stop",
        ("inertial-sensor.sda",),
        "The level shifter in Tilt · SDA is a buffer, which passes one way only, and Tilt answers on "
        "this line.",
    ),
    "track-hot": (
        "care",
        ("knob",),
        "Knob, of 150 Ω, turns 167 mW into heat at 5 V, and 230 mW at worst; its track bears 100 mW.",
    ),
    "contact-shorts": (
        "stop",
        ("relay-module.nc1", "relay-module.com1"),
        "Horn · NC 1 lies on ground and COM 1 on Twelve: closed, the contact joins the two.",
    ),
    "steps-over-bus": (
        "care",
        ("step-driver.step", "more-pins.p0"),
        "Steps · STEP on More pins · P 0 is to make 1000 steps a second; I2C bus 1 at 100 kHz "
        "carries 1724, with nothing else on it.",
    ),
}


REMEDIES: dict[str, list[str]] = {
    "short-circuit": ["Untie Flag · power from GND (pos 28)", "Untie Flag · power from Brick · +5 V"],
    "supplies-joined": ["Untie Brick · +5 V from 5V (pos 1)"],
    "supply-reversed": ["Turn Brick round, and untie Brick · +5 V from 5V (pos 1)"],
    "pin-shared": ["Move Two · anode to L11 (pos 15)"],
    "need-unmet": ["Move to L8 (pos 24)"],
    "driver-missing": ["Put a MOSFET switch before Latch"],
    "clamp-missing": ["Add a clamp diode to Brick · +5 V"],
    "clamp-low": ["Lead it to Twelve · +12 V"],
    "coils-crossed": ["Put each winding on one bridge"],
    "ends-alike": ["Tie Knob · top to 3V3 (pos W1)"],
    "nothing-reads": ["Tie Door · contact to L5 (pos 8)"],
    "supplies-exchanged": ["Exchange Bridge · VCC and Bridge · VM"],
    "leads-exchanged": ["Exchange Air · SDA and Air · SCL"],
    "output-for-input": ["Exchange drain and source"],
    "shifter-turned": ["Turn the level shifter round"],
    "uart-crossed": ["Exchange Place · TX and Place · RX"],
    "address-clash": ["Set A0 of Outside: 0x49"],
    "wakes-at-taken": ["Keep Far off until its turn: Far · OFF to L6"],
    "bus-unpulled": ["Add 6.8 kΩ pull-ups to 3V3"],
    "data-held": ["Put Keys on L10, L8"],
    "three-wire-deaf": ["Tie it to L0 as well, its data out through a resistor"],
    "feed-blocked": ["Turn the diode round"],
    "drop-out": ["Feed it from Twelve · +12 V"],
    "lead-untied": ["Tie to GND (pos 10)"],
    "bead-loose": ["Lead it to 3V3 (pos 2)"],
    "timer-shared": ["Move Lamp · anode to L3 (pos 18)"],
    "pool-over": [],
    "bus-mixed": ["Move Mast · SCL to L1"],
    "remap-mixed": ["Move Flag 2 · signal to PA10 (pos W16)"],
    "converter-blocked": ["Move to G28 (pos W3)", "Plan to switch the radio off"],
    "strap-level": ["Move to G8 (pos E9)"],
    "no-common-ground": ["Tie its 0 V to GND (pos 5)"],
    "input-over-voltage": [
        "Feed Door · common from 3V3 (pos 2)",
        "Add a level shifter from 5V (pos 1), and use the pin's pull-up instead",
        "Divide it by 1 kΩ and 1.8 kΩ",
    ],
    "lead-over-voltage": ["Add a level shifter to 3V3 (pos W5)"],
    "output-level": ["Take out the 47 kΩ resistor"],
    "input-level": ["Take the divider out", "Divide it by 1 kΩ and 1.8 kΩ instead"],
    "edge-slow": ["Take out the 100 nF capacitor"],
    "pin-rush": ["Put 270 Ω between pin and capacitor", "Take the capacitor out"],
    "contact-unread": ["Use the pin's pull-up instead"],
    "led-reversed": ["Exchange Lamp · anode and Lamp · cathode"],
    "led-no-resistor": ["Add a 270 Ω resistor"],
    "led-current": ["Change the resistor to 270 Ω"],
    "led-shared-resistor": ["Give each LED a 470 Ω resistor of its own"],
    "pin-over-absolute": ["Change the resistor to 270 Ω"],
    "pin-over-recommended": ["Change the resistor to 270 Ω"],
    "pins-over": ["Take 330 Ω for 9 LEDs: they get darker"],
    "bank-over": ["Take 330 Ω for 8 LEDs: they get darker"],
    "rail-over": ["Feed Pump 0 from a 5 V brick of its own"],
    "supply-over": ["Take one of 2 A for USB brick"],
    "jerky-load-on-board": ["Feed Flag from a 5 V brick of its own"],
    "cord-hot": ["Take AWG 24 (0.205 mm²) for Quay · 5V"],
    "capacitor-rating": ["Take one for 10 V"],
    "back-fed": ["Put a buffer in, fed from the far side"],
    "switch-half-open": ["Exchange Switch for a MOSFET switch, and take out the 4.7 kΩ resistor"],
    "regulator-hot": ["Exchange Five volts for a buck converter"],
    "load-underfed": ["Take 0.75 mm² (AWG 18) for Flag, there and back"],
    "supply-high": ["Feed Flag from a 5 V brick of its own"],
    "chain-dim": ["Feed it at 2 places"],
    "resistor-hot": ["Take one of 500 mW"],
    "fuse-wrong": ["Take a fuse of 400 mA"],
    "activities-meet": ["Let Flag waves begin at 10 s"],
    "bus-pulled-hard": ["Take the pull-ups off Face"],
    "bus-slow": ["Add a 1.8 kΩ pull-up to 3V3"],
    "bus-clock": ["Run it at 400 kHz"],
    "bus-pulled-apart": [
        "Feed Face · VCC from 3V3 (pos 2)",
        "Put level shifters before Face",
        "Take the pull-ups off Face",
    ],
    "line-pulled-down": ["Take the pull-down out"],
    "line-not-low": ["Take one of 390 Ω", "Take the resistor out"],
    "shifter-one-way": ["Take a transistor level shifter, which passes both ways"],
    "bus-level": ["Feed Face · VCC from 3V3 (pos 2)", "Put level shifters before Face"],
    "stretch-unheard": ["Run it at 10 kHz"],
    "select-unheld": ["Add a 10 kΩ pull-up"],
    "spi-clock": ["Run it as fast as all bear"],
    "uart-rate": ["Speak at 57600 baud"],
    "line-slow": ["Take 2.7 kΩ for the pull-up"],
    "line-starved": ["Feed Soil · VDD from 3V3"],
    "scale-missing": ["Feed Knob · top from 5V (pos W3)"],
    "cannot-keep-time": ["Move to L22 (pos 7)"],
    "frame-short": ["Take the part's own frequency"],
    "pixels-memory": ["Shorten Rim to 512 pixels"],
    "stepper-fast": ["Bring it there by a ramp of 179 ms", "Turn 11 times a minute"],
    "pulse-off": ["Move to D5 (pos E8), which makes it"],
    "servo-coarse": ["Move to D5 (pos E8), which makes it"],
    "capture-shared": ["Move Lamp · anode to D11 (pos E14)"],
    "relay-fast": ["Leave 100 ms between"],
    "pixels-slow": ["Show 81 frames a second"],
    "one-sided-sensor": ["Add 33 kΩ to ground"],
    "sensor-range": ["Take 10 kΩ instead"],
    "sensor-heats": ["Take 10 kΩ instead"],
    "track-hot": ["Take one of 1 kΩ"],
    "contact-shorts": ["Untie Horn · NC 1 from Twelve · 0 V"],
    "contact-over": [],
    "runs-unpowered": ["Move it to Horn · NO 1"],
    "step-current": ["Set the limit to 400 mA"],
    "part-level": ["Take one with a logic level gate"],
    "load-starved": ["Take out the 47 Ω resistor"],
    "left-running": [],
    "wakes-load": ["Add a 4.7 kΩ pull-up", "Move to L5 (pos 8)"],
    "floating-input": ["Let the program switch on the pin's pull-up", "Add a 10 kΩ pull-up"],
    "component-missing": ["Add a 10 kΩ pull-up"],
    "pulse-unmeasured": ["Move to G7 (pos W13)"],
    "steps-over-bus": [
        "Move Steps · STEP to L5 (pos 8)",
        "Run I2C bus 1 at 400 kHz",
        "Run I2C bus 1 at 1 MHz",
    ],
    "pin-reserved": ["Move to L11 (pos 15)", "Plan to switch the serial console off"],
    "peripheral-off": ["Plan to switch the pulse outputs on"],
    "coil-order": ["Tie the coils of Dial in stepping order"],
    "bus-heavy": ["Lay its cords loose, each on its own way"],
    "spi-modes": ["Put Row on L10, L11"],
    "spi-by-program": ["Put Scales on L2, L3, L0"],
    "weak-pin": ["Move to PB11 (pos E5)"],
    "tolerance-lost": ["Leave the pin's pull off"],
    "source-weak": ["Add a capacitor of 100 nF"],
    "board-unfed": ["Add a USB brick"],
}
"""what is offered for the finding on each rule's bad plan, best first"""


@pytest.mark.parametrize("rule_id", [r.id for r in RULES])
def test_broken_plan_and_good_twin(rule_id: str) -> None:
    bad = analyse(example(f"rules/{rule_id}.bad", shipped()), shipped())
    severity, subjects, message = EXPECTED[rule_id]
    found = [(f.severity, f.subjects, f.message) for f in bad.findings if f.rule == rule_id]
    assert found == [(severity, subjects, message)]
    good = analyse(example(f"rules/{rule_id}.good", shipped()), shipped())
    assert [(f.rule, f.message) for f in good.findings] == []


@pytest.mark.parametrize("rule_id", [r.id for r in RULES])
def test_remedies_settle_what_they_are_offered_for(rule_id: str) -> None:
    plan = example(f"rules/{rule_id}.bad", shipped())
    for finding in analyse(plan, shipped()).findings:
        for remedy in finding.remedies:
            after = analyse(remedy.apply(plan), shipped())
            assert finding.key not in [f.key for f in after.findings], (finding.message, remedy.title)


TOLD_BESIDE = {
    "bus-unpulled": "nothing is known of a line's speed that does not rise",
    "fuse-wrong": "the fuse lies above what its cord bears, and the limit is the fuse's own",
    "jerky-load-on-board": "a motor that jerks on the board's rail is a care whatever the rail falls to",
    "led-current": "a wish is no limit",
    "led-no-resistor": "the usual current may be within what the LED bears",
    "select-unheld": "what the remedy costs",
    "spi-by-program": "what the part could do",
    "three-wire-deaf": "what flows where both ends speak, which the pin may bear",
}
"""rules whose figures are not what the finding is about, and why"""


@pytest.mark.parametrize("rule_id", [r.id for r in RULES if r.id not in TOLD_BESIDE])
def test_a_finding_with_limits_breaks_one_of_them(rule_id: str) -> None:
    """So that a limit that has to be reached is not taken for one that must not be passed."""
    bad = analyse(example(f"rules/{rule_id}.bad", shipped()), shipped())
    for finding in (f for f in bad.findings if f.rule == rule_id):
        limited = [n for n in finding.numbers if n.limit is not None]
        assert not limited or not all(n.within for n in limited), finding.numbers


@pytest.mark.parametrize("rule_id", [r.id for r in RULES])
def test_exactly_these_remedies_are_offered(rule_id: str) -> None:
    bad = analyse(example(f"rules/{rule_id}.bad", shipped()), shipped())
    finding = next(f for f in bad.findings if f.rule == rule_id)
    assert [r.title for r in finding.remedies] == REMEDIES[rule_id]


def test_rules_are_listed_once_and_explain_themselves() -> None:
    assert len({r.id for r in RULES}) == len(RULES) == len(EXPECTED)
    for r in RULES:
        assert r.title and r.reason.endswith(".") and r.source


def test_each_rule_of_buses_and_of_time_has_a_view_that_shows_it() -> None:
    """The views list rules by name; a new one that nobody lists would be seen in the loom alone."""
    shown = overview.RULES | about_time.RULES
    known = {r.id for r in RULES}
    assert shown <= known
    for module in (buses, bus_lines, spi, serial, timing):
        own = {x.id for x in vars(module).values() if isinstance(x, Rule)}
        assert own and own <= shown & known, own - shown & known


def test_a_rule_that_fails_is_a_finding_at_stop(caplog: pytest.LogCaptureFixture) -> None:
    @rule("fails", "Fails", "note", "Because.", "nowhere")
    def fails(facts: object):
        raise ZeroDivisionError("on purpose")

    assert isinstance(fails, Rule)
    report = analyse(example("harbour-light", shipped()), shipped(), rules=(fails,))
    assert [(f.rule, f.severity, f.subjects) for f in report.findings] == [
        ("rule-failed", "stop", ("fails",))
    ]
    assert "ZeroDivisionError: on purpose" in report.findings[0].message
    (logged,) = [r.getMessage() for r in caplog.records]
    assert logged.startswith("the rule fails failed") and 'ZeroDivisionError("on purpose")' in logged
    caplog.clear()
