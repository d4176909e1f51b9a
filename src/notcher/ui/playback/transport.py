"""What the transport's keys and buttons do: loop the phrase, change the pace, move the playhead."""

from collections.abc import Callable

import numpy as np

from notcher.core.score import STANDARD
from notcher.core.teaching import RUNG_PACES
from notcher.core.words import pitch_words
from notcher.ui.playback.player import PaceReason, Player
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell

SLOWEST, FASTEST, STEP = 0.25, 1.5, 0.05  # of full speed; beyond a quarter stretching smears every attack
MOST_SEMITONES = 6.0  # half an octave each way reaches every key
SAME_S = 0.005  # the playhead stands on what is nearer


class Transport:
    """Stands between the selection and the player."""

    def __init__(self, session: Session, player: Player, shell: Shell, show_time: Callable[[float], None]) -> None:
        self._session, self._player, self._shell, self._show_time = session, player, shell, show_time
        self.rungs: tuple[float, ...] = RUNG_PACES
        self.up_after = 0  # rounds at a pace until a loop goes faster by itself, 0 for never
        player.round_began.connect(self._on_round_began)

    def toggle_loop(self) -> None:
        if self._player.loop_span is not None:
            self._player.set_loop(None)
        else:
            self.loop_phrase()

    def loop_phrase(self) -> None:
        """Loop the selected note's phrase, or the one at the playhead."""
        phrase = self._session.phrase or self._session.score.phrase_at(self._player.time_s)
        if phrase is None:
            self._shell.notice("No phrase lies here. Drag over the reel to mark what to loop.")
            return
        self._player.set_loop((phrase.start_s, phrase.end_s))

    def change_pace(self, steps: int) -> None:
        """Go faster by so many steps, or slower by a negative number."""
        self._player.set_pace(min(FASTEST, max(SLOWEST, round(self._player.pace + steps * STEP, 2))))

    def climb(self, pace: float) -> None:
        """Go on at the rung that the ladder names from the loop's next start on, if something goes round."""
        if self._player.playing and self._player.loop_span is not None:
            self._player.climb(pace, PaceReason.TEMPO_STEP)

    def _on_round_began(self, number: int) -> None:
        """In the last round before it goes faster by itself, let the next begin a rung faster; up to the tempo."""
        above = [pace for pace in self.rungs if self._player.pace + 0.001 < pace <= 1.0]
        if self.up_after and number >= self.up_after and above:
            self._player.climb(above[0], PaceReason.CLIMBED)

    def follow_phrase(self) -> None:
        """Let a loop that goes round one phrase go on to the phrase that was stepped to."""
        span, phrase = self._player.loop_span, self._session.phrase
        looped = [
            candidate for candidate in self._session.score.phrases if (candidate.start_s, candidate.end_s) == span
        ]
        if looped and phrase is not None:
            self._player.set_loop((phrase.start_s, phrase.end_s))

    def play_at(self, start_s: float, end_s: float, pace: float) -> None:
        """Loop a stretch at a pace."""
        self._player.set_pace(pace, PaceReason.TEMPO_STEP)
        self._player.set_loop((start_s, end_s))
        self._player.play()

    def seek_note(self) -> None:
        """Put the playhead to the selected note."""
        note = self._session.note
        if note is not None:
            self._player.seek(note.onset_s)

    # --- the pitch of what is heard ---
    def move_pitch(self, semitones: float) -> None:
        """Let all that is heard sound higher or lower."""
        moved = round(self._player.semitones + semitones, 2)
        self._player.set_pitch(min(MOST_SEMITONES, max(-MOST_SEMITONES, moved)))
        self._shell.notice(pitch_words(self._player.semitones))

    def meet_guitar(self) -> None:
        """Move the sound so that a guitar in standard tuning fits it, as if it were retuned; or back."""
        tuning = self._session.score.tuning
        off = STANDARD.open_midi[0] - tuning.open_midi[0] - tuning.offset_cents / 100
        off = round(min(MOST_SEMITONES, max(-MOST_SEMITONES, off)), 2)
        self._player.set_pitch(0.0 if self._player.semitones == off else off)
        self._shell.notice(pitch_words(self._player.semitones))

    # --- the playhead ---
    def move(self, by_s: float) -> None:
        """Move the playhead by so many seconds."""
        self._seek(self._player.time_s + by_s)

    def to_note(self, step: int) -> None:
        """Put the playhead to the next (1) or previous (-1) onset."""
        self._to_next([note.onset_s for note in self._session.score.notes], step)

    def to_beat(self, step: int) -> None:
        """Put the playhead to the next or previous felt beat."""
        beat_map = self._session.score.beat_map
        felt = beat_map.felt(beat_map.quarter(self._player.time_s))
        near = np.arange(np.floor(felt) - 1, np.floor(felt) + 3)
        self._to_next(beat_map.time_at(beat_map.quarter_of_felt(near)).tolist(), step)

    def to_bar(self, step: int) -> None:
        """Put the playhead to the beginning of the next or previous bar."""
        beat_map = self._session.score.beat_map
        bar = beat_map.bar_at(beat_map.quarter(self._player.time_s))
        starts = np.array([beat_map.bar_start(at) for at in range(bar - 1, bar + 3)])
        self._to_next(beat_map.time_at(starts).tolist(), step)

    def _to_next(self, times_s: list[float], step: int) -> None:
        now_s = self._player.time_s
        if step > 0:
            self._seek(min((at for at in times_s if at > now_s + SAME_S), default=now_s))
        else:
            self._seek(max((at for at in times_s if at < now_s - SAME_S), default=now_s))

    def _seek(self, time_s: float) -> None:
        self._player.seek(time_s)
        self._show_time(self._player.time_s)
