"""Keeps the screen from going dark while somebody wires, where the desktop lets a program ask for that.

The desktop's portal is asked (org.freedesktop.portal.Inhibit, flag 8: *idle*). It holds the wish as long as
the connection lives.
"""

import logging
from typing import Any

SERVICE, PATH = "org.freedesktop.portal.Desktop", "/org/freedesktop/portal/desktop"
INHIBIT = "org.freedesktop.portal.Inhibit"
IDLE = 8
PATIENCE_S = 1.0
NOT_HERE = "This desktop does not let a program keep the screen awake; it may go dark by itself."
log = logging.getLogger(__name__)


class KeepAwake:
    """One wish, held or not."""

    def __init__(self) -> None:
        self._connection: Any = None

    def begin(self) -> str:
        """Asks that the screen stays awake; says why it may not, or nothing."""
        if self._connection is not None:
            return ""
        from jeepney import DBusAddress, MessageType, new_method_call
        from jeepney.io.blocking import open_dbus_connection

        portal = DBusAddress(PATH, bus_name=SERVICE, interface=INHIBIT)
        reason = {"reason": ("s", "A bench is being wired")}
        asked = new_method_call(portal, "Inhibit", "sua{sv}", ("", IDLE, reason))
        try:
            connection = open_dbus_connection(bus="SESSION")
        except (OSError, KeyError, ValueError) as error:
            log.info("no session bus: %s", error)
            return NOT_HERE
        try:
            answer = connection.send_and_get_reply(asked, timeout=PATIENCE_S)
        except (OSError, TimeoutError, ValueError) as error:
            log.info("the portal does not answer: %s", error)
            connection.close()
            return NOT_HERE
        if answer.header.message_type is not MessageType.method_return:
            connection.close()
            return NOT_HERE
        self._connection = connection
        return ""

    def end(self) -> None:
        """The screen may go dark again."""
        if self._connection is not None:
            self._connection.close()
            self._connection = None

    @property
    def held(self) -> bool:
        """The desktop has agreed."""
        return self._connection is not None
