"""What is heard: the recording, the tab as written through a plain amp, or one on each side."""

from __future__ import annotations

from typing import TYPE_CHECKING

from notcher.core.errors import CancelCheck, Progress, no_progress
from notcher.core.proving import coloured, render
from notcher.core.score import Score, excerpt
from notcher.core.sound import Clip, beside
from notcher.ui.commands.menus import VOICES

if TYPE_CHECKING:
    from notcher.ui.shell.window import Window

RATE = 44_100


class Voices:
    """Makes what the player plays fit the chosen voice."""

    def __init__(self, window: Window) -> None:
        self._window = window
        self.voice = self._stretch_voice = "recording"

    def on_opened(self) -> None:
        """Another document is open: its recording is heard, or its tab where it has none."""
        self.voice = "recording" if self._window.session.document.clip is not None else "tab"
        self._window.actions_by_name[VOICES[self.voice][0]].setChecked(True)

    def on_score_changed(self) -> None:
        if self.voice != "recording":
            self.refresh()

    def choose(self, voice: str) -> None:
        """Play the recording, the tab as written, or both."""
        self.voice = voice
        self._window.actions_by_name[VOICES[voice][0]].setChecked(True)
        self.refresh()

    def refresh(self) -> None:
        """Make what is played fit the voice and the score as it is now."""
        window, voice = self._window, self.voice
        score, clip, player = window.session.score, window.session.document.clip, window.player
        if voice == "recording" or not score.notes:
            if player.clip is not clip and not window.hear.plays_focus:
                player.replace_sound(clip)
            return
        length_s = clip.duration_s if clip is not None else None
        amp, rate = self._amp, clip.sample_rate if clip is not None else RATE

        def work(progress: Progress, cancelled: CancelCheck) -> Clip:
            tab = _played(score, rate, length_s, amp, cancelled, progress=progress)
            return beside(clip, tab) if voice == "both" and clip is not None else tab

        window.jobs.start("voice", work, finished=player.replace_sound, failed=window.tell_failure)

    def hear_stretch(self, start_s: float, end_s: float, voice: str) -> None:
        """Play a short stretch once at the pace: the recording, the tab, or both ("" for the same again)."""
        window = self._window
        clip, score, amp = window.session.document.clip, window.session.score, self._amp
        self._stretch_voice = voice = voice or self._stretch_voice
        if clip is None:
            return
        piece = clip.cut(start_s, end_s)

        def work(_progress: Progress, cancelled: CancelCheck) -> Clip:
            if voice == "recording":
                return piece
            part = excerpt(score, start_s, end_s)
            tab = _played(part, clip.sample_rate, piece.duration_s, amp, cancelled)
            return beside(piece, tab) if voice == "both" else tab

        self._window.jobs.start(
            "stretch",
            work,
            finished=lambda sound: window.player.play_piece(sound, start_s),
            failed=window.tell_failure,
        )

    def hear_selection(self) -> None:
        """Play the selected notes once."""
        session = self._window.session
        chosen, notes = session.selection, session.score.notes
        if chosen:
            start_s, end_s = notes[chosen[0]].onset_s - 0.05, max(notes[i].offset_s for i in chosen) + 0.1
            self._window.player.play_span(start_s, end_s)

    @property
    def _amp(self) -> str:
        return str(self._window.settings.get("amp"))


def _played(
    score: Score,
    rate: int,
    length_s: float | None,
    amp: str,
    cancelled: CancelCheck,
    *,
    progress: Progress = no_progress,
) -> Clip:
    tab = render(score, sample_rate=rate, duration_s=length_s, progress=progress, cancelled=cancelled)
    return Clip(coloured(tab.samples[:, 0], amp, sample_rate=rate)[:, None], rate, tab.name)
