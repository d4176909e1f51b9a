"""The machine's voice through Qt TextToSpeech (speech-dispatcher)."""

from PyQt6.QtCore import QLocale, QObject
from PyQt6.QtTextToSpeech import QTextToSpeech

from notcher.devices.voice import Voice

SILENT_ENGINES = ("mock", "none")
SLOWER = -0.1  # of Qt's rate, -1..1: figures are followed with the hands


def engines() -> list[str]:
    """Return the speech engines that make a sound."""
    return [name for name in QTextToSpeech.availableEngines() if name not in SILENT_ENGINES]


class QtVoice(Voice):
    """Speaks English, as the words are; where there is no English voice, with the one there is."""

    def __init__(self, engine: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._speech = QTextToSpeech(engine, self)
        self._speech.setLocale(QLocale(QLocale.Language.English))
        self._speech.setRate(SLOWER)
        self.description = f"voice: {engine}"
        self._speech.errorOccurred.connect(self._on_error)

    @property
    def ready(self) -> bool:
        """Whether it can speak."""
        return self._speech.state() is not QTextToSpeech.State.Error and bool(self._speech.availableVoices())

    def say(self, words: str) -> None:
        self._speech.say(words)  # Qt ends what was said before
        self.written.emit(words)

    def stop(self) -> None:
        self._speech.stop()

    def _on_error(self, _reason: object, words: str) -> None:
        self.lost.emit(f"The voice went away ({words}); what it would say is written from now on.")
