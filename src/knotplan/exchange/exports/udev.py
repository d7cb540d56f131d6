"""Who may use what a plan uses: rules for udev (udev(7)), and the commands that put a person into the
groups."""

import re
from collections.abc import Iterator

from knotplan.core.check.report import Report
from knotplan.core.text.permissions import devices_by_group, lines
from knotplan.exchange.exports.export import CannotExportError, text_export
from knotplan.exchange.plain_text import remark

GROUP = re.compile(r"[a-z_][a-z0-9_-]{0,31}")
"""a name that groupadd(8) takes"""
DEVICES = (
    (re.compile(r"/dev/(?P<name>i2c-\d+)"), 'SUBSYSTEM=="i2c-dev", KERNEL=="{name}"'),
    (re.compile(r"/dev/(?P<name>spidev\d+)\.\d+"), 'SUBSYSTEM=="spidev", KERNEL=="{name}.*"'),
    (re.compile(r"/dev/(?P<name>tty[A-Za-z]*\d+)"), 'SUBSYSTEM=="tty", KERNEL=="{name}"'),
    (re.compile(r"/dev/(?P<name>gpiochip(?:\d+|\*))"), 'SUBSYSTEM=="gpio", KERNEL=="{name}"'),
)
PULSES = re.compile(r"/sys/class/pwm/(?P<name>pwmchip\d+)")
RULES_FILE = "60-knotplan.rules"


def rules(report: Report, scheme: str = "") -> str:
    """The rules. Raises CannotExportError where nothing of the plan is a device of a Linux system."""
    c = report.circuit
    wanted = [(group, device) for group, devices in devices_by_group(c).items() for device in devices]
    wanted = [*lines(c), *wanted]
    written = [(group, rule) for group, device in wanted for rule in _rules(group, device)]
    if not written:
        if any(unit.device for unit in c.board.peripherals.values()):
            raise CannotExportError(f"the plan uses no line, bus or timer of {c.board.title} yet")
        raise CannotExportError(f"{c.board.title} has no Linux system, and no device files")
    groups = list(dict.fromkeys(group for group, _ in written))
    head = [
        f"# {remark(c.plan.title)}: who may use what it uses. Written by Knot Plan.",
        "#",
        *(f"#   sudo groupadd --system --force {group}" for group in groups),
        f'#   sudo usermod --append --groups {",".join(groups)} "$USER"',
        f"#   sudo cp this-file /etc/udev/rules.d/{RULES_FILE}",
        "#   sudo udevadm control --reload && sudo udevadm trigger",
        "#",
        "# Then log in anew: a person is in a new group from the next log-in on.",
        "",
    ]
    return "\n".join([*head, *(rule for _, rule in written), ""])


def _rules(group: str, device: str) -> Iterator[str]:
    """The rule for a device; nothing for a name that a board of one's own has made up."""
    if not GROUP.fullmatch(group):
        return
    for pattern, match in DEVICES:
        if found := pattern.fullmatch(device):
            yield f'{match.format(name=found["name"])}, GROUP="{group}", MODE="0660"'
    if found := PULSES.fullmatch(device):
        # the kernel gives no device file for pulses: its folder changes hands, at each channel that is opened
        hand = f"chgrp -R {group} /sys%p && chmod -R g=u /sys%p"
        yield f'SUBSYSTEM=="pwm", KERNEL=="{found["name"]}", RUN+="/bin/sh -c \'{hand}\'"'


EXPORT = text_export(
    "udev",
    "Device permissions (udev rules)",
    ".rules",
    "who may use the lines and buses of a Linux board",
    rules,
    "-permissions",
)
