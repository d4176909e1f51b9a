"""Recording a take: what is played along with and what comes in run together; then the take is heard and judged."""

import statistics
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.proving import (
    TakeReport,
    Thresholds,
    calibration_clicks,
    clap_delay_s,
    hear_take,
    loop_back_delay_s,
)
from notcher.core.score import Score, excerpt
from notcher.core.sound import Clip, read_clip
from notcher.core.teaching import Accompaniment, BoardRow, Passage, accompaniment
from notcher.devices import GuitarInput, Loudspeaker
from notcher.ui.state.jobs import Jobs, Work

TICK_MS = 40


@dataclass(frozen=True, eq=False)
class Take:
    """One take of a stretch: what was played, along with what, at which pace, and what is said of it.

    score: the tab as it was then. begin_s: when in the clip the stretch was due; None without a beat or without a
    measured delay.
    """

    name: str
    score: Score
    span: BoardRow
    pace: float
    along: str
    clip: Clip
    begin_s: float | None
    report: TakeReport


class TakeRecorder(QObject):
    """Idle, getting ready, recording, or hearing; tells when that changes, and what was taken."""

    state_changed = pyqtSignal()
    moved = pyqtSignal(float)  # the second of the recording that is due now
    taken = pyqtSignal(object)
    delay_measured = pyqtSignal(float)
    troubled = pyqtSignal(str)

    def __init__(self, speaker: Loudspeaker, guitar: GuitarInput, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._speaker, self.guitar, self._jobs = speaker, guitar, jobs
        self.state, self.share, self._count = "idle", 0.0, 0
        self._length, self._rate = 0, 1
        self._offsets_s: list[float] = []
        self._time_at: Callable[[int], float] | None = None
        self._done: Callable[[Clip], None] = lambda _clip: None
        self._ticks = QTimer(self)
        self._ticks.setInterval(TICK_MS)
        self._ticks.timeout.connect(self._on_tick)
        guitar.lost.connect(self._on_lost)
        speaker.lost.connect(self._on_speaker_lost)

    @property
    def level(self) -> float:
        """How loud the input is, 0..1."""
        return self.guitar.level if self.guitar.recording else 0.0

    @property
    def _origin_s(self) -> float:
        """When in the input the playing began, by both devices' own clocks.

        A loudspeaker may begin at once or after what it still holds, so this is read off all along, not at the start.
        """
        return statistics.median(self._offsets_s) if self._offsets_s else 0.0

    def play_as(self, skill: str) -> None:
        """Choose how a simulated guitarist plays."""
        self.guitar.play_as(skill)
        self.state_changed.emit()

    # --- a take ---
    def record(
        self,
        score: Score,
        recording: Clip | None,
        span: BoardRow,
        *,
        pace: float,
        along: str,
        latency_s: float | None,
        thresholds: Thresholds,
    ) -> None:
        """Play along and record a stretch; it ends by itself, or by `end`."""

        def work(_progress: Progress, cancelled: CancelCheck) -> tuple[Accompaniment, Passage]:
            made = accompaniment(
                score, recording, span.start_s, span.end_s, along=along, pace=pace, cancelled=cancelled
            )
            passage = Passage(made.clip, 0.0, 1.0)
            passage.prepare(cancelled=cancelled)
            self.guitar.expect(excerpt(score, span.start_s, span.end_s, pace=pace), made.begin_s)
            return made, passage

        def ready(result: tuple[Accompaniment, Passage]) -> None:
            made, passage = result

            def due_s(position: int) -> float:
                return span.start_s + (position / made.clip.sample_rate - made.begin_s) * pace

            def done(clip: Clip) -> None:
                begin_s = self._origin_s + made.begin_s + latency_s if latency_s is not None else None
                self._hear(lambda: clip, score, span, pace=pace, along=along, begin_s=begin_s, thresholds=thresholds)

            self._run(passage, made.clip.samples.shape[0], done, due_s)

        self._prepare(work, ready)

    def hear_file(self, path: Path, score: Score, span: BoardRow, *, pace: float, thresholds: Thresholds) -> None:
        """Take a file in place of the input; where the beat was in it is not known."""
        self._hear(
            lambda: read_clip(path), score, span, pace=pace, along="file", thresholds=thresholds, called=path.stem
        )

    def end(self) -> None:
        """End what runs: a take is heard as far as it was played."""
        if self.state == "recording":
            self._finish()
        elif self.state != "idle":
            self.cancel()

    def cancel(self) -> None:
        """Forget what runs."""
        self._jobs.cancel("take")
        self._speaker.stop()
        self._ticks.stop()
        if self.guitar.recording:
            self.guitar.stop()
        self._set_state("idle")

    # --- the delay ---
    def measure_delay(self, *, claps: bool) -> None:
        """Play clicks, and measure how late they come back by a cable, or the claps along with them."""

        def work(_progress: Progress, cancelled: CancelCheck) -> tuple[Clip, Passage, FloatArray]:
            clip, times_s = calibration_clicks(44_100)
            passage = Passage(clip, 0.0, 1.0)
            passage.prepare(cancelled=cancelled)
            self.guitar.expect_sound(clip, 0.0)
            return clip, passage, times_s

        def ready(result: tuple[Clip, Passage, FloatArray]) -> None:
            clip, passage, times_s = result

            def done(heard: Clip) -> None:
                measure = clap_delay_s if claps else loop_back_delay_s
                begun = heard.cut(self._origin_s, heard.duration_s)
                try:
                    delay_s = measure(begun, times_s)
                except NotcherError as problem:
                    self._on_failed(problem)
                    return
                self._set_state("idle")
                self.delay_measured.emit(delay_s)

            self._run(passage, clip.samples.shape[0], done, None)

        self._prepare(work, ready)

    # --- how it runs ---
    def _prepare(self, work: Work, ready: Callable[[Any], None]) -> None:
        self.cancel()
        self._set_state("getting ready")
        self._jobs.start("take", work, finished=ready, failed=self._on_failed)

    def _run(
        self,
        passage: Passage,
        length: int,
        done: Callable[[Clip], None],
        time_at: Callable[[int], float] | None,
    ) -> None:
        """Start the input, then the loudspeaker."""
        if not self.guitar.start():
            self._set_state("idle")  # the input has said why
            return
        self._offsets_s.clear()
        self._speaker.play(passage)
        self._rate = passage.sample_rate
        self._length, self._done, self._time_at = length, done, time_at
        self.share = 0.0
        self._set_state("recording")
        self._ticks.start()

    def _on_tick(self) -> None:
        position = self._speaker.position
        if 0 < position < self._length:
            self._offsets_s.append(self.guitar.position / self.guitar.sample_rate - position / self._rate)
        self.share = min(1.0, position / max(1, self._length))
        if self._time_at is not None:
            self.moved.emit(max(0.0, self._time_at(position)))
        self.state_changed.emit()
        if position >= self._length:
            self._finish()

    def _finish(self) -> None:
        self._ticks.stop()
        self._speaker.stop()
        clip = self.guitar.stop()
        self._done(clip)

    def _hear(
        self,
        taken: Callable[[], Clip],
        score: Score,
        span: BoardRow,
        *,
        pace: float,
        along: str,
        thresholds: Thresholds,
        begin_s: float | None = None,
        called: str = "",
    ) -> None:
        """Get the take and hold it against the tab, off the UI thread."""
        self._set_state("hearing")

        def work(progress: Progress, cancelled: CancelCheck) -> tuple[Clip, TakeReport]:
            clip = taken()
            found = hear_take(
                clip,
                score,
                span.start_s,
                span.end_s,
                pace=pace,
                begin_s=begin_s,
                thresholds=thresholds,
                progress=progress,
                cancelled=cancelled,
            )
            return clip, found

        def done(result: tuple[Clip, TakeReport]) -> None:
            self._tell(Take(self._next_name(called), score, span, pace, along, result[0], begin_s, result[1]))

        def progressed(share: float) -> None:
            self.share = share
            self.state_changed.emit()

        self._jobs.start("take", work, finished=done, failed=self._on_failed, progressed=progressed)

    def _tell(self, take: Take) -> None:
        self.taken.emit(take)  # first, so that who looks at the state finds the take already there
        self._set_state("idle")

    def _next_name(self, name: str = "") -> str:
        self._count += 1
        return f"Take {self._count}" + (f": {name}" if name else "")

    def _set_state(self, state: str) -> None:
        self.state = state
        if state != "recording":
            self.share = 0.0
        self.state_changed.emit()

    def _on_failed(self, problem: Exception) -> None:
        self._set_state("idle")
        told = isinstance(problem, (NotcherError, ValueError))
        sentence = str(problem) if told else f"{type(problem).__name__}: {problem}"
        self.troubled.emit(sentence if isinstance(problem, NotcherError) else f"The take failed ({sentence}).")

    def _on_lost(self, sentence: str) -> None:
        """The input is gone: what it kept is still a take."""
        self.troubled.emit(sentence)
        if self.state == "recording":
            self._finish()

    def _on_speaker_lost(self, _sentence: str) -> None:
        if self.state == "recording":  # the player says why
            self._finish()
