"""What is played: the recording, the tab as written through a plain amp, or one on each side."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Progress, no_progress
from notcher.core.mixing import Levels, missing_part_words, missing_parts, mixed
from notcher.core.score import Score, excerpt
from notcher.core.sound import Clip, beside, resampled
from notcher.core.synthesis import coloured, render
from notcher.ui.playback.levelled import BESIDE, RECORDING, TAB, Channels
from notcher.ui.playback.player import Player
from notcher.ui.state.jobs import Jobs, Work
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell

RATE = 44_100
BREATH_S = 0.6  # between two that are compared
BEFORE_S, AFTER_S = 0.05, 0.1  # around notes that are played alone


class PlaybackSource(StrEnum):
    """What can be played."""

    RECORDING = "recording"
    TAB = "tab"
    BOTH = "both"  # the recording on the left, the tab on the right
    BAND = "band"  # the chords as a band plays them, to play along with
    MIX = "mix"  # all parts that are not silent


CHANNELS = {
    PlaybackSource.RECORDING: RECORDING,
    PlaybackSource.TAB: TAB,
    PlaybackSource.BOTH: BESIDE,
    PlaybackSource.BAND: RECORDING,
    PlaybackSource.MIX: RECORDING,
}
MIXED = (PlaybackSource.BAND, PlaybackSource.MIX)
"""What is made of parts, each with its volume."""
LONGEST_MIX_S = 150.0  # made as a whole; of a longer recording only around what is played
AROUND_S = (5.0, 60.0)  # before and after the playhead, where nothing loops


@dataclass(frozen=True, eq=False)
class RenderedPiece:
    """A stretch of a recording, or of a tab where the recording is None."""

    clip: Clip | None
    score: Score
    start_s: float
    end_s: float


class Sources:
    """Makes what the player plays fit the chosen source."""

    def __init__(self, session: Session, player: Player, jobs: Jobs, settings: Settings, shell: Shell) -> None:
        self._session, self._player, self._jobs = session, player, jobs
        self._settings, self._shell = settings, shell
        self.chosen = self._stretch = PlaybackSource.RECORDING
        self._mixed: tuple[tuple[float, float], tuple[bool, ...]] = ((0.0, 0.0), ())
        self.on_chosen: Callable[[PlaybackSource], None] = lambda _source: None
        self._plays = False  # what is being made is to be heard at once
        self._recording: Clip | None = None  # what of the recording is played: all of it, or what is analysed

    def on_opened(self) -> None:
        """Another document is open: its recording is played, or its tab where it has none."""
        self._recording = self._session.document.clip
        self._plays = False
        self._take(PlaybackSource.RECORDING if self._recording is not None else PlaybackSource.TAB)

    def on_score_changed(self) -> None:
        if self.chosen is not PlaybackSource.RECORDING:
            self.refresh()

    def choose(self, source: PlaybackSource) -> None:
        """Play the recording, the tab as written, or both, at once; what plays already goes on with it."""
        self._take(source)
        self._plays = not self._player.playing
        self.refresh()

    def _take(self, source: PlaybackSource) -> None:
        self.chosen = source
        self.on_chosen(source)

    def _put(self, sound: Clip | None, channels: Channels = RECORDING) -> None:
        """Give the player a sound, and begin with it where that was asked for."""
        if self._player.clip is not sound:
            self._player.replace_sound(sound, channels)
        if self._plays:
            self._plays = False
            self._player.play()

    def play_of_recording(self, sound: Clip | None) -> None:
        """Let this part of the recording stand for it: what is analysed, or all of it."""
        self._recording = sound
        if self.chosen is PlaybackSource.RECORDING and self._player.clip is not sound:
            self._player.replace_sound(sound)

    def refresh(self) -> None:
        """Make what is played fit the source and the score as it is now."""
        source, score, clip = self.chosen, self._session.score, self._session.document.clip
        if source in MIXED:
            self._refresh_mix()
            return
        if source is PlaybackSource.RECORDING or not score.notes:
            self._put(self._recording)
            return
        length_s = clip.duration_s if clip is not None else None
        amp, rate = self._amp, clip.sample_rate if clip is not None else RATE

        def work(progress: Progress, cancelled: CancelCheck) -> Clip:
            tab = _rendered(score, rate, length_s, amp, cancelled, progress=progress)
            return beside(clip, tab) if source is PlaybackSource.BOTH and clip is not None else tab

        channels = BESIDE if source is PlaybackSource.BOTH and clip is not None else TAB
        self._start("source", work, lambda sound: self._put(sound, channels))

    def _refresh_mix(self) -> None:
        """Make the mix of what is looped, or of all of a short recording."""
        score, clip, levels, amp = self._session.score, self._session.document.clip, self._levels, self._amp
        end_s = clip.duration_s if clip is not None else max((note.offset_s for note in score.notes), default=1.0) + 0.5
        span, made_of = self._mix_span(end_s), self._made_of(levels)

        def work(_progress: Progress, cancelled: CancelCheck) -> tuple[Clip, Channels]:
            return mixed(clip, score, *span, levels=levels, amp=amp, cancelled=cancelled)

        def done(rendered: tuple[Clip, Channels]) -> None:
            self._mixed = (span, made_of)
            self._put(*rendered)

        document_id = self._session.document.id
        self._jobs.start("source", work, finished=done, failed=self._shell.tell_failure, document_id=document_id)

    def _mix_span(self, end_s: float) -> tuple[float, float]:
        loop = self._player.loop_span
        if end_s <= LONGEST_MIX_S:
            return 0.0, end_s
        if loop is not None:
            return max(0.0, loop[0] - 1.0), min(end_s, loop[1] + 1.0)
        return max(0.0, self._player.time_s - AROUND_S[0]), min(end_s, self._player.time_s + AROUND_S[1])

    @staticmethod
    def _made_of(levels: Levels) -> tuple[bool, ...]:
        """Which parts a mix has, and whether its lead is by itself."""
        volumes = (levels.recording, levels.tab, levels.band, levels.click)
        return *(level > 0 for level in volumes), levels.lead != 1.0

    def on_levels_changed(self) -> None:
        """Another volume is heard at once; a part that was silent has to be made first."""
        if self.chosen in MIXED and self._mixed[1] != self._made_of(self._levels):
            self.refresh()

    def on_loop_changed(self) -> None:
        """Of a long recording the mix is made where it is played."""
        clip, loop = self._session.document.clip, self._player.loop_span
        if self.chosen not in MIXED or clip is None or loop is None or clip.duration_s <= LONGEST_MIX_S:
            return
        start_s, end_s = self._mixed[0]
        if not start_s <= loop[0] < loop[1] <= end_s:
            self.refresh()

    def play_stretch(self, start_s: float, end_s: float, source: PlaybackSource | None) -> None:
        """Play a short stretch once at the pace; None for the same source again."""
        clip, score, amp = self._session.document.clip, self._session.score, self._amp
        self._stretch = source = source or self._stretch
        if clip is None:
            return
        piece = clip.cut(start_s, end_s)

        def work(_progress: Progress, cancelled: CancelCheck) -> Clip:
            if source in (PlaybackSource.RECORDING, *MIXED):
                return piece
            part = excerpt(score, start_s, end_s)
            tab = _rendered(part, clip.sample_rate, piece.duration_s, amp, cancelled)
            return beside(piece, tab) if source is PlaybackSource.BOTH else tab

        def done(sound: Clip) -> None:
            self._player.play_piece(sound, start_s, CHANNELS[source])

        self._start("stretch", work, done)

    def play_in_turn(self, spans_s: Sequence[tuple[float, float]]) -> None:
        """Play stretches one after the other, with a breath between: of the recording, or of the tab where that is the
        source or there is no recording."""
        clip, score, amp = self._session.document.clip, self._session.score, self._amp
        of_tab = clip is None or self.chosen is PlaybackSource.TAB
        rate = clip.sample_rate if clip is not None else RATE

        def work(_progress: Progress, cancelled: CancelCheck) -> Clip:
            pieces: list[FloatArray] = []
            for start_s, end_s in spans_s:
                begin_s, stop_s = max(0.0, start_s - BEFORE_S), end_s + AFTER_S
                if clip is None or of_tab:
                    part = excerpt(score, begin_s, stop_s)
                    piece = _rendered(part, rate, stop_s - begin_s, amp, cancelled).samples
                else:
                    piece = clip.cut(begin_s, stop_s).samples
                breath = np.zeros((round(BREATH_S * rate), piece.shape[1]), dtype=np.float32)
                pieces += [piece, breath]
            return Clip(np.concatenate(pieces), rate, "one after the other")

        side = TAB if of_tab else RECORDING
        self._start("stretch", work, lambda sound: self._player.play_piece(sound, spans_s[0][0], side))

    def play_pieces(self, pieces: Sequence[RenderedPiece], at_s: float) -> None:
        """Play stretches of recordings, or of tabs where there is none, one after the other, with a breath between."""
        amp = self._amp

        def work(_progress: Progress, cancelled: CancelCheck) -> Clip:
            breath = np.zeros((round(BREATH_S * RATE), 2), dtype=np.float32)
            parts: list[FloatArray] = []
            for piece in pieces:
                if piece.clip is not None:
                    cut = piece.clip.cut(piece.start_s, piece.end_s)
                    sound = resampled(cut.samples, from_rate=cut.sample_rate, to_rate=RATE)
                else:
                    part = excerpt(piece.score, piece.start_s, piece.end_s)
                    sound = _rendered(part, RATE, piece.end_s - piece.start_s, amp, cancelled).samples
                parts += [np.repeat(sound, 2, axis=1) if sound.shape[1] == 1 else sound, breath]
            return Clip(np.concatenate(parts), RATE, "one after the other")

        self._start("stretch", work, lambda sound: self._player.play_piece(sound, at_s, RECORDING))

    def play_scores(self, scores: Sequence[Score], at_s: float) -> None:
        """Play short scores one after the other, with a breath between, through the plain amp. at_s: the second of the
        recording that this is of."""
        amp = self._amp

        def work(_progress: Progress, cancelled: CancelCheck) -> Clip:
            pieces = [_rendered(score, RATE, None, amp, cancelled).samples for score in scores if score.notes]
            breath = np.zeros((round(BREATH_S * RATE), 1), dtype=np.float32)
            parts = [part for piece in pieces for part in (piece, breath)]
            return Clip(np.concatenate(parts) if parts else breath, RATE, "one after the other")

        self._start("stretch", work, lambda sound: self._player.play_piece(sound, at_s, TAB))

    def play_take(self, take: Clip, aligned: Score | None, begin_s: float, origin_s: float) -> None:
        """Play a take at full pace, with the tab as it should have been on the right where one is given.

        begin_s: where in the take to begin. origin_s: the second of the recording that this is.
        """

        def work(_progress: Progress, cancelled: CancelCheck) -> Clip:
            if aligned is None:
                return take
            tab = render(aligned, sample_rate=take.sample_rate, duration_s=take.duration_s, cancelled=cancelled)
            return beside(take, tab)

        def done(sound: Clip) -> None:
            self._player.set_pace(1.0)
            self._player.play_piece(sound.cut(begin_s, sound.duration_s), origin_s, BESIDE if aligned else RECORDING)

        self._start("stretch", work, done)

    def _start(self, kind: str, work: Work, when_done: Callable[[Clip], None]) -> None:
        document_id = self._session.document.id
        self._jobs.start(kind, work, finished=when_done, failed=self._shell.tell_failure, document_id=document_id)

    def play_selection(self) -> None:
        """Play the selected notes once."""
        notes = list(self._session.chosen.notes(self._session.score))
        if notes:
            self._player.play_span(notes[0].onset_s - BEFORE_S, max(note.offset_s for note in notes) + AFTER_S)

    def choosing(self, source: PlaybackSource) -> tuple[Callable[[], None], Callable[[], bool]]:
        """Return what chooses a source, and what tells whether it is chosen."""
        return lambda: self.choose(source), lambda: self.chosen is source

    @property
    def _levels(self) -> Levels:
        """How loud each part of what is chosen is; the band plays with no more than its clicks."""
        levels = self._settings.levels
        return replace(levels, recording=0.0, tab=0.0) if self.chosen is PlaybackSource.BAND else levels

    def band_need(self) -> str:
        """Why the band cannot be heard; empty when it can."""
        document = self._session.document
        missing = missing_parts(document.clip, self._session.score).get("band")
        if missing is not None:
            return missing_part_words(missing)
        return "" if self._settings.levels.band > 0 else "The band's volume is 0: turn it up under Volumes."

    @property
    def _amp(self) -> str:
        return str(self._settings.get("amp"))


def _rendered(
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
