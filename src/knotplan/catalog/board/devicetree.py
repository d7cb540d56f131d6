"""What a board with a Linux system is called in its Devicetree (Devicetree Specification v0.4)."""

from knotplan.catalog.board.item import Item


class Devicetree(Item):
    """The labels of a board's own Devicetree, onto which an overlay is laid."""

    compatible: str
    """of the root: `vendor,board`"""
    gpio: tuple[str, ...]
    """labels of the GPIO controllers, in the order in which the kernel counts their lines"""
    lines: int = 0
    """how many lines each of them has; 0 where there is only one"""
    gpio_group: str = "gpio"
    """who is in this group of users may use the lines"""
    pinctrl: str = ""
    """label of the pin controller, whose nodes follow the generic bindings (pinmux-node, pincfg-node); empty
    where pins need no settings"""
    pins: str = "chip"
    """the scheme of the names by which it knows pins"""
    units: dict[str, str] = {}
    """labels of timers and buses, by kind and instance: `i2c:1`"""
