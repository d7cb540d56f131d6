"""Numbers of a program besides pins: addresses, buses, clocks, rates, steps, pixels, pulses."""

import re
from collections.abc import Iterator, Sequence

from knotplan.core.bringup.difference import Difference, Spot
from knotplan.core.bringup.program.named import Named, words_of
from knotplan.core.bringup.program.told import Constant, Told, Use
from knotplan.core.bringup.program.values import Value, numbers
from knotplan.core.buses.addresses import can_be, places, reserved, soldering, trunk
from knotplan.core.buses.numbers import number_of
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity.written import listed, show
from knotplan.core.timing import pixels, stepper

ASKS_FOR = "I2C_SLAVE"
"""the request with which a C program says to which address it speaks"""
CLOSE = 0.02
STEPS = frozenset({"steps", "step", "rev", "revolution", "turn", "spr"})


def of_numbers(c: Circuit, told: Told, names: Named) -> list[Difference]:
    """All of them."""
    return list(_Numbers(c, told, names).all())


class _Numbers:
    def __init__(self, c: Circuit, told: Told, names: Named):
        self.c, self.told, self.named = c, told, names
        self.places = [p for p in places(c) if p.part]
        self.resident = {p.address for p in places(c) if not p.part}

    def all(self) -> Iterator[Difference]:
        for use in self.told.uses:
            if use.call.does == "i2c":
                yield from self._address(use)
            elif use.call.does == "uart":
                yield from self._baud(use)
            elif use.call.does == "spi":
                yield from self._spi(use)
        yield from self._buses()
        yield from self._constants()

    def _difference(
        self,
        kind: str,
        at: Spot,
        title: str,
        message: str,
        parts: Sequence[str] = (),
        remedies: tuple[Remedy, ...] = (),
    ) -> Difference:
        return Difference(kind, "differs", title, message, tuple(parts), at, remedies)

    # --- addresses ------------------------------------------------------------------------------------

    def _address(self, use: Use) -> Iterator[Difference]:
        asks = numbers(use.roles.get("mode", ()))
        if asks and not any(str(v.value).startswith(ASKS_FOR) for v in asks):
            return  # another request
        for value in numbers(use.roles.get("address", ())):
            if isinstance(value.value, int) and not isinstance(value.value, bool):
                names = [*value.names, *(str(v.value) for v in numbers(use.roles.get("user", ())))]
                yield from self._one_address(value, names)

    def _one_address(self, value: Value, names: Sequence[str]) -> Iterator[Difference]:
        address = int(value.value)
        named = [p for p in self.places if p.part in self.named.parts_of(names)]
        planned = {p.address for p in self.places} | {p.all_call for p in self.places} | self.resident
        if any(p.address == address for p in named) or (not named and address in planned):
            return
        likely = named or [p for p in self.places if address >> 1 == p.address]
        if not likely:
            yield self._unknown(value, address)
            return
        place = likely[0]
        name = self.c.titles.part(place.part)
        title = f"{name}: the program speaks to 0x{address:02X}, planned is 0x{place.address:02X}"
        if address >> 1 == place.address:
            bit = "reading" if address & 1 else "writing"
            text = (
                f"0x{address:02X} is its address with the bit for {bit} behind it. Write "
                f"0x{place.address:02X}."
            )
            yield self._difference("program-address-eight-bit", value.at, title, text, [place.part])
            return
        straps = next((s for s in can_be(self.c, place.part) if s.address == address), None)
        if straps is not None:
            params = dict(straps.params)
            text = (
                f"It is there when its pads stand so: {soldering(self.c, place.part, params)}. Set "
                "them so, or correct it."
            )
            follow = remedy(
                f"Let {name} be at 0x{address:02X} in the plan", edits.set_params, place.part, params
            )
            yield self._difference("program-address", value.at, title, text, [place.part], (follow,))
            return
        yield self._difference(
            "program-address", value.at, title, "It cannot be there: correct the program.", [place.part]
        )

    def _unknown(self, value: Value, address: int) -> Difference:
        where = listed([f"{self.c.titles.part(p.part)} 0x{p.address:02X}" for p in self.places]) or "nothing"
        why = (
            f" 0x{address:02X} is reserved: {reserved(address)}."
            if 0 <= address < 128 and reserved(address)
            else ""
        )
        beyond = " Addresses have 7 bits." if address > 0x7F else ""
        text = f"Nothing is planned there.{why}{beyond} The plan has {where}."
        return self._difference("program-address-unplanned", value.at, f"0x{address:02X} is in no plan", text)

    def _buses(self) -> Iterator[Difference]:
        """The number under which a bus is opened."""
        used = {number_of(self.c, trunk(self.c, p.bus)[-1].unit): p.bus for p in self.places}
        known = {n for n in used if n is not None}
        for use in self.told.uses:
            for value in self._opened(use):
                number = value.value
                if known and isinstance(number, int) and number not in known:
                    names = listed([str(n) for n in sorted(known)])
                    text = f"The plan has its devices on bus {names}, as the system counts."
                    yield self._difference("program-bus", value.at, f"I2C bus {number} is in no plan", text)

    def _opened(self, use: Use) -> Iterator[Value]:
        if use.call.does == "bus":
            for value in numbers(use.roles.get("bus", ())):
                yield self._from_path(value) if isinstance(value.value, str) else value
        elif use.call.does == "i2c" and use.call.name == "i2c-device":
            for value in numbers(use.roles.get("path", ())):  # the label of the controller: &i2c1
                digits = re.fullmatch(r"&?i2c_?(\d{1,2})", str(value.value))
                if digits:
                    yield Value(int(digits[1]), value.at, value.names)
        elif use.call.does == "path":
            for value in numbers(use.roles.get("path", ())):
                if isinstance(value.value, str) and value.value.startswith("/dev/i2c-"):
                    yield self._from_path(value)

    def _from_path(self, value: Value) -> Value:
        digits = re.search(r"/dev/i2c-(\d{1,4})$", str(value.value))
        return Value(int(digits[1]) if digits else "", value.at, value.names)

    # --- serial lines ---------------------------------------------------------------------------------

    def _baud(self, use: Use) -> Iterator[Difference]:
        bauds = {round(link.baud): link for link in links(self.c)}
        for value in numbers(use.roles.get("baud", ())):
            said = re.search(r"\d+$", str(value.value))
            baud = int(said[0]) if said else 0
            if not bauds or not baud or baud in bauds:
                continue
            wanted = listed([f"{self.c.titles.part(k.part)} {b}" for b, k in bauds.items()])
            text = f"The plan has {wanted}. Both ends have to speak at one rate."
            parts = [k.part for k in bauds.values()]
            yield self._difference("program-baud", value.at, f"{baud} baud is in no plan", text, parts)

    def _spi(self, use: Use) -> Iterator[Difference]:
        all_ = controllers(self.c)
        if not all_:
            return
        modes = {m for k in all_ for d in k.devices if (s := self.c.parts[d.part].facts.spi) for m in s.modes}
        parts = [d.part for k in all_ for d in k.devices]
        for value in numbers(use.roles.get("mode", ())):
            if isinstance(value.value, int) and modes and value.value not in modes:
                text = f"Its devices take mode {listed([str(m) for m in sorted(modes)])}."
                yield self._difference(
                    "program-spi-mode", value.at, f"SPI mode {value.value} is in no plan", text, parts
                )
        most = max(k.hz for k in all_)
        for value in numbers(use.roles.get("hertz", ())):
            if isinstance(value.value, int | float) and value.value > most * (1 + CLOSE):
                text = f"The plan reaches {show(most, 'Hz')} with what is on the bus."
                title = f"SPI at {show(float(value.value), 'Hz')} is too fast"
                yield self._difference("program-spi-clock", value.at, title, text, parts)

    # --- constants by their names ---------------------------------------------------------------------

    def _constants(self) -> Iterator[Difference]:
        for constant in self.told.constants:
            values = [
                v
                for v in numbers(constant.known)
                if isinstance(v.value, int | float) and not isinstance(v.value, bool)
            ]
            if len(values) != 1 or values[0].symbol:
                continue
            said = set(words_of(constant.name))
            if said & STEPS and (
                "per" in said or "rev" in said or "spr" in said or {"steps", "turn"} <= said
            ):
                yield from self._steps(constant, values[0])
            elif said & {"pixels", "pixel", "leds", "lights"} and (
                said & {"count", "num", "number", "n", "of"} or "pixels" in said
            ):
                yield from self._pixels(constant, values[0])
            elif "baud" in said or "baudrate" in said:
                yield from self._baud_constant(constant, values[0])

    def _steps(self, constant: Constant, value: Value) -> Iterator[Difference]:
        motors = [p for p, part in self.c.parts.items() if part.facts.stepper is not None]
        named = [p for p in self.named.parts_of([constant.name]) if p in motors]
        chosen = named or motors
        planned = {p: self._whole(p) for p in chosen}
        if not planned or any(abs(float(value.value) / n - 1) < CLOSE for n in planned.values()):
            return
        part, whole = next(iter(planned.items()))
        ratio = float(value.value) / whole
        name = self.c.titles.part(part)
        if abs(ratio - 2) < CLOSE or abs(ratio - 0.5) < CLOSE:
            mode = stepper.asked_mode(self.c, part)
            text = f"It is {'twice' if ratio > 1 else 'half'} as many: the plan steps in {mode} steps."
        else:
            text = "Gear, step angle and mode make the number: see the motor's card."
        title = f"{name}: {value.value:g} steps a turn, planned are {whole}"
        yield self._difference("program-steps", value.at, title, text, [part])

    def _whole(self, part: str) -> int:
        facts = self.c.parts[part].facts.stepper
        assert facts is not None
        driver = stepper.driver_of(self.c, part)
        micro = stepper.microsteps(self.c, driver) if driver else 1
        mode = "full" if driver else stepper.asked_mode(self.c, part)
        return stepper.rounding(facts, mode, micro=micro).whole

    def _pixels(self, constant: Constant, value: Value) -> Iterator[Difference]:
        chains = list(pixels.chains(self.c))
        if chains and all(chain.count != value.value for chain in chains):
            chain = chains[0]
            name = self.c.titles.part(chain.parts[0])
            text = (
                f"The chain of {name} has {chain.count}. What is beyond stays dark, or shows what was "
                "there before."
            )
            title = f"{constant.name} is {value.value}, planned are {chain.count} pixels"
            yield self._difference("program-pixels", value.at, title, text, chain.parts)

    def _baud_constant(self, constant: Constant, value: Value) -> Iterator[Difference]:
        bauds = {round(k.baud): k.part for k in links(self.c)}
        if bauds and value.value not in bauds:
            wanted = listed([f"{self.c.titles.part(p)} {b}" for b, p in bauds.items()])
            text = f"The plan has {wanted}. Both ends have to speak at one rate."
            title = f"{constant.name}: {value.value} baud is in no plan"
            yield self._difference("program-baud", value.at, title, text, list(bauds.values()))
