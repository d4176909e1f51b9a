"""Text of people, files and strangers is shown as it is: nothing in it is read as a mark, a picture or a link.

Qt takes a text for rich text when it looks like it (`Qt::mightBeRichText`), in labels and in tooltips.
"""

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget


class Label(QLabel):
    """A label that shows its text letter by letter."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)


def plain_tip(text: str) -> str:
    """Return a text as a tooltip shows it letter by letter."""
    return f"<p style='white-space: pre-wrap'>{escape(text)}</p>" if "<" in text else text


def show_plainly(dialog: QWidget) -> None:
    """Let the labels that the toolkit has put into a dialog show their texts letter by letter."""
    for label in dialog.findChildren(QLabel):
        label.setTextFormat(Qt.TextFormat.PlainText)
