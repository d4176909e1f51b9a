"""The input and the loudspeaker that are used: the chosen ones while they are plugged in, others when they are not."""

from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.arrays import FloatArray
from notcher.core.score import Score
from notcher.core.sound import Clip
from notcher.devices.guitar_input import GuitarInput
from notcher.devices.loudspeaker import Loudspeaker, SampleSource
from notcher.devices.monitor_input import MonitorInput
from notcher.devices.qt_guitar_input import QtGuitarInput
from notcher.devices.qt_loudspeaker import QtLoudspeaker
from notcher.devices.simulated_guitarist import SimulatedGuitarist
from notcher.devices.simulated_loudspeaker import SimulatedLoudspeaker
from notcher.devices.sound_server import MONITOR, SoundServer


class PluggedInput(GuitarInput):
    """Hands everything on to the input in use.

    changed: told, in a sentence, that another one is used. chosen: the name of the wanted one; empty for the system's.
    """

    changed = pyqtSignal(str)

    def __init__(self, server: SoundServer, chosen: str = "", parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._server, self.chosen = server, chosen
        self._name = ""
        self.inner: GuitarInput = SimulatedGuitarist(self)
        self._use(self._wanted())
        server.changed.connect(self._on_devices)

    def choose(self, name: str) -> None:
        """Use this one from now on, or the system's choice; a take that runs ends on the one it began on."""
        self.chosen = name
        self._on_devices()

    def _wanted(self) -> str:
        inputs = self._server.plugged.inputs
        usual = next((name for name in inputs if not name.endswith(MONITOR)), "")
        return self.chosen if self.chosen in inputs else usual

    def _use(self, name: str) -> None:
        inputs = self._server.plugged.inputs
        self.inner.close()
        if not name:
            self.inner = SimulatedGuitarist(self)
        elif name.endswith(MONITOR):
            self.inner = MonitorInput(name, inputs[name], self)
        else:
            self.inner = QtGuitarInput(self, name=name)
        self._name = name
        self.inner.lost.connect(self.lost)

    def _on_devices(self) -> None:
        wanted, before = self._wanted(), self.inner.description
        if wanted == self._name or self.inner.recording:
            return
        gone = bool(self._name) and self._name not in self._server.plugged.inputs
        self._use(wanted)
        now = self.inner.description
        self.changed.emit(f"The input “{before}” went away: {now} is used now." if gone else f"The input is {now} now.")

    @property
    def description(self) -> str:  # type: ignore[override]
        return self.inner.description

    @property
    def simulated(self) -> bool:  # type: ignore[override]
        return self.inner.simulated

    @property
    def recording(self) -> bool:
        return self.inner.recording

    @property
    def position(self) -> int:
        return self.inner.position

    @property
    def sample_rate(self) -> int:
        return self.inner.sample_rate

    @property
    def level(self) -> float:
        return self.inner.level

    def start(self) -> bool:
        return self.inner.start()

    def since(self, position: int) -> FloatArray:
        return self.inner.since(position)

    def stop(self) -> Clip:
        clip = self.inner.stop()
        self._on_devices()
        return clip

    def expect(self, score: Score, begin_s: float) -> None:
        self.inner.expect(score, begin_s)

    def expect_sound(self, clip: Clip, begin_s: float) -> None:
        self.inner.expect_sound(clip, begin_s)

    def play_as(self, skill: str) -> None:
        self.inner.play_as(skill)

    def close(self) -> None:
        self.inner.close()


class _Later:
    """A source from a sample on."""

    def __init__(self, source: SampleSource, first: int) -> None:
        self._source, self._first, self.sample_rate = source, first, source.sample_rate

    def read(self, first: int, count: int) -> FloatArray:
        return self._source.read(self._first + first, count)


class PluggedLoudspeaker(Loudspeaker):
    """Hands everything on to the loudspeaker in use; what plays goes on on the next one. changed, chosen: as above."""

    changed = pyqtSignal(str)

    def __init__(self, server: SoundServer, chosen: str = "", parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._server, self.chosen = server, chosen
        self._name, self._base = "", 0
        self.inner: Loudspeaker = SimulatedLoudspeaker(self)
        self._use(self._wanted())
        server.changed.connect(self._on_devices)

    def choose(self, name: str) -> None:
        """Play through this one from now on, or through the system's choice."""
        self.chosen = name
        self._on_devices()

    def _wanted(self) -> str:
        outputs = self._server.plugged.outputs
        return self.chosen if self.chosen in outputs else next(iter(outputs), "")

    def _use(self, name: str) -> None:
        at, source = self.position, self._source
        self.inner.close()
        self.inner = QtLoudspeaker(self, name=name) if name else SimulatedLoudspeaker(self)
        self._name = name
        self.inner.lost.connect(self._on_lost)
        if source is not None:
            self._base = at
            self.inner.play(_Later(source, at))

    def _on_devices(self) -> None:
        wanted, before = self._wanted(), self.inner.description
        if wanted == self._name:
            return
        gone = bool(self._name) and self._name not in self._server.plugged.outputs
        self._use(wanted)
        now = self.inner.description
        words = f"The loudspeaker “{before}” went away: {now} plays now." if gone else f"{now} plays now."
        self.changed.emit(words)

    def _on_lost(self, sentence: str) -> None:
        """It answers no more, though nothing was said of it: silence goes on in its time."""
        self._use("")
        self.changed.emit(sentence)

    @property
    def description(self) -> str:  # type: ignore[override]
        return self.inner.description

    @property
    def simulated(self) -> bool:  # type: ignore[override]
        return self.inner.simulated

    def play(self, source: SampleSource) -> None:
        self._source, self._base = source, 0
        self.inner.play(source)

    def stop(self) -> None:
        self._source = None
        self.inner.stop()

    @property
    def position(self) -> int:
        return self._base + self.inner.position if self._source is not None else 0

    def close(self) -> None:
        self._source = None
        self.inner.close()
