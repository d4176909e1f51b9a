"""Takes: which stretch is recorded along with what, where the result goes, how the delay is measured."""

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from notcher.core.proving import PhraseReport
from notcher.core.sound import SOUND_ENDINGS
from notcher.core.teaching import with_mark
from notcher.ui.benches.teach.take_recorder import Take, TakeRecorder
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.playback.player import Player
from notcher.ui.playback.sources import Sources
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench, Shell

LEAD_S = 0.3  # played before a take's first note


class TakeDesk:
    """Stands between the recorder and the Teach bench."""

    def __init__(
        self,
        session: Session,
        recorder: TakeRecorder,
        teach: TeachBench,
        player: Player,
        sources: Sources,
        settings: Settings,
        shell: Shell,
    ) -> None:
        self._session, self._recorder, self._teach = session, recorder, teach
        self._player, self._sources, self._settings, self._shell = player, sources, settings, shell
        recorder.taken.connect(self._on_taken)
        recorder.troubled.connect(shell.notice)
        recorder.delay_measured.connect(self._on_delay_measured)
        teach.take_requested.connect(self.record_take)
        teach.file_requested.connect(self.ask_take_file)
        teach.takes.play_requested.connect(self.play_take)
        teach.takes.mark_requested.connect(self._on_take_marked)

    def record_take(self) -> None:
        """Record a take of the board's chosen cell; while one runs, end it."""
        if self._recorder.state != "idle":
            self._recorder.end()
            return
        cell = self._teach.cell
        if cell is None:
            self._shell.notice("There is no phrase to record yet. Open a solo first.")
            return
        along, clip = self._teach.along, self._session.document.clip
        if along == "recording" and clip is None:
            self._shell.notice("This solo has no recording to play along with. Choose a click or the chords' band.")
            return
        self._player.stop()
        self._shell.show_bench(Bench.TEACH)
        self._teach.show_takes(False)
        self._recorder.record(
            self._session.score,
            clip,
            cell[0],
            pace=cell[1],
            along=along,
            latency_s=self._settings.latency_s if along != "nothing" else None,
            thresholds=self._settings.thresholds,
        )

    def ask_take_file(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._teach, "Take from a file", "", f"Recordings ({SOUND_ENDINGS})")
        if path:
            self.open_take(Path(path))

    def open_take(self, path: Path) -> None:
        """Hear a take from a file against the board's chosen cell."""
        cell = self._teach.cell
        if cell is None:
            self._shell.notice("There is no phrase to hold the take against. Open a solo first.")
            return
        self._shell.show_bench(Bench.TEACH)
        limits = self._settings.thresholds
        self._recorder.hear_file(path, self._session.score, cell[0], pace=cell[1], thresholds=limits)

    def _on_taken(self, take: Take) -> None:
        self._teach.takes.add(take, self._settings.thresholds)
        self._teach.show_takes(True)
        if take.begin_s is None and take.along in ("click", "band", "recording"):
            self._shell.notice(
                "Whether the notes came early or late is not known: the input's delay was never measured. "
                "Play, Measure the delay does that once."
            )

    def _on_take_marked(self, take: Take, phrase_report: PhraseReport) -> None:
        phrase, verdict = phrase_report.phrase, phrase_report.verdict
        marks = with_mark(self._session.score.marks, phrase, take.pace, verdict)
        self._session.set_marks(marks, f"Mark {phrase.name} {verdict}")
        self._shell.notice(f"“{phrase.name}” is marked {verdict} at {take.pace * 100:.0f} %.")

    def play_take(self, take: Take, beside_tab: bool) -> None:
        """Play a take at full pace, or with the tab as it should have been on the other side."""
        aligned = take.report.aligned
        first_s = min((note.onset_s for note in aligned.notes), default=0.0)
        begin_s = max(0.0, first_s - LEAD_S)
        self._sources.play_take(take.clip, aligned if beside_tab else None, begin_s, take.span.start_s)

    def measure_delay(self, *, claps: bool) -> None:
        """Measure how late the input is, with a cable or by claps."""
        self._player.stop()
        self._shell.show_bench(Bench.TEACH)
        self._shell.notice(
            "Clap with each click, close to the input." if claps else "Clicks are played into the input."
        )
        self._recorder.measure_delay(claps=claps)

    def _on_delay_measured(self, delay_s: float) -> None:
        self._settings.set("latency_ms", max(0.0, round(1000 * delay_s, 1)))
        self._shell.notice(f"A take arrives {1000 * delay_s:.0f} ms late; from now on that is taken off.")
