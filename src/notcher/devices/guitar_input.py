"""What a guitar input can do."""

from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.arrays import FloatArray
from notcher.core.score import Score
from notcher.core.sound import Clip


class GuitarInput(QObject):
    """Keeps what is played into it from `start` to `stop`."""

    lost = pyqtSignal(str)  # the device went away or was refused: what to tell the person
    description = ""
    simulated = False

    @property
    def recording(self) -> bool:
        raise NotImplementedError

    @property
    def position(self) -> int:
        """How many samples were kept since `start`."""
        raise NotImplementedError

    @property
    def sample_rate(self) -> int:
        """Hertz; the device's own, which may be an odd one."""
        raise NotImplementedError

    @property
    def level(self) -> float:
        """The loudest sample of late, 0..1."""
        raise NotImplementedError

    def start(self) -> bool:
        """Begin to keep sound; return whether that works. What does not work is told through `lost`."""
        raise NotImplementedError

    def since(self, position: int) -> FloatArray:
        """Return what was kept from a position on, one channel, shape (n,); it stays kept."""
        raise NotImplementedError

    def stop(self) -> Clip:
        """Return what was kept, one channel, and keep no more."""
        raise NotImplementedError

    def expect(self, score: Score, begin_s: float) -> None:
        """Say what is going to be played, and when after `start`; only a simulated guitarist has to be told."""

    def expect_sound(self, clip: Clip, begin_s: float) -> None:
        """Say what the loudspeaker is going to play; only a simulated room has to be told."""

    def play_as(self, skill: str) -> None:
        """Choose how a simulated guitarist plays; a real one plays as it can."""

    def close(self) -> None:
        """Let the device go."""
        if self.recording:
            self.stop()
