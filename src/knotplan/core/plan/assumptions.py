"""What the program assumes where neither the plan nor the catalogue says: each with its usual value, why
that, and a place in the plan to say otherwise. Rules and finders read the same ones."""

from msgspec import Struct

from knotplan.core.quantity.written import show


class Assumption(Struct, frozen=True):
    """One figure that is taken for granted until the maker says another."""

    id: str
    title: str
    unit: str
    usual: float
    least: float
    most: float
    source: str
    """why that much"""

    def fault(self, value: float) -> str:
        """What is wrong with a value; empty where nothing is."""
        if self.least <= value <= self.most:
            return ""
        now, least, most = (show(v, self.unit) for v in (value, self.least, self.most))
        return f"{self.title}: {now} is not from {least} to {most}"


ASSUMPTIONS: tuple[Assumption, ...] = (
    Assumption(
        "air",
        "Air around the bench",
        "°C",
        30.0,
        -40.0,
        85.0,
        "the inside of a small case in a warm room; regulators and drivers warm up from there",
    ),
    Assumption(
        "edge",
        "Allowed beyond a supply range",
        "%",
        0.04,
        0.0,
        0.2,
        "ranges are given for nominal voltages, and no part stops right at their edge",
    ),
    Assumption(
        "forced_gain",
        "Forced gain",
        "",
        10.0,
        1.0,
        1000.0,
        "data sheets state the saturation voltage of small bipolar transistors at I_C / I_B = 10",
    ),
    Assumption(
        "gain_slack",
        "Slack of the forced gain",
        "%",
        0.15,
        0.0,
        1.0,
        "the next preferred value would often miss it by a hair; a gain of 10 has a margin of several times",
    ),
    Assumption(
        "saturation",
        "Saturation voltage",
        "V",
        0.2,
        0.02,
        2.0,
        "small bipolar transistors at a forced gain of 10, by their data sheets",
    ),
    Assumption(
        "tolerance",
        "Resistor tolerance",
        "%",
        0.0,
        0.0,
        0.4,
        "of resistors that are chosen; 0 stands for what is customary in the drawer's series: E6 20 %, "
        "E12 10 %, E24 5 %, E96 1 %",
    ),
    Assumption(
        "spare",
        "Spare small components and cords",
        "%",
        0.1,
        0.0,
        2.0,
        "small things get lost, bent and burnt; the list to buy from has so many more of them",
    ),
    Assumption(
        "resistor_load",
        "Share of a resistor's rating",
        "%",
        0.5,
        0.05,
        1.0,
        "at its rating a resistor is too hot to touch, and ratings hold up to 70 °C of air only",
    ),
    Assumption(
        "fuse_load",
        "Share of a fuse's rating",
        "%",
        0.75,
        0.1,
        1.0,
        "makers' usual advice for currents that flow for ever at 25 °C",
    ),
    Assumption(
        "input_above",
        "An input bears above its supply",
        "V",
        0.5,
        0.0,
        6.0,
        "the diode from a CMOS input to its supply begins to conduct there; where the catalogue says "
        "nothing else",
    ),
    Assumption(
        "inductive",
        "Share of a contact's rating for coils",
        "%",
        0.4,
        0.05,
        1.0,
        "utilization category DC-13 of IEC 60947-5-1 is for such loads; contacts bear less there than with "
        "resistors",
    ),
    Assumption(
        "battery_share",
        "Usable share of a battery",
        "%",
        0.8,
        0.1,
        1.0,
        "the rest is left when its voltage has fallen too far, or is lost in the cold",
    ),
)
BY_ID = {a.id: a for a in ASSUMPTIONS}
