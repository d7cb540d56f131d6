"""Which pins have hardware in common, and what: the question behind the lens Sharing."""

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.function import ANY, parse_function
from knotplan.catalog.derived import derived

TIMED = ("pwm", "adc")
"""kinds whose units are told apart on the board at a glance; buses are named where one points"""


@derived
def sharers(board: Board) -> dict[str, tuple[str, ...]]:
    """What pins have in common, in words, with the pins: {"pulse pair A, one frequency": ("p7", "p12")}."""
    leads: dict[str, list[str]] = {}
    for pin_id, pin in board.pins.items():
        for job in dict.fromkeys(
            (f.kind, f.instance) for f in map(parse_function, pin.functions) if f.instance
        ):
            leads.setdefault(_unit_words(board, *job), []).append(pin_id)
        if pin.reserved:
            leads.setdefault(f"{board.reservations[pin.reserved].title} of the board", []).append(pin_id)
    for bank in board.banks.values():
        leads.setdefault(f"{bank.title}, one current limit", []).extend(bank.pins)
    return {what: tuple(dict.fromkeys(pins)) for what, pins in leads.items() if len(set(pins)) > 1}


def _unit_words(board: Board, kind: str, instance: str) -> str:
    if instance == ANY:
        pool = board.pool(kind)
        return pool.title if pool else kind
    unit = board.peripherals.get(f"{kind}:{instance}")
    if unit is None:
        return f"{kind} {instance}"
    return f"{unit.title}, one {' and '.join(unit.shares)}" if unit.shares else unit.title


def relatives(board: Board, pin_id: str) -> dict[str, tuple[str, ...]]:
    """The pins that share something with a pin, each with what: {"p12": ("pulse pair A, one frequency",)}."""
    by_contact: dict[str, tuple[str, ...]] = {}
    for what, pins in sharers(board).items():
        if pin_id in pins:
            for other in pins:
                if other != pin_id:
                    by_contact[other] = (*by_contact.get(other, ()), what)
    return by_contact


@derived
def timed_units(board: Board) -> dict[str, str]:
    """The timer of each pin that has one, else its converter: {pin id: "pwm:A"}."""
    units: dict[str, str] = {}
    for pin_id, pin in board.pins.items():
        jobs = [f for f in map(parse_function, pin.functions) if f.kind in TIMED and f.instance != ANY]
        if jobs:
            units[pin_id] = sorted(jobs, key=lambda f: TIMED.index(f.kind))[0].unit
    return units
