"""Recording a take: what is played along with and what comes in run together; then the take is heard and judged."""

import statistics
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.formats import TakeStream
from notcher.core.mixing import Accompaniment, Levels, LoopPassage, accompaniment
from notcher.core.proving import (
    Take,
    TakeReport,
    Thresholds,
    calibration_clicks,
    clap_delay_s,
    hear_take,
    loop_back_delay_s,
)
from notcher.core.score import Score, excerpt
from notcher.core.sound import Clip, read_clip
from notcher.devices import GuitarInput, Loudspeaker
from notcher.ui.state.jobs import Jobs, Work

TICK_MS = 40  # 25 a second: smooth to the eye
KEEP_S = 0.3
"""A take is written to the disk this often while it is recorded; a kill loses what came after."""


@dataclass(frozen=True, eq=False)
class HeardTake:
    """A take and what is said of it. score: the tab as it was then. clip, report: None until it was heard."""

    take: Take
    clip: Clip | None
    score: Score
    report: TakeReport | None = None


class TakeRecorder(QObject):
    """Idle, getting ready, recording, or hearing; tells when that changes, and what was taken."""

    state_changed = pyqtSignal()
    moved = pyqtSignal(float)  # the second of the recording that is due now
    recorded = pyqtSignal(object, object)  # a take and its sound, kept before it is heard
    taken = pyqtSignal(object)  # a heard take
    delay_measured = pyqtSignal(float)
    notice = pyqtSignal(str)

    def __init__(self, speaker: Loudspeaker, guitar: GuitarInput, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.levels = Levels()
        self._speaker, self.guitar, self._jobs = speaker, guitar, jobs
        self.state, self.share = "idle", 0.0
        self._length, self._rate = 0, 1
        self._offsets_s: list[float] = []
        self._stream: TakeStream | None = None
        self._kept_samples = 0
        self._loss = ""  # what was said when the input went away under this take
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

    def use(self, speaker: Loudspeaker) -> None:
        """Play along through another loudspeaker."""
        self._speaker.lost.disconnect(self._on_speaker_lost)
        self._speaker = speaker
        speaker.lost.connect(self._on_speaker_lost)

    def play_as(self, skill: str) -> None:
        """Choose how a simulated guitarist plays."""
        self.guitar.play_as(skill)
        self.state_changed.emit()

    # --- a take ---
    def record(
        self,
        score: Score,
        recording: Clip | None,
        take: Take,
        *,
        latency_s: float | None,
        thresholds: Thresholds,
        document_id: str,
        stream: Callable[[Take, int], TakeStream] | None = None,
    ) -> None:
        """Play along and record a stretch; it ends by itself, or by `end`.

        take: what is to be played; its sound comes under its id. stream: where it is kept while it is recorded.
        """

        levels = self.levels

        def work(_progress: Progress, cancelled: CancelCheck) -> tuple[Accompaniment, LoopPassage]:
            backing = accompaniment(
                score,
                recording,
                take.start_s,
                take.end_s,
                along=take.along,
                pace=take.pace,
                levels=levels,
                cancelled=cancelled,
            )
            passage = LoopPassage(backing.clip, 0.0, 1.0)
            passage.prepare(cancelled=cancelled)
            self.guitar.expect(excerpt(score, take.start_s, take.end_s, pace=take.pace), backing.begin_s)
            return backing, passage

        def ready(result: tuple[Accompaniment, LoopPassage]) -> None:
            backing, passage = result

            def due_s(position: int) -> float:
                return take.start_s + (position / backing.clip.sample_rate - backing.begin_s) * take.pace

            def done(clip: Clip) -> None:
                begin_s = self._origin_s + backing.begin_s + latency_s if latency_s is not None else None
                played = replace(take, begin_s=begin_s)
                self.recorded.emit(played, clip)
                self.hear(played, clip, score, thresholds=thresholds, document_id=document_id)

            self._run(passage, backing.clip.samples.shape[0], done, due_s)
            if stream is not None and self.state == "recording":
                self._keep_in(stream, take)

        self._prepare(work, ready, document_id)

    def hear_file(self, path: Path, score: Score, take: Take, *, thresholds: Thresholds, document_id: str) -> None:
        """Take a file in place of the input; where the beat was in it is not known."""
        self._set_state("hearing")

        def done(clip: Clip) -> None:
            self.recorded.emit(take, clip)
            self.hear(take, clip, score, thresholds=thresholds, document_id=document_id)

        self._jobs.start(
            "take",
            lambda _progress, _cancelled: read_clip(path),
            finished=done,
            failed=self._on_failed,
            stopped=self._on_stopped,
            document_id=document_id,
        )

    def hear(self, take: Take, clip: Clip, score: Score, *, thresholds: Thresholds, document_id: str) -> None:
        """Hold a take against the tab, off the UI thread."""
        self._set_state("hearing")

        def work(progress: Progress, cancelled: CancelCheck) -> TakeReport:
            return hear_take(
                clip,
                score,
                take.start_s,
                take.end_s,
                pace=take.pace,
                begin_s=take.begin_s,
                thresholds=thresholds,
                progress=progress,
                cancelled=cancelled,
            )

        def done(report: TakeReport) -> None:
            self.taken.emit(HeardTake(take, clip, score, report))
            self._set_state("idle")  # last, so that who looks at the state finds the take already there

        def progressed(share: float) -> None:
            self.share = share
            self.state_changed.emit()

        self._jobs.start(
            "take",
            work,
            finished=done,
            failed=self._on_failed,
            progressed=progressed,
            stopped=self._on_stopped,
            document_id=document_id,
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
        if self.state == "recording":
            self._speaker.stop()
        self._ticks.stop()
        if self.guitar.recording:
            self.guitar.stop()
        if self._stream is not None:
            self._stream.give_up()
            self._stream = None
        self._set_state("idle")

    # --- the delay ---
    def measure_delay(self, *, claps: bool) -> None:
        """Play clicks, and measure how late they come back by a cable, or the claps along with them."""

        def work(_progress: Progress, cancelled: CancelCheck) -> tuple[Clip, LoopPassage, FloatArray]:
            clip, times_s = calibration_clicks(44_100, even=claps)
            passage = LoopPassage(clip, 0.0, 1.0)
            passage.prepare(cancelled=cancelled)
            self.guitar.expect_sound(clip, 0.0)
            return clip, passage, times_s

        def ready(result: tuple[Clip, LoopPassage, FloatArray]) -> None:
            clip, passage, times_s = result

            def done(recorded: Clip) -> None:
                measure = clap_delay_s if claps else loop_back_delay_s
                begun = recorded.cut(self._origin_s, recorded.duration_s)
                try:
                    delay_s = measure(begun, times_s)
                except NotcherError as problem:
                    self._on_failed(problem)
                    return
                self._set_state("idle")
                self.delay_measured.emit(delay_s)

            self._run(passage, clip.samples.shape[0], done, None)

        self._prepare(work, ready, None)

    # --- how it runs ---
    def _prepare(self, work: Work, ready: Callable[[Any], None], document_id: str | None) -> None:
        self.cancel()
        self._set_state("getting ready")
        self._jobs.start(
            "take",
            work,
            finished=ready,
            failed=self._on_failed,
            stopped=self._on_stopped,
            document_id=document_id,
        )

    def _keep_in(self, stream: Callable[[Take, int], TakeStream], take: Take) -> None:
        """Keep the take on the disk while it is recorded; what cannot be kept is recorded all the same."""
        try:
            self._stream, self._kept_samples = stream(take, self.guitar.sample_rate), 0
        except NotcherError as problem:
            self.notice.emit(str(problem))

    def _keep_more(self) -> None:
        """Write what came in since the last time, a few times a second."""
        if self._stream is None or self.guitar.position - self._kept_samples < KEEP_S * self.guitar.sample_rate:
            return
        more = self.guitar.since(self._kept_samples)
        try:
            self._stream.write(more)
        except OSError as problem:
            self.notice.emit(f"The take is recorded, but not kept in case of a crash: {problem.strerror}.")
            self._stream = None
        self._kept_samples += more.size

    def _run(
        self,
        passage: LoopPassage,
        length: int,
        when_done: Callable[[Clip], None],
        time_at: Callable[[int], float] | None,
    ) -> None:
        """Start the input, then the loudspeaker."""
        if not self.guitar.start():
            self._set_state("idle")  # the input has said why
            return
        self._offsets_s.clear()
        self._loss = ""
        self._speaker.play(passage)
        self._rate = passage.sample_rate
        self._length, self._done, self._time_at = length, when_done, time_at
        self.share = 0.0
        self._set_state("recording")
        self._ticks.start()

    def _on_tick(self) -> None:
        position = self._speaker.position
        if 0 < position < self._length:
            self._offsets_s.append(self.guitar.position / self.guitar.sample_rate - position / self._rate)
        self.share = min(1.0, position / max(1, self._length))
        self._keep_more()
        if self._time_at is not None:
            self.moved.emit(max(0.0, self._time_at(position)))
        self.state_changed.emit()
        if position >= self._length:
            self._finish()

    def _finish(self) -> None:
        self._ticks.stop()
        self._speaker.stop()
        clip = self.guitar.stop()
        if self._stream is not None:
            self._stream.close()
            self._stream = None
        self._done(clip)

    def _set_state(self, state: str) -> None:
        self.state = state
        if state != "recording":
            self.share = 0.0
        self.state_changed.emit()

    def _on_stopped(self) -> None:
        if self.state != "recording":
            self._set_state("idle")

    def _on_failed(self, problem: Exception) -> None:
        self._set_state("idle")
        expected = isinstance(problem, (NotcherError, ValueError))
        sentence = str(problem) if expected else f"{type(problem).__name__}: {problem}"
        sentence = sentence if isinstance(problem, NotcherError) else f"The take failed ({sentence})."
        self.notice.emit(f"{self._loss} {sentence}".lstrip())

    def _on_lost(self, sentence: str) -> None:
        """The input is gone: what it kept is still a take."""
        self._loss = sentence
        self.notice.emit(sentence)
        if self.state == "recording":
            self._finish()

    def _on_speaker_lost(self, _sentence: str) -> None:
        if self.state == "recording":  # the player says why
            self._finish()
