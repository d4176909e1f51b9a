"""Opening another version of the open solo, laying both over each other, and letting both be heard."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, Progress
from notcher.core.formats import read_document
from notcher.core.hearing import Measured, draft
from notcher.core.proving import Version, compared
from notcher.core.sound import SOUND_ENDINGS, Clip, read_clip
from notcher.ui.benches.shapes.versions_page import OtherVersion
from notcher.ui.playback.sources import RenderedPiece, Sources
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_file_to_open

VERSIONS = f"Another version: a document or a recording (*.notch {SOUND_ENDINGS})"


class Comparing:
    """Compares the open solo with other versions of it. show: told of each that was laid over it."""

    def __init__(
        self, session: Session, sources: Sources, shell: Shell, show: Callable[[OtherVersion], None], parent: QWidget
    ) -> None:
        self._session, self._sources, self._shell = session, sources, shell
        self._show, self._parent = show, parent

    def ask(self) -> None:
        ask_file_to_open(self._parent, "Compare with another version", VERSIONS, self.compare)

    def compare(self, path: str) -> None:
        """Read or hear another version, and list what was played otherwise."""
        document, file = self._session.document, Path(path)
        has_curves = self._session.heard is not None or document.track.times_s.size > 0
        own = Version(document.score, self._session.measured if has_curves else None, document.attacks_s)

        def work(progress: Progress, cancelled: CancelCheck) -> OtherVersion:
            other, clip = _other(file, progress, cancelled)
            return OtherVersion(file.stem, compared(own, other, cancelled=cancelled), clip)

        self._shell.run_job("Comparing", work, self._show, document_id=document.id)

    def hear(self, version: OtherVersion, start_s: float, end_s: float, which: str) -> None:
        """Play a stretch of the open solo, of the other version, or one after the other."""
        comparison, own = version.comparison, self._session.document.clip
        begin_s, stop_s = (max(0.0, comparison.to_second(time_s)) for time_s in (start_s, end_s))
        here = RenderedPiece(own, comparison.first.score, start_s, end_s)
        there = RenderedPiece(version.clip, comparison.second.score, begin_s, max(stop_s, begin_s + 0.1))
        self._sources.play_pieces({"here": [here], "there": [there]}.get(which, [here, there]), start_s)


def _other(file: Path, progress: Progress, cancelled: CancelCheck) -> tuple[Version, Clip | None]:
    """A document as it is written, a recording as it is heard.

    Raises: FileError, AudioError, HearingError, Cancelled.
    """
    if file.suffix.lower() == ".notch":
        document = read_document(file)
        track = document.track
        measured = Measured((track,), document.score.tuning.offset_cents) if track.times_s.size else None
        return Version(document.score, measured, document.attacks_s), document.clip
    clip = read_clip(file)
    drafted = draft(clip, progress=lambda share: progress(0.95 * share), cancelled=cancelled)
    return Version(drafted.score, drafted.measured, drafted.attacks_s), clip
