"""Keeping the screen awake: against a portal of ours on a bus of its own, and where there is none."""

import os
import shutil
import subprocess
import threading
from collections.abc import Iterator

import pytest
from jeepney import DBusAddress, MessageType, new_error, new_method_call, new_method_return
from jeepney.io.blocking import open_dbus_connection

from knotplan.desktop.wire.keep_awake import IDLE, INHIBIT, NOT_HERE, SERVICE, KeepAwake

BUS = DBusAddress("/org/freedesktop/DBus", bus_name="org.freedesktop.DBus", interface="org.freedesktop.DBus")


@pytest.fixture
def bus(monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """A session bus for one test."""
    daemon = shutil.which("dbus-daemon")
    if daemon is None:
        pytest.skip("no dbus-daemon here")
    started = subprocess.Popen(
        [daemon, "--session", "--nofork", "--print-address=1"],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    assert started.stdout is not None
    address = started.stdout.readline().strip()
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", address)
    yield address
    started.terminate()
    started.wait(10)
    started.stdout.close()


class Portal:
    """Answers one wish, and notes what was asked."""

    def __init__(self, *, agrees: bool = True):
        self.asked: list[tuple[str, tuple[object, ...]]] = []
        self.connection = open_dbus_connection(bus="SESSION")
        self.connection.send_and_get_reply(new_method_call(BUS, "RequestName", "su", (SERVICE, 0)))
        self.agrees = agrees
        self.thread = threading.Thread(target=self._serve, daemon=True)
        self.thread.start()

    def _serve(self) -> None:
        while True:
            message = self.connection.receive()
            if message.header.message_type is not MessageType.method_call:
                continue
            self.asked.append((message.header.fields[3], message.body))
            if self.agrees:
                answer = new_method_return(message, "o", ("/org/freedesktop/portal/desktop/request/1",))
            else:
                answer = new_error(message, "org.freedesktop.portal.Error.NotAllowed")
            self.connection.send(answer)
            return

    def close(self) -> None:
        self.thread.join(10)
        self.connection.close()


def test_the_portal_is_asked_and_the_wish_is_held_until_it_ends(bus: str) -> None:
    portal = Portal()
    awake = KeepAwake()
    assert awake.begin() == "" and awake.held
    assert awake.begin() == "", "asked once"
    portal.close()
    ((method, (window, flags, options)),) = portal.asked
    assert (method, window, flags) == ("Inhibit", "", IDLE) and "reason" in options  # type: ignore[operator]
    awake.end()
    assert not awake.held
    awake.end()


def test_a_portal_that_refuses_is_told(bus: str) -> None:
    portal = Portal(agrees=False)
    awake = KeepAwake()
    assert awake.begin() == NOT_HERE and not awake.held
    portal.close()


def test_a_desktop_without_portal_is_told(bus: str) -> None:
    awake = KeepAwake()
    assert awake.begin() == NOT_HERE and not awake.held and INHIBIT.startswith("org.freedesktop.portal")


@pytest.mark.parametrize("address", ["", "nonsense", "unix:path=/nowhere/at/all"])
def test_without_a_bus_nothing_fails(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    if address:
        monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", address)
    else:
        monkeypatch.delenv("DBUS_SESSION_BUS_ADDRESS", raising=False)
        assert "DBUS_SESSION_BUS_ADDRESS" not in os.environ
    awake = KeepAwake()
    assert awake.begin() == NOT_HERE and not awake.held
    awake.end()
