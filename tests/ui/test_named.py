"""For every pair of eyes: what can have the keys has a name, and painted views put what is chosen into words."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QKeySequenceEdit,
    QLabel,
    QMenu,
    QMenuBar,
    QScrollBar,
    QWidget,
)
from pytestqt.qtbot import QtBot

from hands import act, press, selected_at, settled
from notcher.core.formats import Document
from notcher.ui.shell.program import Program

INNER = QAbstractSpinBox | QComboBox | QAbstractItemView | QKeySequenceEdit
"""Whose parts take their name from the whole."""


@pytest.fixture
def opened(program: Program, demo: Document, qtbot: QtBot) -> Program:
    program.open(demo, None)
    settled(program)
    return program


def name_of(widget: QWidget, root: QWidget) -> str:
    """What is read out for a widget: its own name, its words, or those of the label that belongs to it."""
    words = widget.text() if isinstance(widget, QAbstractButton | QLabel) else ""
    buddies = (label.text() for label in root.findChildren(QLabel) if label.buddy() is widget)
    return widget.accessibleName() or words or next(buddies, "")


def nameless(root: QWidget) -> list[str]:
    """What can have the keys and says nothing; parts that the toolkit makes within a control are the control's."""
    found = []
    for widget in root.findChildren(QWidget):
        parents = [widget.parent(), widget.parent().parent()]
        if widget.focusPolicy() is Qt.FocusPolicy.NoFocus or isinstance(widget, QScrollBar | QMenuBar | QMenu):
            continue
        if any(isinstance(parent, INNER) for parent in parents):
            continue
        if not isinstance(widget, QLabel) and not name_of(widget, root):
            found.append(f"{type(widget).__name__} in {type(parents[0]).__name__}")
    return found


@pytest.mark.slow
def test_nothing_in_the_window_is_nameless(opened: Program) -> None:
    assert nameless(opened.window) == []


@pytest.mark.slow
def test_nothing_in_a_dialog_is_nameless(opened: Program) -> None:
    seen = 0
    asking = [command.id for command in opened.commands if command.label.endswith("…") and not command.disabled_reason]
    for name in [*asking, "help.guide", "help.legend"]:
        act(opened, name)
        QTest.qWait(20)
        for dialog in QApplication.topLevelWidgets():
            if isinstance(dialog, QDialog) and dialog.isVisible():
                if not isinstance(dialog, QFileDialog | QPrintDialog):  # the toolkit's own
                    assert nameless(dialog) == [], name
                    seen += 1
                dialog.reject()
                QTest.qWait(5)
    assert seen > 15


@pytest.mark.slow
def test_the_tab_says_the_selected_note(opened: Program) -> None:
    tab, score = opened.notch.tab, opened.score
    press("Home")
    first = tab.accessibleDescription()
    assert first.startswith(f"note 1 of {len(score.notes)}: ")
    press("Right")
    assert tab.accessibleDescription().startswith("note 2 of")
    press("N")
    at = selected_at(opened.session)
    assert tab.accessibleDescription().startswith(f"note {at + 1} of")
    assert "in doubt" in tab.accessibleDescription()


@pytest.mark.slow
def test_other_painted_views_say_what_is_chosen(opened: Program, qtbot: QtBot) -> None:
    press("Ctrl+5")
    qtbot.waitUntil(lambda: bool(opened.teach.board.accessibleDescription()), timeout=10_000)
    before = opened.teach.board.accessibleDescription()
    assert "50 %" in before
    press("Down")
    assert opened.teach.board.accessibleDescription() != before
    press("Ctrl+4")
    qtbot.waitUntil(lambda: bool(opened.shapes.view.accessibleDescription()), timeout=20_000)
    before = opened.shapes.view.accessibleDescription()
    press("Down")
    assert opened.shapes.view.accessibleDescription() != before
