"""Takes: which stretch is recorded along with what, where the result goes, how the delay is measured."""

import re
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from notcher.core.formats import TakeStream
from notcher.core.proving import PhraseReport, Take
from notcher.core.score import new_id
from notcher.core.sound import SOUND_ENDINGS, Clip
from notcher.core.teaching import BoardRow
from notcher.ui.benches.teach.take_recorder import HeardTake, TakeRecorder
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.commands.preconditions import no_phrase
from notcher.ui.playback.player import Player
from notcher.ui.playback.sources import Sources
from notcher.ui.state.practice import Practice
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench, Shell
from notcher.ui.widgets.asking import ask_file_to_open

LEAD_S = 0.3  # played before a take's first note
NUMBERED = re.compile(r"Take (\d+)")


class TakeController:
    """Stands between the recorder and the Teach bench."""

    def __init__(
        self,
        session: Session,
        practice: Practice,
        recorder: TakeRecorder,
        teach: TeachBench,
        player: Player,
        sources: Sources,
        settings: Settings,
        shell: Shell,
        stream: Callable[[Take, int], TakeStream],
    ) -> None:
        self._stream = stream
        self._session, self._practice, self._recorder, self._teach = session, practice, recorder, teach
        self._player, self._sources, self._settings, self._shell = player, sources, settings, shell
        recorder.recorded.connect(self._on_recorded)
        recorder.taken.connect(self._on_taken)
        session.opened.connect(self._on_opened)
        practice.changed.connect(self._show_takes)
        teach.takes.hearing_requested.connect(self._hear)
        teach.takes.remove_requested.connect(practice.remove_take)
        recorder.notice.connect(shell.notice)
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
            self._shell.notice(no_phrase(self._session))
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
            self._new_take(*cell, along),
            latency_s=self._settings.latency_s(self._recorder.guitar.description) if along != "nothing" else None,
            thresholds=self._settings.thresholds,
            document_id=self._session.document.id,
            stream=self._stream,
        )

    def _new_take(self, row: BoardRow, pace: float, along: str, called: str = "") -> Take:
        numbers = [int(match[1]) for take in self._practice.takes if (match := NUMBERED.match(take.name))]
        name = f"Take {max(numbers, default=0) + 1}" + (f": {called}" if called else "")
        made_at = datetime.now().isoformat(timespec="seconds")
        phrases = tuple(phrase.id for phrase in row.phrases)
        return Take(new_id(), name, phrases, row.start_s, row.end_s, pace, along, made_at=made_at,
                    student=self._practice.ledger.student.id)  # fmt: skip

    def ask_take_file(self) -> None:
        ask_file_to_open(
            self._teach, "Take from a file", f"Recordings ({SOUND_ENDINGS})", lambda path: self.open_take(Path(path))
        )

    def open_take(self, path: Path) -> None:
        """Hear a take from a file against the board's chosen cell."""
        cell = self._teach.cell
        if cell is None:
            self._shell.notice(no_phrase(self._session))
            return
        self._shell.show_bench(Bench.TEACH)
        take = self._new_take(*cell, "file", path.stem)
        self._recorder.hear_file(
            path,
            self._session.score,
            take,
            thresholds=self._settings.thresholds,
            document_id=self._session.document.id,
        )

    def finish(self) -> None:
        """End a take that is being recorded, so that it is among what is saved or given up."""
        if self._recorder.state == "recording":
            self._recorder.end()

    # --- takes of the student ---
    def _on_opened(self) -> None:
        self._recorder.cancel()
        self._teach.takes.clear()
        self._show_takes()

    def _on_recorded(self, take: Take, clip: Clip) -> None:
        self._practice.add_take(take, clip)

    def _show_takes(self) -> None:
        shown_takes = {shown.take.id: shown for shown in self._teach.takes.takes}
        score = self._session.document.score
        self._teach.takes.show_takes(
            [shown_takes.get(take.id, HeardTake(take, None, score)) for take in self._practice.takes],
            self._settings.thresholds,
        )

    def _hear(self, shown: HeardTake) -> None:
        """Hold a take of an earlier day against the tab as it stands now."""
        score, document_id = self._session.score, self._session.document.id
        if self._recorder.state != "idle" or all(score.phrase_of(phrase) is None for phrase in shown.take.phrases):
            return

        def hear(clip: Clip) -> None:
            if self._recorder.state == "idle" and self._session.document.id == document_id:
                self._recorder.hear(
                    shown.take, clip, score, thresholds=self._settings.thresholds, document_id=document_id
                )

        self._practice.with_clip(shown.take.id, hear, self._on_unreadable)

    def _on_unreadable(self, problem: Exception) -> None:
        self._shell.notice(f"The sound of this take cannot be read: {problem}")

    def _on_taken(self, heard_take: HeardTake) -> None:
        take = heard_take.take
        if all(take.id != old.id for old in self._practice.takes):
            return  # thrown away while it was heard
        self._teach.takes.put(heard_take)
        self._teach.show_takes(True)
        if take.begin_s is None and take.along in ("click", "band", "recording"):
            self._shell.notice(
                "Whether the notes came early or late is not known: the input's delay was never measured. "
                "Play, Measure the delay does that once."
            )

    def _on_take_marked(self, heard_take: HeardTake, phrase_report: PhraseReport) -> None:
        take, phrase, verdict = heard_take.take, phrase_report.phrase, phrase_report.verdict
        self._practice.log((phrase.id,), take.pace, verdict, take_id=take.id)
        self._shell.notice(f"“{phrase.name}” is marked {verdict} at {take.pace * 100:.0f} %.")

    def play_take(self, heard_take: HeardTake, beside_tab: bool) -> None:
        """Play a take at full pace, or with the tab as it should have been on the other side."""
        aligned = heard_take.report.aligned if heard_take.report is not None else None
        first_s = min((note.onset_s for note in aligned.notes), default=0.0) if aligned is not None else 0.0
        begin_s, tab = max(0.0, first_s - LEAD_S), aligned if beside_tab else None

        def play(clip: Clip) -> None:
            self._sources.play_take(clip, tab, begin_s, heard_take.take.start_s)

        self._practice.with_clip(heard_take.take.id, play, self._on_unreadable)

    def measure_delay(self, *, claps: bool) -> None:
        """Measure how late the input is, with a cable or by claps."""
        self._player.stop()
        self._shell.show_bench(Bench.TEACH)
        self._shell.notice(
            "Clap with each click, close to the input." if claps else "Clicks are played into the input."
        )
        self._recorder.measure_delay(claps=claps)

    def _on_delay_measured(self, delay_s: float) -> None:
        self._settings.keep_latency(self._recorder.guitar.description, max(0.0, round(1000 * delay_s, 1)))
        self._shell.notice(f"A take arrives {1000 * delay_s:.0f} ms late; from now on that is taken off.")
