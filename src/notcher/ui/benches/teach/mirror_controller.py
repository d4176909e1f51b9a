"""Listens to the guitar while a loop goes round, and shows it in the mirror; asks for bends in the gym."""

import time
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QObject, QTimer

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Progress
from notcher.core.hearing.live import live_pitch, samples_needed
from notcher.core.score import Note, Score, bent_curve, excerpt
from notcher.core.teaching import BendGym
from notcher.devices import GuitarInput
from notcher.ui.benches.teach.mirror_view import MirrorView
from notcher.ui.benches.teach.take_recorder import TakeRecorder
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.playback.player import Player
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench, Shell

TICK_MS = 15  # the mirror follows within a frame of the screen
BLOCK_S = 0.008  # of new sound, from which the pitch is looked for again
FRESH_S = 60.0  # after which the input is begun anew, so that it does not grow
TOO_HOT, TOO_QUIET_S = 0.99, 8.0  # of full scale: the input clips; seconds without a note before it is said
SIZES, PLACE = (1.0, 2.0, 3.0), (2, 12)  # semitones; string 2, fret 12, where all three bends lie easily
GYM_ROUND_S, GYM_BEND_S = 3.0, 1.6  # how a simulated guitarist answers


class MirrorController(QObject):
    """Stands between the guitar and the mirror."""

    def __init__(
        self, session: Session, teach: TeachBench, view: MirrorView, guitar: GuitarInput, recorder: TakeRecorder,
        player: Player, jobs: Jobs, settings: Settings, shell: Shell, parent: QObject,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._session, self._teach, self._view, self._guitar = session, teach, view, guitar
        self._recorder, self._player, self._jobs = recorder, player, jobs
        self._settings, self._shell = settings, shell
        self.on = False
        self._read, self._begun_s, self._heard_s = 0, 0.0, 0.0
        self._buffer: FloatArray = np.zeros(0, np.float32)
        self._told = ""
        self.clock: Callable[[], float] = time.monotonic
        self._ticks = QTimer(self)
        self._ticks.setInterval(TICK_MS)
        self._ticks.timeout.connect(self.listen)
        player.went_round.connect(self._on_round)
        player.state_changed.connect(self._on_player)
        recorder.state_changed.connect(self._on_recorder)
        guitar.lost.connect(self._on_lost)
        session.opened.connect(self.stop)

    # --- on and off ---
    def toggle(self) -> None:
        """Show what is played over what is written, or stop."""
        self.stop() if self.on and self._view.gym is None else self._start(None)

    def toggle_gym(self) -> None:
        """Ask for bends at the selected note's place, or stop."""
        if self.on and self._view.gym is not None:
            self.stop()
            return
        note, score = self._session.note, self._session.score
        place = (note.string, note.fret) if note is not None and note.fret > 0 else PLACE
        base = score.tuning.open_midi[place[0] - 1] + place[1] + score.tuning.offset_cents / 100
        self._start(BendGym(base, SIZES), place)

    def _start(self, gym: BendGym | None, place: tuple[int, int] = PLACE) -> None:
        if self._recorder.state != "idle":
            self._shell.notice("A take is being recorded: the mirror comes after it.")
            return
        if self.on:
            self._guitar.stop()
        self._shell.show_bench(Bench.TEACH)
        self._teach.show_mirror(True)
        self._view.mirror.clear()
        self._view.show_gym(gym, place)
        self._show_stretch()
        self.on, self._told = True, ""
        self._expect(self._listen)

    def stop(self) -> None:
        if not self.on:
            return
        self.on = False
        self._ticks.stop()
        self._jobs.cancel("mirror")
        if self._guitar.recording and self._recorder.state == "idle":
            self._guitar.stop()
        self._view.show_gym(None)
        self._teach.show_mirror(False)

    def leave_page(self) -> bool:
        """Stop, if it listens; return whether it did."""
        listened = self.on
        self.stop()
        return listened

    def _listen(self) -> None:
        if self.on and self._begin():
            self._ticks.start()
        elif self.on:
            self.stop()  # the input has said why

    def _begin(self) -> bool:
        """Begin to keep sound; what was kept before is not needed any more."""
        if self._guitar.recording:
            self._guitar.stop()
        self._read, self._buffer = 0, np.zeros(0, np.float32)
        self._begun_s = self._heard_s = self.clock()
        return self._guitar.start()

    def _expect(self, then: Callable[[], None]) -> None:
        """Let a simulated guitarist get ready; a real one needs none of it."""
        if not self._guitar.simulated:
            then()
            return
        gym, (start_s, end_s), pace = self._view.gym, self._span, self._player.pace
        score = self._session.score
        expected = (
            _gym_score(gym, self._view.place, score) if gym is not None else excerpt(score, start_s, end_s, pace=pace)
        )

        def work(_progress: Progress, _cancelled: CancelCheck) -> None:
            self._guitar.expect(expected, 0.0)

        self._jobs.start("mirror", work, finished=lambda _none: then(), failed=self._shell.tell_failure)

    @property
    def _span(self) -> tuple[float, float]:
        cell = self._teach.cell
        if self._player.loop_span is not None:
            return self._player.loop_span
        return (cell[0].start_s, cell[0].end_s) if cell is not None else (0.0, 1.0)

    def _show_stretch(self) -> None:
        self._view.show_stretch(self._session.score, self._span)

    # --- what happens ---
    def _on_player(self) -> None:
        if self.on and self._view.gym is None:
            self._show_stretch()

    def _on_round(self) -> None:
        """The loop begins again; a real input is begun anew only now and then, for that may cost a second of it."""
        old = self._read > FRESH_S * self._guitar.sample_rate
        if self.on and self._view.gym is None and (self._guitar.simulated or old):
            self._begin()

    def _on_recorder(self) -> None:
        if self._recorder.state != "idle":
            self.stop()  # the take has the input now

    def _on_lost(self, _sentence: str) -> None:
        if self.on:
            self.stop()  # the recorder says why

    def listen(self) -> None:
        """Take the newest sound: its pitch goes into the mirror, and the picture is drawn."""
        if not self.on or not self._guitar.recording:
            return
        rate = self._guitar.sample_rate
        fresh = self._guitar.since(self._read)
        if fresh.size < BLOCK_S * rate:
            return
        self._read += fresh.size
        self._buffer = np.concatenate([self._buffer, fresh])[-samples_needed(rate) :]
        pitch = live_pitch(self._buffer, rate)
        self._tell_level(fresh, pitch is not None)
        latency_s = self._settings.latency_s(self._guitar.description) or 0.0
        gym = self._view.gym
        if gym is not None:
            now_s = self._read / rate
            gym.hear(now_s, None if pitch is None else pitch.midi)
        elif self._player.playing:
            now_s = self._player.time_s - latency_s * self._player.pace
        else:
            # nothing goes round, so the stretch itself does, for as long as somebody plays
            start_s, end_s = self._span
            late_s = 0.0 if self._guitar.simulated else latency_s
            now_s = start_s + (self._read / rate - late_s) * self._player.pace % max(end_s - start_s, BLOCK_S)
        # who plays along is tuned to what is heard: off concert pitch as the recording is, or as the sound was moved
        tuned = 0.0 if gym is not None else self._session.score.tuning.offset_cents / 100 + self._player.semitones
        self._view.mirror.hear(now_s, None if pitch is None else pitch.midi - tuned)
        self._view.update()
        if self.clock() - self._begun_s > FRESH_S and not self._player.playing and not self._guitar.simulated:
            self._begin()

    def _tell_level(self, fresh: FloatArray, pitched: bool) -> None:
        """Say once what is wrong with the input."""
        now_s = self.clock()
        if pitched:
            self._heard_s = now_s
        text = ""
        if float(np.abs(fresh).max()) >= TOO_HOT:
            text = "The input is too hot: turn it down until the lamps stay green."
        elif now_s - self._heard_s > TOO_QUIET_S:
            text = "No pitch is heard: is the guitar plugged in, and the input turned up?"
        if text and text != self._told:
            self._told = text
            self._shell.notice(text)


def _gym_score(gym: BendGym, place: tuple[int, int], score: Score) -> Score:
    """What a simulated guitarist plays when bends are asked: each size in turn, let down before the next."""
    ahead, notes = BendGym(gym.base_midi, SIZES), []
    for at in range(40):
        curve = bent_curve(ahead.size, GYM_BEND_S, rise_s=0.3)
        begin_s = 0.5 + GYM_ROUND_S * at
        notes.append(Note(begin_s, begin_s + GYM_BEND_S, *place, curve=curve))
        ahead.ask_next()
    return Score(tuple(notes), tuning=score.tuning)
