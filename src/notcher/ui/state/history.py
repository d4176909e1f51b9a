"""What was done and can be undone: one history with a line for the music and one for the record of students."""

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QUndoGroup, QUndoStack


class History(QUndoGroup):
    """Undoes and redoes on the line that is in view."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.music, self.record = QUndoStack(self), QUndoStack(self)
        self.setActiveStack(self.music)

    def undo_need(self) -> str:
        """Why nothing can be undone; empty where something can."""
        return "" if self.canUndo() else "There is nothing to undo here."

    def redo_need(self) -> str:
        """Why nothing can be redone; empty where something can."""
        return "" if self.canRedo() else "There is nothing to redo here."

    def close(self) -> None:
        """The program ends: what goes tells nobody of its own end."""
        for stack in (self.music, self.record):
            stack.blockSignals(True)
