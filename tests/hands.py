"""What tests do to the program, through the doors that a person uses."""

from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from notcher.ui.shell.program import Program


def act(program: Program, name: str) -> None:
    """Run a command by its id, as its menu entry, its keys and the finder do."""
    program.commands.run(name)


def press(keys: str) -> None:
    """Deliver keys to whatever has the focus."""
    focused = QApplication.focusWidget()
    assert focused is not None, "nothing has the focus"
    QTest.keySequence(focused, QKeySequence(keys))
