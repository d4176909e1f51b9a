"""A voice that says what is to be played: the machine's, or one that only writes what it would say."""

from PyQt6.QtCore import QObject, pyqtSignal


class Voice(QObject):
    """Says one thing at a time; what is said next ends what was said before."""

    lost = pyqtSignal(str)  # it went away: what to tell the person
    written = pyqtSignal(str)  # what is said, for those who read
    description = ""
    simulated = False

    def say(self, words: str) -> None:
        raise NotImplementedError

    def stop(self) -> None:
        """Fall silent."""

    def close(self) -> None:
        """Let the device go."""
        self.stop()


class WrittenVoice(Voice):
    """For machines without a voice: writes. said: everything so far, the newest last."""

    description, simulated = "no voice here: it is written", True
    MOST_KEPT = 1_000

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.said: list[str] = []

    def say(self, words: str) -> None:
        self.said = [*self.said[-self.MOST_KEPT :], words]
        self.written.emit(words)
