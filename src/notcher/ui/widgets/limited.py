"""Lines and boxes of text that know how much they may hold, and say it when more is typed or pasted."""

from collections.abc import Callable

from PyQt6.QtWidgets import QLineEdit, QPlainTextEdit


def cut_words(most: int) -> str:
    """Return what is said where something longer was typed or pasted."""
    return f"At most {most:,} characters: the rest was left out."


def limit_line(line: QLineEdit, most: int, say: Callable[[str], None]) -> None:
    """Let a line hold so many characters. say: told when something was left out."""
    line.setMaxLength(most)
    line.inputRejected.connect(lambda: say(cut_words(most) if len(line.text()) >= most else ""))


def limit_box(box: QPlainTextEdit, most: int, say: Callable[[str], None]) -> None:
    """Let a box of several lines hold so many characters. say: told when something was left out."""

    def cut() -> None:
        text = box.toPlainText()
        if len(text) <= most:
            return
        cursor = box.textCursor()
        cursor.setPosition(most)
        cursor.movePosition(cursor.MoveOperation.End, cursor.MoveMode.KeepAnchor)
        cursor.removeSelectedText()
        say(cut_words(most))

    box.textChanged.connect(cut)
