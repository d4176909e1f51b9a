"""Takes in the window: which stretch is recorded along with what, where the result goes, how the delay is measured."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from notcher.core.errors import CancelCheck, Progress
from notcher.core.proving import PhraseReport, render
from notcher.core.sound import Clip, beside
from notcher.core.teaching import with_mark
from notcher.ui.benches.teach.take_recorder import Take
from notcher.ui.commands.menus import BENCH_NAMES, SOUND_FILES

if TYPE_CHECKING:
    from notcher.ui.shell.window import Window


class TakeDesk:
    """Stands between the recorder, the Teach bench and the footswitch."""

    def __init__(self, window: Window) -> None:
        self._window = window
        recorder, teach = window.recorder, window.teach
        recorder.taken.connect(self._on_taken)
        recorder.troubled.connect(window.notice)
        recorder.delay_measured.connect(self._on_delay_measured)
        recorder.moved.connect(self._on_recorder_moved)
        teach.take_requested.connect(self.record_take)
        teach.file_requested.connect(self.ask_take_file)
        teach.takes.hear_requested.connect(self.hear_take)
        teach.takes.mark_requested.connect(self._on_take_marked)
        window.footswitch.attach(window)
        window.footswitch.pressed.connect(self._on_footswitch)
        window.footswitch.lost.connect(window.notice)

    def _show_bench(self) -> None:
        self._window.show_bench(BENCH_NAMES.index("Teach"))

    def record_take(self) -> None:
        """Record a take of the board's chosen cell; while one runs, end it."""
        if self._window.recorder.state != "idle":
            self._window.recorder.end()
            return
        cell = self._window.teach.cell
        if cell is None:
            self._window.notice("There is no phrase to record yet. Open a solo first.")
            return
        along, clip = self._window.teach.along, self._window.session.document.clip
        if along == "recording" and clip is None:
            self._window.notice("This solo has no recording to play along with. Choose a click or the chords' band.")
            return
        self._window.player.stop()
        self._show_bench()
        self._window.teach.show_takes(False)
        self._window.recorder.record(
            self._window.session.score,
            clip,
            cell[0],
            pace=cell[1],
            along=along,
            latency_s=self._window.settings.latency_s if along != "nothing" else None,
            thresholds=self._window.settings.thresholds,
        )

    def ask_take_file(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._window, "Take from a file", "", SOUND_FILES)
        if path:
            self.open_take(Path(path))

    def open_take(self, path: Path) -> None:
        """Hear a take from a file against the board's chosen cell."""
        cell = self._window.teach.cell
        if cell is None:
            self._window.notice("There is no phrase to hold the take against. Open a solo first.")
            return
        self._show_bench()
        score, limits = self._window.session.score, self._window.settings.thresholds
        self._window.recorder.hear_file(path, score, cell[0], pace=cell[1], thresholds=limits)

    def _on_taken(self, take: Take) -> None:
        self._window.teach.takes.add(take, self._window.settings.thresholds)
        self._window.teach.show_takes(True)
        if take.begin_s is None and take.along in ("click", "band", "recording"):
            self._window.notice(
                "Whether the notes came early or late is not known: the input's delay was never measured. "
                "Play, Measure the delay does that once."
            )

    def _on_recorder_moved(self, time_s: float) -> None:
        self._window.show_time(time_s)
        self._window.reel.show_time(time_s)

    def _on_take_marked(self, take: Take, phrase_report: PhraseReport) -> None:
        marks = with_mark(self._window.session.score.marks, phrase_report.phrase, take.pace, phrase_report.verdict)
        self._window.session.set_marks(marks, f"Mark {phrase_report.phrase.name} {phrase_report.verdict}")
        self._window.notice(
            f"“{phrase_report.phrase.name}” is marked {phrase_report.verdict} at {take.pace * 100:.0f} %."
        )

    def hear_take(self, take: Take, voice: str) -> None:
        """Play a take at full pace, or with the tab as it should have been on the other side."""

        def work(_progress: Progress, cancelled: CancelCheck) -> Clip:
            if voice == "take":
                return take.clip
            rate, length_s = take.clip.sample_rate, take.clip.duration_s
            tab = render(take.report.aligned, sample_rate=rate, duration_s=length_s, cancelled=cancelled)
            return beside(take.clip, tab)

        def done(sound: Clip) -> None:
            first = min((note.onset_s for note in take.report.aligned.notes), default=0.0)
            begin_s = max(0.0, first - 0.3)
            self._window.player.set_pace(1.0)
            self._window.player.play_piece(sound.cut(begin_s, sound.duration_s), take.span.start_s)

        self._window.jobs.start("stretch", work, finished=done, failed=self._window.tell_failure)

    def measure_delay(self, *, claps: bool) -> None:
        """Measure how late the input is, with a cable or by claps."""
        self._window.player.stop()
        self._show_bench()
        self._window.notice(
            "Clap with each click, close to the input." if claps else "Clicks are played into the input."
        )
        self._window.recorder.measure_delay(claps=claps)

    def _on_delay_measured(self, delay_s: float) -> None:
        self._window.settings.set("latency_ms", max(0.0, round(1000 * delay_s, 1)))
        self._window.notice(f"A take arrives {1000 * delay_s:.0f} ms late; from now on that is taken off.")

    def _on_footswitch(self, number: int) -> None:
        self._window.actions_by_name[self._window.settings.get(f"switch_{number}")].trigger()
