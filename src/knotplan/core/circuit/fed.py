"""What a hub's pins bear and read, at the supply that the hub has."""

from msgspec.structs import replace

from knotplan.catalog.board.driver import Driver
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.memory.question import question


def as_fed(c: Circuit, contact: str) -> Driver:
    """A signal pin's character. Of a hub whose thresholds and maximum follow its supply, those at the supply
    that it has: V_IH = share of the highest, V_IL = share of the lowest, most = the highest and the margin.

    Raises KeyError for other contacts.
    """
    driver = c.hardware.driver(contact)
    follows = (driver.above_rail_v, driver.high_share, driver.low_share) != (None, None, None)
    return _fed(c, contact) if follows else driver


@question
def _fed(c: Circuit, contact: str) -> Driver:
    driver, volts = c.hardware.driver(contact), c.supplies.rail_volts(contact)
    if volts is None:
        return driver
    above, high, low = driver.above_rail_v, driver.high_share, driver.low_share
    return replace(
        driver,
        max_v=driver.max_v if above is None else min(driver.max_v, volts.max + above),
        input_high_v=driver.input_high_v if high is None else high * volts.max,
        input_low_v=driver.input_low_v if low is None else low * volts.min,
    )
