"""The recording under a tab: attached, replaced by another transfer, or taken away; a tab laid over it."""

from pathlib import Path

from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, Progress
from notcher.core.hearing import Draft, draft
from notcher.core.proving import LaidOver, laid_over, laid_over_again
from notcher.core.sound import SOUND_ENDINGS, Clip, read_clip
from notcher.core.words import many
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_file_to_open

RECORDINGS = f"Recordings ({SOUND_ENDINGS})"
Heard = tuple[Clip, Draft, LaidOver]


class Recordings:
    """Changes what recording lies under the open tab; each change is one step that can be undone."""

    def __init__(self, session: Session, shell: Shell, parent: QWidget) -> None:
        self._session, self._shell, self._parent = session, shell, parent

    def ask_attach(self) -> None:
        """Ask for the recording that the tab is laid over, or that takes the place of the one there is."""
        title = "Replace the recording" if self._session.document.clip is not None else "Lay the tab over a recording"
        ask_file_to_open(self._parent, title, RECORDINGS, self.attach)

    def attach(self, path: str) -> None:
        """Hear a recording and bring the tab to its times."""
        document = self._session.document
        score, again = document.score, document.clip is not None

        def work(progress: Progress, cancelled: CancelCheck) -> Heard:
            clip = read_clip(Path(path))
            heard = draft(clip, progress=lambda share: progress(0.95 * share), cancelled=cancelled)
            lay = laid_over_again if again else laid_over
            return clip, heard, lay(score, heard, cancelled=cancelled)

        self._shell.run_job("Laying the tab over it", work, self._on_heard, document_id=document.id)

    def _on_heard(self, found: Heard) -> None:
        clip, heard, laid = found
        replaced = self._session.document.clip is not None
        name = "Replace the recording" if replaced else "Lay over the recording"
        self._session.set_recording(name, clip, heard, laid.score)
        self._shell.notice(laid_words(laid, len(laid.score.notes)))

    def take_away(self) -> None:
        """Keep the tab, and let go of the recording."""
        self._session.set_recording("Take the recording away", None, None, self._session.document.score)
        self._shell.notice("The recording is taken away; the tab stays as it is. Undo brings it back.")

    def need_notes(self) -> str:
        """Why no recording can be laid under the tab; empty when one can."""
        if self._session.document.score.notes:
            return ""
        return "There is no tab yet: open the recording itself, or write some notes first."


def laid_words(laid: LaidOver, count: int) -> str:
    """Return what came of laying a tab over a recording, and what does not fit, in a sentence."""
    found = count - len(laid.not_found)
    said = f"{found} of {many(count, 'note')} found in the recording"
    if laid.shift:
        way = "higher" if laid.shift > 0 else "lower"
        said += f", which sounds {many(abs(laid.shift), 'half step')} {way}: the neck is tuned to it"
    if laid.not_found:
        said += f"; {many(len(laid.not_found), 'note')} not found, marked as doubts (N walks through them)"
    if laid.unwritten:
        said += f"; {many(len(laid.unwritten), 'note')} heard that the tab does not have (Prove lists them)"
    return f"{said}."
