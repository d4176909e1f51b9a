"""What a loudspeaker can do."""

from typing import Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.arrays import FloatArray


class SampleSource(Protocol):
    """Endless stereo sound that can be read from any sample on."""

    @property
    def sample_rate(self) -> int: ...

    def read(self, first: int, count: int) -> FloatArray:
        """Return samples first..first+count, shape (count, 2), float32, full scale ±1."""
        ...


class Loudspeaker(QObject):
    """Plays one source at a time, from its first sample."""

    lost = pyqtSignal(str)  # the device went away: what to tell the person
    description = ""
    simulated = False
    _source: SampleSource | None = None

    @property
    def playing(self) -> bool:
        return self._source is not None

    def play(self, source: SampleSource) -> None:
        """Start a source, in place of the one that plays."""
        raise NotImplementedError

    def stop(self) -> None:
        """Fall silent."""
        raise NotImplementedError

    @property
    def position(self) -> int:
        """The sample of the source that is heard now."""
        raise NotImplementedError

    def close(self) -> None:
        """Let the device go; nothing may be asked of it afterwards."""
        self.stop()
