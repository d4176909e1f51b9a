"""The recording under a tab: attached, replaced by another transfer, or taken away; a tab laid over it."""

from pathlib import Path

from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, Progress
from notcher.core.hearing import Draft, draft
from notcher.core.proving import LaidOver, laid_over, laid_over_again
from notcher.core.score import only
from notcher.core.sound import SOUND_ENDINGS, Clip, read_clip
from notcher.core.words import clock, many
from notcher.ui.playback.player import Player
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_file_to_open

RECORDINGS = f"Recordings ({SOUND_ENDINGS})"
Heard = tuple[Clip, Draft, LaidOver]


class Recordings:
    """Changes what recording lies under the open tab; each change is one step that can be undone."""

    def __init__(self, session: Session, player: Player, shell: Shell, parent: QWidget) -> None:
        self._session, self._player, self._shell, self._parent = session, player, shell, parent

    def ask_attach(self) -> None:
        """Ask for the recording that the tab is laid over, or that takes the place of the one there is."""
        title = "Replace the recording" if self._session.document.clip is not None else "Sync the tab to a recording"
        ask_file_to_open(self._parent, title, RECORDINGS, self.attach)

    def attach(self, path: str) -> None:
        """Hear a recording and bring the tab to its times."""
        document = self._session.document
        score, again = document.score, document.clip is not None

        def work(progress: Progress, cancelled: CancelCheck) -> Heard:
            clip = read_clip(Path(path))
            drafted = draft(clip, progress=lambda share: progress(0.95 * share), cancelled=cancelled)
            lay = laid_over_again if again else laid_over
            return clip, drafted, lay(score, drafted, cancelled=cancelled)

        self._shell.run_job("Laying the tab over it", work, self._on_heard, document_id=document.id)

    def _on_heard(self, outcome: Heard) -> None:
        clip, draft, laid = outcome
        replaced = self._session.document.clip is not None
        name = "Replace the recording" if replaced else "Lay over the recording"
        self._session.set_recording(name, clip, draft, laid.score)
        self._shell.notice(laid_words(laid, len(laid.score.notes)))

    def take_away(self) -> None:
        """Keep the tab, and let go of the recording."""
        self._session.set_recording("Take the recording away", None, None, self._session.document.score)
        self._shell.notice("The recording is taken away; the tab stays as it is. Undo brings it back.")

    def keep_stretch(self) -> None:
        """Keep only the looped stretch of the recording, and of the tab what lies in it; what was not heard is."""
        span, document, heard_before = self._player.loop_span, self._session.document, self._session.heard
        if span is None or document.clip is None:
            return
        clip, score = document.clip.cut(*span), only(document.score, *span)
        tuning = score.tuning if heard_before is not None else None

        def work(progress: Progress, cancelled: CancelCheck) -> Draft:
            return draft(clip, tuning=tuning, progress=progress, cancelled=cancelled)

        def done(draft: Draft) -> None:
            self._player.set_loop(None)
            score_after = score if heard_before is not None and score.notes else draft.score
            self._session.set_recording("Keep only a stretch", clip, draft, score_after)
            times = " to ".join(clock(time_s) for time_s in span)
            self._shell.notice(f"Only {times} is kept, and times count from there. Undo brings the rest back.")

        self._shell.run_job("Hearing the stretch", work, done, document_id=document.id)

    def need_stretch(self) -> str:
        """Why no stretch can be kept; empty when one can."""
        if self._session.document.clip is None:
            return "There is no recording. Open one with File, Open."
        return "" if self._player.loop_span is not None else "Drag over the wanted stretch on the strip below first."

    def need_notes(self) -> str:
        """Why no recording can be laid under the tab; empty when one can."""
        if self._session.document.score.notes:
            return ""
        return "There is no tab yet: open the recording itself, or write some notes first."


def laid_words(laid: LaidOver, count: int) -> str:
    """Return what came of laying a tab over a recording, and what does not fit, in a sentence."""
    matched = count - len(laid.not_found)
    text = f"{matched} of {many(count, 'note')} found in the recording"
    if laid.shift:
        way = "higher" if laid.shift > 0 else "lower"
        text += f", which sounds {many(abs(laid.shift), 'half step')} {way}: the neck is tuned to it"
    if laid.not_found:
        text += f"; {many(len(laid.not_found), 'note')} not found, marked as doubts (N walks through them)"
    if laid.unwritten:
        text += f"; {many(len(laid.unwritten), 'note')} heard that the tab does not have (Prove lists them)"
    return f"{text}."
