"""What a screen reader meets: walks a running program's accessible tree over the bus, and prints it as JSON.

Interfaces and numbers of states are those of AT-SPI 2 (at-spi2-core, xml/Accessible.xml and atspi-constants.h).
"""

import json
import sys
import time

from PyQt6.QtCore import QCoreApplication
from PyQt6.QtDBus import QDBusConnection, QDBusMessage

ACCESSIBLE, PROPERTIES = "org.a11y.atspi.Accessible", "org.freedesktop.DBus.Properties"
ROOT = "/org/a11y/atspi/accessible/root"
FOCUSABLE, FOCUSED, SHOWING = 11, 12, 25


def ask(bus: QDBusConnection, who: str, path: str, interface: str, method: str, *given: str) -> object:
    message = QDBusMessage.createMethodCall(who, path, interface, method)
    message.setArguments(list(given))
    answered = bus.call(message)
    if answered.type() is not QDBusMessage.MessageType.ReplyMessage:
        raise RuntimeError(answered.errorMessage())
    return answered.arguments()[0]


def walked(bus: QDBusConnection, who: str, path: str, depth: int = 0) -> list[dict[str, object]]:
    """A node and all that is shown under it."""
    low, high = ask(bus, who, path, ACCESSIBLE, "GetState")  # type: ignore[misc]
    states = int(low) | int(high) << 32
    node = {
        "role": ask(bus, who, path, ACCESSIBLE, "GetRoleName"),
        "name": ask(bus, who, path, PROPERTIES, "Get", ACCESSIBLE, "Name"),
        "description": ask(bus, who, path, PROPERTIES, "Get", ACCESSIBLE, "Description"),
        "focusable": bool(states >> FOCUSABLE & 1),
        "focused": bool(states >> FOCUSED & 1),
        "depth": depth,
    }
    shown = bool(states >> SHOWING & 1) or depth < 2
    found = [node] if shown else []
    if shown and depth < 24:
        children = ask(bus, who, path, ACCESSIBLE, "GetChildren")
        for child, child_path in children[:60]:  # type: ignore[index]  # a long table's rows are all alike
            found += walked(bus, child, child_path, depth + 1)
    return found


def main() -> None:
    app = QCoreApplication(sys.argv)
    session = QDBusConnection.sessionBus()
    address = ask(session, "org.a11y.Bus", "/org/a11y/bus", "org.a11y.Bus", "GetAddress")
    bus = QDBusConnection.connectToBus(str(address), "accessibility")
    for _ in range(100):  # the program tells the registry of itself once it is up
        programs = ask(bus, "org.a11y.atspi.Registry", ROOT, ACCESSIBLE, "GetChildren")
        if programs:
            break
        time.sleep(0.1)
    print(json.dumps([node for who, path in programs for node in walked(bus, who, path)]))  # type: ignore[attr-defined]
    del app


if __name__ == "__main__":
    main()
