"""Text twice as large has its place in a window of 1280 by 800: nothing lies over another, no button is cut off."""

from itertools import combinations

import pytest
from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QWidget,
)

from hands import at_rest, press, settled
from notcher.core.formats import Document
from notcher.ui.shell.program import Program
from notcher.ui.widgets.elided_label import ElidedLabel

WORDED = QLabel | QAbstractButton | QComboBox | QAbstractSpinBox | QLineEdit | QAbstractItemView | QAbstractScrollArea
WIDE, HIGH = 1280, 800
ONLY_DIRECT = Qt.FindChildOption.FindDirectChildrenOnly


def lying_over(root: QWidget) -> list[str]:
    """Pairs of neighbours that share room."""
    found = []
    for parent in (root, *root.findChildren(QWidget)):
        children = [
            child for child in parent.findChildren(QWidget, options=ONLY_DIRECT)
            if child.isVisible() and isinstance(child, WORDED) and not child.isWindow()
        ]  # fmt: skip
        for first, second in combinations(children, 2):
            shared: QRect = first.geometry() & second.geometry()
            if shared.width() > 2 and shared.height() > 2 and type(parent).__module__.startswith("notcher"):
                found.append(f"{type(first).__name__} over {type(second).__name__} in {type(parent).__name__}")
    return found


def cut_off(root: QWidget) -> list[str]:
    """Buttons and labels with less room than their words take."""
    found = []
    for widget in root.findChildren(QWidget):
        if (
            not widget.isVisible()
            or isinstance(widget, ElidedLabel)
            or not isinstance(widget, QLabel | QAbstractButton)
        ):
            continue
        words = widget.text().replace("&", "")
        wraps = isinstance(widget, QLabel) and widget.wordWrap()
        if words and not wraps and "<" not in words:
            wanted_px = max(widget.fontMetrics().horizontalAdvance(line) for line in words.splitlines())
            if widget.width() < wanted_px:
                found.append(f"{type(widget).__name__} “{words[:50]}”")
        elif words and wraps and "<" not in words and widget.height() < widget.heightForWidth(widget.width()) - 2:
            found.append(f"{type(widget).__name__} “{words[:50]}”")
    return found


@pytest.mark.slow
@pytest.mark.parametrize("scale", [1.0, 1.4, 2.0])
def test_larger_text_keeps_its_place(program: Program, demo: Document, scale: float) -> None:
    program.settings.set("text_scale", scale)
    program.apply_settings()
    program.window.resize(WIDE, HIGH)
    program.open(demo, None)
    settled(program)
    program.window.notices.quiet()
    wrong: dict[str, list[str]] = {}
    for number in range(1, 8):
        press(f"Ctrl+{number}")
        if number == 5:
            press("P")
        settled(program)
        at_rest(program.window)
        found = lying_over(program.window) + cut_off(program.window)
        if (program.window.width(), program.window.height()) != (WIDE, HIGH):
            found.append(f"takes {program.window.width()} by {program.window.height()}")
        if found:
            wrong[program.bench] = found
    assert wrong == {}
