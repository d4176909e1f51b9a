"""Playing: the recording from the playhead on, or a loop, at the chosen pace."""

from collections.abc import Callable
from enum import StrEnum
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from notcher.core.arrays import FloatArray
from notcher.core.mixing import Handover, Levels, Loop, LoopPassage, Silence, Turn, counted_in
from notcher.core.score import BeatMap
from notcher.core.sound import Clip
from notcher.devices import Loudspeaker
from notcher.ui.playback.levelled import RECORDING, Channels, Levelled, Monitor, Stream
from notcher.ui.state.jobs import Jobs, Work

FRAME_MS = 16  # 60 a second
LOOPS_KEPT = 6  # of rendered sound: the last few rungs
LONGEST_S = 3_600.0  # of what is rendered at once: 1.3 GB of stereo

Span = tuple[float, float]
ENTRY_S = 0.15  # until another pace takes over, behind what the loudspeaker was given
MARGIN_S = 0.05  # of sound that is there beyond what is asked for, when another pace takes over


class PaceReason(StrEnum):
    """Why it plays at the pace it plays at, as the transport says it."""

    CHOSEN = "as you set it"
    LAST_TIME = "as last time"
    TEMPO_STEP = "tempo step"
    CLIMBED = "faster by itself"
    NOTE_BY_NOTE = "note by note"


class Player(QObject):
    """Knows where the playhead is and what is heard; asks the loudspeaker, prepares loops off the UI thread."""

    moved = pyqtSignal(float)
    state_changed = pyqtSignal()
    went_round = pyqtSignal()  # a loop has come to its end and begins again
    round_began = pyqtSignal(int)  # of a loop: how many it is at this pace, from 1
    notice = pyqtSignal(str)
    speaker_changed = pyqtSignal(object)  # the one that was there is gone
    interrupted = pyqtSignal()  # what is played by a plan shall be at another pace, pitch or of another sound

    def __init__(self, speaker: Loudspeaker, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.speaker, self._jobs = speaker, jobs
        self.clip: Clip | None = None
        self.beat_map = BeatMap()
        self.loop_span: Span | None = None
        self.pace, self.pace_reason = 1.0, PaceReason.CHOSEN
        self.count_in, self._count_in_later = True, False
        self.time_s = 0.0
        self.preparing = False
        self._until_s: float | None = None
        self._piece: tuple[Clip, float, Channels] | None = None  # what is played of its own
        self.stream: Stream | None = None  # what is heard now
        self._line: Handover[Levelled] | None = None
        self._turn: Turn[Levelled] | None = None
        self.resume: Callable[[], bool] = lambda: False  # goes on with a plan that was stopped, if one was
        self._by_plan = False  # what plays is what `play_plan` began
        self._passes, self._climbs = 0, PaceReason.CLIMBED
        self.levels = Levels()
        self._channels = RECORDING
        self.semitones, self.gap_s = 0.0, 0.0
        self.monitor: Monitor | None = None
        self.spare: Callable[[], Loudspeaker] | None = None  # what is left when the loudspeaker goes away
        self._made: dict[tuple[Span, float, float, bool, float, BeatMap], Loop] = {}
        self._frames = QTimer(self)
        self._frames.setInterval(FRAME_MS)
        self._frames.timeout.connect(self._on_frame)
        speaker.lost.connect(self._on_lost)

    @property
    def playing(self) -> bool:
        return self.stream is not None

    def load(self, clip: Clip | None, beat_map: BeatMap) -> None:
        """Take another recording; falls silent."""
        self.stop()
        self.clip, self.beat_map, self.loop_span, self._channels = clip, beat_map, None, RECORDING
        self._made.clear()
        self.seek(0.0)
        self.state_changed.emit()

    def replace_sound(self, clip: Clip | None, channels: Channels = RECORDING) -> None:
        """Play another sound of the same recording, from where it is: the part listened to, or all of it.

        channels: what each channel is, so that it is as loud as that shall be.
        """
        self.clip, self._channels = clip, channels
        self._made.clear()
        if self._piece is None:  # a piece that is played goes on
            self._refresh()

    def seek(self, time_s: float) -> None:
        """Put the playhead somewhere; what plays goes on from there, unless it is a loop."""
        end_s = self.clip.duration_s if self.clip is not None else LONGEST_S  # a solo by hand has no end yet
        self.time_s = min(max(time_s, 0.0), end_s)
        self.moved.emit(self.time_s)
        if self.playing and self.loop_span is None:
            self.play()

    def set_beat_map(self, beat_map: BeatMap) -> None:
        """Count in by another beat map from the next loop on."""
        if beat_map != self.beat_map:
            self.beat_map = beat_map
            self.state_changed.emit()

    def set_loop(self, span: Span | None) -> None:
        """Mark what goes round; None for playing on."""
        if span == self.loop_span:
            return
        self.loop_span = span
        if span is not None and self._count_in_later:
            self.set_count_in(True)
        if span is not None and not self.playing:
            self.seek(span[0])
        self._refresh()

    def set_pace(self, pace: float, reason: PaceReason = PaceReason.CHOSEN) -> None:
        """Go on at another pace from where it is, without counting in and without a seam."""
        self.pace_reason = reason
        if pace == self.pace:
            self.state_changed.emit()
            return
        self.pace = pace
        self._go_on()

    def set_pitch(self, semitones: float) -> None:
        """Move the pitch of what is heard, which goes on from where it is."""
        if semitones == self.semitones:
            return
        self.semitones = semitones
        self._made.clear()
        self._go_on()

    def set_gap(self, gap_s: float) -> None:
        """Rest so long after each round of a loop, from the next loop on."""
        self.gap_s = gap_s

    def climb(self, pace: float, reason: PaceReason) -> None:
        """Let the loop go on at another pace from its next start on that can still be reached."""
        clip, span = self.clip, self.loop_span
        if clip is None or span is None or self._line is None or not isinstance(self.stream, Loop) or self._by_plan:
            self.set_pace(pace, reason)
            return
        line, loop = self._line, Loop(clip, *span, pace=pace, rest_s=self.gap_s, semitones=self.semitones)
        taken: list[bool] = []

        def ready(_share: float) -> None:
            plays = line.turn_at(line.asked)
            if taken or self._line is not line or not isinstance(plays.stream.stream, Loop):
                return
            taken.append(True)
            local = plays.stream.stream.next_round(plays.local(line.asked))
            self._climbs = reason
            line.follow(Turn(plays.begin - plays.offset + local, self._levelled(loop)))

        self._jobs.start(
            "ahead", loop.prepare, finished=lambda _none: ready(1.0), failed=self._on_failed, progressed=ready
        )

    # --- sounds at set times ---
    def play_plan(self, time_s: float) -> Handover[Levelled] | None:
        """Begin in silence, with sounds to follow at set samples; None where there is nothing to play."""
        if self.clip is None:
            self.play()
            return None
        self.stop()
        self._by_plan = True
        self._begin(Silence(self.clip.sample_rate, time_s))
        return self._line

    def plays_plan(self, line: Handover[Levelled] | None) -> bool:
        """Whether it is this one that plays."""
        return line is not None and line is self._line and self._by_plan

    def rounds_of(self, span: Span, pace: float, *, rest_s: float, counted: bool) -> Loop:
        """Return a stretch to be played round by round, each counted in if wanted, each with a rest; not made yet.

        Raises: ValueError where nothing lies in it.
        """
        assert self.clip is not None
        clip = self.clip
        lead = counted_in(self.beat_map, max(span[0], 0.0), pace, clip.sample_rate) if counted else None
        return Loop(clip, *span, pace=pace, count_in=lead, count_each=True, rest_s=rest_s, semitones=self.semitones)

    def prepare_rounds(self, loop: Loop, ready: Callable[[], None]) -> None:
        """Make what was asked for; ready: called once enough of it is there to begin."""
        told: list[bool] = []

        def begun(_share: float) -> None:
            if not told:
                told.append(True)
                ready()

        self._jobs.start(
            "ahead", loop.prepare, finished=lambda _none: begun(1.0), failed=self._on_failed, progressed=begun
        )

    def follow(self, begin: int, stream: Stream) -> None:
        """Let a stream take over at a sample of what was begun by `play_plan`."""
        if self._line is not None:
            self._line.follow(Turn(begin, self._levelled(stream), sharp=True))

    def go_to(self, span: Span, pace: float, reason: PaceReason) -> None:
        """Show a stretch and a pace that a plan plays."""
        self.loop_span, self.pace, self.pace_reason = span, pace, reason
        self.state_changed.emit()

    def _go_on(self) -> None:
        """Let what plays go on from where it is as it shall be now; what counts in, or is a piece, begins again."""
        if self._by_plan and self.playing:
            self.state_changed.emit()
            self.interrupted.emit()
            return
        clip, turn = self.clip, self._turn
        counting = isinstance(self.stream, Loop) and turn is not None and self.stream.pass_at(self._local()) == 0
        if not self.playing or clip is None or self._piece is not None or counting or self._line is None:
            self._refresh()
            return
        self._line.stay()
        begin = self._line.asked + round(ENTRY_S * clip.sample_rate)  # what was asked for cannot be changed any more
        plays = self._line.turn_at(begin)
        at_s = plays.stream.stream.time_at(plays.local(begin))
        if self.loop_span is not None:
            start_s, end_s = self.loop_span
            at_s = at_s if at_s < end_s else start_s + at_s - end_s
            self._take_over(self._loop(clip, self.loop_span, at_s=at_s))
        else:
            self._take_over(LoopPassage(clip, min(at_s, clip.duration_s), self.pace, semitones=self.semitones))

    def _loop(self, clip: Clip, span: Span, *, at_s: float | None = None, count_in: FloatArray | None = None) -> Loop:
        return Loop(
            clip, *span, pace=self.pace, at_s=at_s, count_in=count_in, rest_s=self.gap_s, semitones=self.semitones
        )

    def _local(self) -> int:
        """The sample of the stream that is heard now."""
        return self._turn.local(self.speaker.position) if self._turn is not None else 0

    def set_count_in(self, wanted: bool) -> None:
        self.count_in, self._count_in_later = wanted, False
        self.state_changed.emit()

    def count_in_from_first_loop(self, *, wanted: bool) -> None:
        """Show the count-in as off until something is looped; only loops are counted in."""
        self.count_in, self._count_in_later = False, wanted
        self.state_changed.emit()

    def _refresh(self) -> None:
        self.state_changed.emit()
        if self._by_plan and self.playing:
            self.interrupted.emit()
            return
        if (self.playing or self.preparing) and self._piece is not None:
            self.play_piece(*self._piece)
        elif self.playing or self.preparing:
            self.play()

    def toggle(self) -> None:
        """Play or stop."""
        if self.playing or self.preparing:
            self.stop()
        elif not self.resume():
            self.play()

    def play(self) -> None:
        """Prepare what is marked, then play it."""
        if self.clip is None:
            self.notice.emit("There is no recording to play. Open one with File, Open.")
            return
        self._until_s, self._piece, self._by_plan = None, None, False
        if self.loop_span is not None:
            self._play_loop(self.clip, self.loop_span)
        else:
            self._play_on(self.clip)

    def play_span(self, start_s: float, end_s: float) -> None:
        """Play from one time to another once, at the pace, whatever is marked as a loop."""
        if self.clip is None:
            self.play()
            return
        self.stop()
        self.time_s = min(max(start_s, 0.0), self.clip.duration_s)
        self._until_s = end_s
        self._play_on(self.clip)

    def play_piece(self, piece: Clip, origin_s: float, channels: Channels = RECORDING) -> None:
        """Play a sound of its own once, at the pace. origin_s: where in the recording it lies."""
        self.stop()
        self.time_s, self._piece = origin_s, (piece, origin_s, channels)
        self._play_made(LoopPassage(piece, 0.0, self.pace, origin_s=origin_s, semitones=self.semitones), channels)

    def stop(self) -> None:
        """Fall silent; the playhead stays."""
        self._until_s = self._piece = None
        self._jobs.cancel("sound")
        self._jobs.cancel("ahead")
        self.speaker.stop()
        self._frames.stop()
        self.stream, self._line, self._turn, self.preparing, self._by_plan = None, None, None, False, False
        self.state_changed.emit()

    def _play_loop(self, clip: Clip, span: Span) -> None:
        key = (span, self.pace, self.semitones, self.count_in, self.gap_s, self.beat_map)
        if key in self._made:
            self._begin(self._made[key])
            return
        rate = clip.sample_rate
        lead = counted_in(self.beat_map, max(span[0], 0.0), self.pace, rate) if self.count_in else None
        try:
            loop = self._loop(clip, span, count_in=lead)
        except ValueError as problem:  # nothing lies in it
            self._on_failed(problem)
            return

        def made() -> None:
            while len(self._made) >= LOOPS_KEPT:
                self._made.pop(next(iter(self._made)))
            self._made[key] = loop

        self._play_made(loop, when_made=made)

    def _play_on(self, clip: Clip) -> None:
        start_s = 0.0 if self.time_s >= clip.duration_s - 0.05 else self.time_s
        self._play_made(LoopPassage(clip, start_s, self.pace, semitones=self.semitones))

    def _play_made(
        self,
        stream: LoopPassage | Loop,
        channels: Channels | None = None,
        when_made: Callable[[], None] = lambda: None,
    ) -> None:
        """Play what is heard while it is still being made. when_made: called when all of it is there."""

        def ready(_share: float) -> None:
            if self.stream is not stream:
                self._begin(stream, channels)

        def done(_nothing: None) -> None:
            ready(1.0)
            when_made()

        self._prepare(stream.prepare, done, progressed=ready)

    def _take_over(self, stream: LoopPassage | Loop) -> None:
        """Let a stream go on where the one that plays will be, as soon as enough of it is there."""
        taken: list[bool] = []

        def ready(_share: float) -> None:
            if taken or self._line is None:
                return
            rate = stream.sample_rate
            begin = self._line.asked + round(MARGIN_S * rate)
            plays = self._line.turn_at(begin)
            offset = stream.position_at(plays.stream.stream.time_at(plays.local(begin)))
            if offset < 0:  # what plays has not come to where this one is entered
                begin, offset = begin + round(-offset * stream.pace / plays.stream.stream.pace), 0
            if stream.made < min(
                offset + round(2 * MARGIN_S * rate), stream.length
            ):  # it is made faster than it is heard
                return
            taken.append(True)
            self.preparing = False
            self._line.follow(Turn(begin, self._levelled(stream), offset))
            self.state_changed.emit()

        self._prepare(stream.prepare, lambda _none: ready(1.0), progressed=ready)

    def _prepare(
        self, work: Work, when_done: Callable[[Any], None], progressed: Callable[[float], None] = lambda _share: None
    ) -> None:
        self.preparing = True
        self._jobs.start("sound", work, finished=when_done, failed=self._on_failed, progressed=progressed)
        self.state_changed.emit()

    def _begin(self, stream: Stream, channels: Channels | None = None) -> None:
        self.stream, self.preparing, self._passes = stream, False, 0
        self._line = Handover(self._levelled(stream, channels))
        self._turn = self._line.turn_at(0)
        self.speaker.play(self._line)
        self._frames.start()
        self.state_changed.emit()

    def _levelled(self, stream: Stream, channels: Channels | None = None) -> Levelled:
        return Levelled(stream, channels or self._channels, lambda: self.levels, self.monitor)

    def _on_frame(self) -> None:
        if self.stream is None or self._line is None:
            return
        turn, goes_on = self._line.turn_at(self.speaker.position), False
        if turn is not self._turn:
            goes_on = isinstance(self.stream, Loop) and turn.offset == 0  # a loop that climbs
            self._turn, self.stream, self._passes = turn, turn.stream.stream, 0
            if not self._by_plan and self.stream.pace != self.pace:  # it climbs
                self.pace, self.pace_reason = self.stream.pace, self._climbs
                self.state_changed.emit()
        position, stream = self._local(), self.stream
        ended = stream.ended_at(position)
        while isinstance(stream, Loop) and stream.pass_at(position) > self._passes:
            self._passes += 1
            if not self._by_plan:
                if self._passes > 1 or goes_on:
                    self.went_round.emit()
                self.round_began.emit(self._passes)
            if self.stream is not stream:  # who heard of it plays something else now, or nothing
                return
        time_s = max(self.stream.time_at(position), 0.0)
        if ended or (self._until_s is not None and time_s >= self._until_s):
            self.stop()
        if time_s != self.time_s:  # also at its end: a frame that comes late shows where it stopped
            self.time_s = time_s
            self.moved.emit(time_s)

    def _on_failed(self, problem: Exception) -> None:
        self.stop()
        self.notice.emit(f"This loop could not be prepared: {problem}.")

    def _on_lost(self, sentence: str) -> None:
        """Say so, and go on with what is left, if anything is."""
        went_on, at_s = self.playing or self.preparing, self.time_s
        self.stop()
        spare = self.spare() if self.spare is not None and not self.speaker.simulated else None
        if spare is None:
            self.notice.emit(sentence)
            return
        self.use(spare)
        self.speaker_changed.emit(spare)
        self.notice.emit(f"{sentence} The playhead goes on without it; start Notcher again once it is back.")
        if went_on:
            self.seek(at_s)
            self.play()

    def use(self, speaker: Loudspeaker) -> None:
        """Play through another loudspeaker."""
        self.speaker.lost.disconnect(self._on_lost)
        self.speaker.close()
        self.speaker = speaker
        speaker.lost.connect(self._on_lost)
