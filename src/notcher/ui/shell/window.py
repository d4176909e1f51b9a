"""The main window: benches over one document, the reel below, menus, opening and saving."""

import contextlib
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from platformdirs import user_state_dir
from PyQt6.QtCore import QEventLoop
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from notcher import __version__
from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.formats import Document, Unsaved, export, read_document, write_document
from notcher.core.hearing import Draft, Hint, draft, first_phrases, written
from notcher.core.score import Score, Tuning
from notcher.core.sound import Clip, Overview, Spectrogram, banded, focused, read_clip, spectrogram
from notcher.demo import TITLE, demo_audio
from notcher.devices import (
    Footswitch,
    GuitarInput,
    Loudspeaker,
    find_footswitch,
    find_guitar_input,
    find_loudspeaker,
)
from notcher.painting.theme import THEMES, apply_theme
from notcher.ui.benches.hear.hear_bench import HearBench
from notcher.ui.benches.notch.notch_bench import NotchBench
from notcher.ui.benches.prove.prove_bench import ProveBench
from notcher.ui.benches.teach.take_desk import TakeDesk
from notcher.ui.benches.teach.take_recorder import TakeRecorder
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.commands.menus import BENCH_NAMES, SOUND_ENDINGS, SOUND_FILES, build_menus
from notcher.ui.playback.player import Player
from notcher.ui.playback.sources import Voices
from notcher.ui.reel.reel import Reel
from notcher.ui.shell.asking import Asking
from notcher.ui.shell.autosave import Autosave
from notcher.ui.shell.legend import LegendDialog
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings, SettingsDialog

OPENABLE = f"All that Notcher opens (*.notch {SOUND_ENDINGS})"
DOCUMENTS = "Notcher documents (*.notch)"
HEAR, NOTCH, PROVE, TEACH = range(4)
RECOVERY = Path(user_state_dir("notcher")) / "unsaved"


class Window(QMainWindow):
    """One document, its benches, one reel."""

    def __init__(
        self,
        settings: Settings,
        speaker: Loudspeaker | None = None,
        *,
        guitar: GuitarInput | None = None,
        footswitch: Footswitch | None = None,
        recovery: Path | None = None,
    ) -> None:
        super().__init__()
        self.settings = settings
        self.session, self.jobs = Session(self), Jobs(self)
        self.player = Player(speaker or find_loudspeaker(self), self.jobs, self)
        self.guitar, self.footswitch = guitar or find_guitar_input(self), footswitch or find_footswitch(self)
        self.recorder = TakeRecorder(self.player.speaker, self.guitar, self.jobs, self)
        self.hear, self.notch = HearBench(self.session), NotchBench(self.session)
        self.teach = TeachBench(self.session, self.recorder)
        self.prove = ProveBench(self.session, self.jobs)
        self.reel = Reel(self.player, (self.player.speaker, self.guitar, self.footswitch))
        self.autosave = Autosave(self.session, self.jobs, recovery or RECOVERY, self)
        self._kept_unsaved = False
        self.asking, self.take_desk, self.voices = Asking(self), TakeDesk(self), Voices(self)
        self.actions_by_name: dict[str, QAction] = {}
        self.usual_keys: dict[str, str] = {}
        self._build_benches()
        build_menus(self)
        self._connect()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.apply_settings()
        self._on_title_changed()
        self.show_bench(NOTCH)

    # --- building ---
    def _build_benches(self) -> None:
        self.benches = QStackedWidget()
        row = QHBoxLayout()
        row.setContentsMargins(8, 0, 8, 0)
        self.bench_buttons = []
        for index, (name, bench) in enumerate(
            zip(BENCH_NAMES, (self.hear, self.notch, self.prove, self.teach), strict=True)
        ):
            button = QToolButton()
            button.setText(name)
            button.setCheckable(True)
            button.setProperty("bench", True)
            button.clicked.connect(lambda _=False, at=index: self.show_bench(at))
            row.addWidget(button)
            self.bench_buttons.append(button)
            self.benches.addWidget(bench)
        row.addStretch(1)
        self.title_label = QLabel()
        self.title_label.setProperty("soft", True)
        row.addWidget(self.title_label)
        self._build_work_strip()
        self._build_notice()
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.notice_frame)
        column.addWidget(self.benches, 1)
        column.addWidget(self.work_strip)
        column.addWidget(self.reel)
        center = QWidget()
        center.setLayout(column)
        self.setCentralWidget(center)

    def _build_work_strip(self) -> None:
        self.work_strip = QFrame()
        row = QHBoxLayout(self.work_strip)
        row.setContentsMargins(10, 4, 10, 4)
        self.work_label, self.work_bar = QLabel(), QProgressBar()
        self.work_bar.setRange(0, 100)
        self.cancel_button = QPushButton("Cancel")
        self.cancel_button.clicked.connect(self._on_cancel)
        row.addWidget(self.work_label)
        row.addWidget(self.work_bar, 1)
        row.addWidget(self.cancel_button)
        self.work_strip.hide()

    def _build_notice(self) -> None:
        """What could not be done is said here in one sentence; nothing has to be clicked away."""
        self.notice_frame = QFrame()
        self.notice_frame.setProperty("notice", True)
        row = QHBoxLayout(self.notice_frame)
        row.setContentsMargins(12, 5, 8, 5)
        self.notice_label = QLabel()
        self.notice_label.setWordWrap(True)
        self.offer_button, self.decline_button = QPushButton(), QPushButton()
        close = QPushButton("Close")
        close.clicked.connect(self.notice_frame.hide)
        row.addWidget(self.notice_label, 1)
        for button in (self.offer_button, self.decline_button):
            button.hide()
            row.addWidget(button)
        row.addWidget(close)
        self.notice_frame.hide()

    def _connect(self) -> None:
        session, player, tab = self.session, self.player, self.notch.tab
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._on_score_changed)
        session.undo_stack.cleanChanged.connect(lambda _clean: self._on_title_changed())
        session.refused.connect(self.notice)
        self.notch.refused.connect(self.notice)
        player.troubled.connect(self.notice)
        player.moved.connect(self.show_time)
        player.state_changed.connect(lambda: tab.show_loop(player.loop_span))
        tab.seek_requested.connect(player.seek)
        tab.chord_pick_requested.connect(self.asking.ask_chord_at)
        tab.loop_requested.connect(lambda start, end: player.set_loop((start, end)))
        tab.view_changed.connect(self._on_view_changed)
        self.reel.strip.seek_requested.connect(self._on_reel_seek)
        self.reel.strip.loop_requested.connect(lambda start, end: player.set_loop((start, end)))
        self.reel.loop_phrase_requested.connect(self.loop_phrase)
        self.prove.refused.connect(self.notice)
        self.prove.hear_requested.connect(self.voices.hear_stretch)
        self.prove.analysis_requested.connect(self._on_analyse)
        self.teach.loop_requested.connect(self._on_rung_requested)
        self.hear.hear_requested.connect(self._on_hear_again)
        self.hear.focus_changed.connect(lambda _focus: self._show_focus())
        self.hear.hint_given.connect(self._on_hint)
        self.hear.focus_heard.connect(lambda _wanted: self._show_focus())
        self.session.evidence_changed.connect(self._show_focus)
        self.hear.tap_requested.connect(self.tap_beat)

    def toggle_step_entry(self) -> None:
        self.notch.set_step_entry(not self.notch.step_entry)

    # --- looks ---
    def apply_settings(self) -> None:
        """Dress the window as the settings say."""
        theme, scale = THEMES[self.settings.get("theme")], self.settings.get("text_scale")
        app = QApplication.instance()
        if isinstance(app, QApplication):
            apply_theme(app, theme, scale)
        for part in (self.hear, self.notch, self.prove, self.teach, self.reel.strip):
            part.show_theme(theme, scale)
        self.notch.set_choices(
            school=self.settings.get("school"),
            stroke_school=self.settings.get("stroke_school"),
            nudge_s=self.settings.get("nudge_ms") / 1000,
        )
        self.notch.tab.show_strokes(self.settings.get("show_strokes"))
        self.teach.set_along(self.settings.get("along"))
        self.recorder.play_as(self.settings.get("guitarist"))
        self.player.set_pace(self.settings.get("pace"))
        self.player.set_count_in(self.settings.get("count_in"))
        self.autosave.every(self.settings.get("autosave_s"))

    def show_bench(self, index: int) -> None:
        self.benches.setCurrentIndex(index)
        for at, button in enumerate(self.bench_buttons):
            button.setChecked(at == index)
        self.actions_by_name[f"{BENCH_NAMES[index]} bench"].setChecked(True)
        (self.hear.focus_box, self.notch.tab, self.prove.list, self.teach.board)[index].setFocus()

    def notice(self, sentence: str) -> None:
        """Say something without stopping the work."""
        self.notice_label.setText(sentence)
        self.offer_button.hide()
        self.decline_button.hide()
        self.notice_frame.show()

    def offer_unsaved(self) -> None:
        """Say what a Notcher that was killed has left behind, and offer to open it."""
        unsaved = next(self.autosave.recovery.found(), None)
        if unsaved is None:
            return
        when = unsaved.kept_at.strftime("%d %b, %H:%M")
        self.notice(f"Unsaved work on “{unsaved.title or 'Untitled'}” from {when} was found: Notcher did not end well.")
        for button, text, do in (
            (self.offer_button, "Open it", self._open_unsaved),
            (self.decline_button, "Throw it away", self._discard_unsaved),
        ):
            button.setText(text)
            with contextlib.suppress(TypeError):  # nothing was connected yet
                button.clicked.disconnect()
            button.clicked.connect(lambda _checked=False, do=do: do(unsaved))
            button.show()

    def _open_unsaved(self, unsaved: Unsaved) -> None:
        recovery = self.autosave.recovery

        def opened(document: Document) -> None:
            self.session.open(document, unsaved.path)
            self.mark_unsaved()  # not saved until the user does
            recovery.discard(unsaved)
            self.autosave.keep_now()

        self.notice_frame.hide()
        self._work("Opening", lambda _progress, _cancelled: recovery.read(unsaved), opened)

    def _discard_unsaved(self, unsaved: Unsaved) -> None:
        self.autosave.recovery.discard(unsaved)
        self.notice_frame.hide()
        self.offer_unsaved()

    def show_legend(self) -> None:
        self.legend().exec()

    def legend(self) -> LegendDialog:
        """Return the legend with all keys, in the window's look."""
        keys = [
            (name, action.shortcut().toString())
            for name, action in self.actions_by_name.items()
            if not action.shortcut().isEmpty()
        ]
        return LegendDialog(THEMES[self.settings.get("theme")], self.settings.get("text_scale"), keys, self)

    # --- opening ---
    def open_demo(self) -> None:
        """Open the demo's recording and draft it."""
        self.open_path(str(demo_audio("lead")), title=TITLE)

    def open_path(self, path: str, *, title: str | None = None) -> None:
        """Open a document or a recording, after asking what becomes of unsaved changes."""
        if not self.may_leave():
            return
        self.notice_frame.hide()
        file = Path(path)
        if file.suffix.lower() == ".notch":
            self._work(
                "Opening",
                lambda _progress, _cancelled: read_document(file),
                lambda document: self._on_read(document, file),
            )
            return

        school = self._school

        def work(progress: Progress, cancelled: CancelCheck) -> tuple[Clip, Draft, float | None]:
            clip = read_clip(file)
            progress(0.02)
            begun = first_phrases(clip, school=school, cancelled=cancelled)
            if begun is not None:
                return clip, *begun
            return clip, draft(clip, school=school, progress=progress, cancelled=cancelled), None

        self._work("Listening", work, lambda heard: self._on_drafted(*heard, file if title is None else None, title))

    @property
    def _school(self) -> str:
        return str(self.settings.get("school"))

    def _on_read(self, document: Document, file: Path) -> None:
        self.session.open(document, file)
        self._remember(file)

    def _on_drafted(
        self, clip: Clip, heard: Draft, until_s: float | None, file: Path | None, title: str | None
    ) -> None:
        """Open a draft. until_s: it is only the beginning, and sure up to here; the rest is heard next."""
        name = clip.name.rsplit(".", 1)[0] if title is None else title
        score = replace(heard.score, title=name)
        self.session.open(Document(score, clip, heard.track, heard.attacks_s), None, heard.tunings)
        if file is not None:
            self._remember(file)
        if until_s is not None:
            school, begun_s = self._school, until_s

            def work(progress: Progress, cancelled: CancelCheck) -> Draft:
                return draft(clip, school=school, progress=progress, cancelled=cancelled)

            def done(whole: Draft) -> None:
                self.session.take_rest(whole, begun_s)
                self._tell_of(whole)

            self._work("Listening to the rest", work, done)
            return
        self.session.take_evidence(heard)
        self._tell_of(heard)

    def _tell_of(self, heard: Draft) -> None:
        score = self.session.score
        doubts = sum(bool(note.doubt) for note in score.notes)
        if not score.notes:
            self.notice("No lead was heard: nothing in this recording sounds like a guitar's range. Try another focus.")
        elif heard.tunings and heard.tunings[0].likelihood < 0.7:
            name, share = heard.tunings[0].name, heard.tunings[0].likelihood
            self.notice(
                f"{len(score.notes)} notes heard, {doubts} in doubt (N walks through them). "
                f"Tuning taken as {name}, {share:.0%} likely: check it on the Hear bench."
            )

    def _on_hear_again(self, focus: str) -> None:
        document = self.session.document
        clip = document.clip
        if clip is None:
            self.notice("There is no recording to hear. Open one with File, Open.")
            return
        tuning: Tuning | None = self.session.score.tuning if self.session.score.notes else None
        band_hz, school = self.hear.band_hz, self._school

        def work(progress: Progress, cancelled: CancelCheck) -> Draft:
            return draft(
                clip,
                focus=focus,
                band_hz=band_hz,
                tuning=tuning,
                school=school,
                progress=progress,
                cancelled=cancelled,
            )

        self.hear.forget_hints()
        self._work("Listening", work, self.session.redraft)

    def _on_analyse(self) -> None:
        """Hear the recording to hold the tab against it; the tab stays as it is."""
        clip, tuning, focus = self.session.document.clip, self.session.score.tuning, self.hear.focus
        if clip is None:
            return

        def work(progress: Progress, cancelled: CancelCheck) -> Draft:
            return draft(clip, focus=focus, tuning=tuning, progress=progress, cancelled=cancelled)

        self._work("Listening", work, self.session.take_evidence)

    def _on_hint(self, hint: Hint) -> None:
        """Follow the lead where the instructor says it is, and write the notes there again."""
        analysis, clip = self.session.analysis, self.session.document.clip
        if analysis is None or clip is None:
            self.notice("Press “Hear it again” first: the strength of each pitch is not kept in the document.")
            return
        hints, score, focus, school = self.hear.hints, self.session.score, self.hear.focus, self._school

        def work(progress: Progress, _cancelled: CancelCheck) -> Draft:
            found = analysis.steered(hints)
            progress(0.5)
            return written(clip, found, focus=focus, tuning=score.tuning, school=school, progress=progress)

        self._work("Following your hint", work, lambda heard: self.session.steer(heard, hint))

    def _work(self, name: str, work: Callable[[Progress, CancelCheck], Any], done: Callable[[Any], None]) -> None:
        """Run the document's long work with a progress bar; there is one at a time."""
        self.work_label.setText(f"{name}…")
        self.work_bar.setValue(0)
        self.work_strip.show()

        def finished(result: Any) -> None:
            self.work_strip.hide()
            done(result)

        self.jobs.start(
            "document",
            work,
            finished=finished,
            failed=self.tell_failure,
            progressed=lambda share: self.work_bar.setValue(round(100 * share)),
            stopped=self.work_strip.hide,
        )

    def tell_failure(self, problem: Exception) -> None:
        self.work_strip.hide()
        if isinstance(problem, NotcherError):
            self.notice(str(problem))
        else:
            self.notice(
                f"Something went wrong inside Notcher ({type(problem).__name__}: {problem}). Nothing was changed."
            )

    def _on_cancel(self) -> None:
        self.jobs.cancel("document")
        self.work_strip.hide()

    def _remember(self, file: Path) -> None:
        self.settings.add_recent(str(file.absolute()))

    def fill_recent(self) -> None:
        self.recent_menu.clear()
        for path in self.settings.recent:
            self.recent_menu.addAction(Path(path).name, lambda path=path: self.open_path(path))
        if not self.settings.recent:
            self.recent_menu.addAction("Nothing opened yet").setEnabled(False)

    def ask_open(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self,
            "Open",
            "",
            f"{OPENABLE};;{DOCUMENTS};;{SOUND_FILES}",
        )
        if path:
            self.open_path(path)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() and event.mimeData().urls()[0].isLocalFile():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.open_path(event.mimeData().urls()[0].toLocalFile())

    # --- saving ---
    def save(self) -> bool:
        """Save under the document's name; ask for one when it has none. Return whether it was saved."""
        if self.session.path is None:
            return self.save_as()
        return self._save_to(self.session.path)

    def save_as(self) -> bool:
        name = self.session.score.title or "untitled"
        path, _ = QFileDialog.getSaveFileName(self, "Save as", f"{name}.notch", DOCUMENTS)
        if not path:
            return False
        return self._save_to(Path(path) if path.endswith(".notch") else Path(f"{path}.notch"))

    def _save_to(self, path: Path) -> bool:
        """Save off the UI thread and wait for it with the window alive; return whether it was saved."""
        document, step = self.session.document, self.session.undo_stack.index()
        waiting, saved = QEventLoop(), []

        def work(_progress: Progress, _cancelled: CancelCheck) -> None:
            write_document(document, path)

        def finished(_none: None) -> None:
            saved.append(path)
            waiting.quit()

        def failed(problem: Exception) -> None:
            self.tell_failure(problem)
            waiting.quit()

        self.jobs.start("save", work, finished=finished, failed=failed)
        waiting.exec()
        if not saved:
            return False
        self.session.path = path
        self._kept_unsaved = self.session.document.revisions != document.revisions
        if self.session.undo_stack.index() == step:  # what was changed meanwhile is still unsaved
            self.session.undo_stack.setClean()
            self.autosave.forget()
        self._remember(path)
        self._on_title_changed()
        return True

    def ask_export(self, ending: str) -> None:
        name = self.session.score.title or "untitled"
        path, _ = QFileDialog.getSaveFileName(self, "Write as", f"{name}{ending}", f"*{ending}")
        if path:
            self.export_to(path if path.endswith(ending) else f"{path}{ending}")

    def export_to(self, path: str) -> None:
        """Write the score in the format that the name's ending says."""
        try:
            export(self.session.score, path)
        except NotcherError as problem:
            self.notice(str(problem))

    def mark_unsaved(self) -> None:
        """Something was kept with the document that undo does not know of."""
        self._kept_unsaved = True
        self._on_title_changed()

    @property
    def _clean(self) -> bool:
        return self.session.undo_stack.isClean() and not self._kept_unsaved

    def may_leave(self) -> bool:
        """Ask about changes that were not saved; a fresh draft without any edit is no loss."""
        if self._clean:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Unsaved changes",
            f"“{self.session.score.title or 'Untitled'}” has changes that are not saved. Save them first?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        return self.save() if answer == buttons.Save else answer == buttons.Discard

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.may_leave():
            event.ignore()
            return
        self.player.stop()
        self.recorder.cancel()
        self.autosave.stop()
        self.prove.stop()
        self.jobs.shut_down()
        for device in (self.player.speaker, self.guitar, self.footswitch):
            device.close()
        event.accept()

    # --- what changed ---
    def _on_opened(self) -> None:
        document = self.session.document
        self._kept_unsaved = False
        self.voices.on_opened()
        self.player.load(document.clip, document.score.beat_map)
        clip = document.clip
        self.reel.strip.show_sound(
            Overview(clip.samples.mean(axis=1)) if clip is not None else None,
            clip.sample_rate if clip is not None else 1,
            clip.duration_s if clip is not None else 0.0,
        )
        self.hear.picture.show_sound(None)
        self._show_focus()
        self._on_title_changed()

    def _show_focus(self) -> None:
        """Draw what the chosen focus keeps."""
        clip, focus, band_hz = self.session.document.clip, self.hear.focus, self.hear.band_hz
        analysis = self.session.analysis if self.hear.shows_strength else None
        if clip is None:
            return
        wanted = self.hear.plays_focus

        def work(_progress: Progress, _cancelled: CancelCheck) -> tuple[Spectrogram, Clip]:
            sound = focused(clip, focus)
            if band_hz is not None:
                sound = banded(sound, clip.sample_rate, band_hz)
            picture = spectrogram(sound, clip.sample_rate) if analysis is None else analysis.picture()
            return picture, Clip(sound[:, None], clip.sample_rate, clip.name) if wanted else clip

        def done(result: tuple[Spectrogram, Clip]) -> None:
            self.hear.picture.show_sound(result[0])
            if (result[1] is clip) != (self.player.clip is clip) or result[1] is not clip:
                self.player.replace_sound(result[1])

        self.jobs.start("focus", work, finished=done)

    def _on_score_changed(self) -> None:
        self.reel.strip.show_score(self.session.score)
        self.player.set_beat_map(self.session.score.beat_map)
        self._on_title_changed()
        self.voices.on_score_changed()

    def _on_title_changed(self) -> None:
        score: Score = self.session.score
        title = score.title or "No solo open"
        star = "" if self._clean else " (changed)"
        self.setWindowTitle(f"{title}{star} – Notcher")
        notes = f"{len(score.notes)} notes" if score.notes else "open a recording or drop one here"
        self.title_label.setText(f"{title}{star}: {notes}")

    def show_time(self, time_s: float) -> None:
        """Put the playhead of every bench at a time."""
        self.notch.tab.show_playhead(time_s, follow=self.player.playing)
        self.hear.picture.show_playhead(time_s)

    def _on_view_changed(self, start_s: float, end_s: float) -> None:
        self.reel.strip.show_view(start_s, end_s)
        self.hear.picture.show_span(max(0.0, start_s), end_s)

    # --- playing ---
    def toggle_loop(self) -> None:
        if self.player.loop_span is not None:
            self.player.set_loop(None)
        else:
            self.loop_phrase()

    def loop_phrase(self) -> None:
        """Loop the selected note's phrase, or the one at the playhead."""
        phrase = self.session.phrase or self.session.score.phrase_at(self.player.time_s)
        if phrase is None:
            self.notice("No phrase lies here. Drag over the reel to mark what to loop.")
            return
        self.player.set_loop((phrase.start_s, phrase.end_s))

    def change_pace(self, by: float) -> None:
        self.player.set_pace(min(1.5, max(0.25, round(self.player.pace + by, 2))))

    def _on_rung_requested(self, start_s: float, end_s: float, pace: float) -> None:
        self.player.set_pace(pace)
        self.player.set_loop((start_s, end_s))
        self.player.play()

    def seek_note(self) -> None:
        note = self.session.note
        if note is not None:
            self.player.seek(note.onset_s)

    def _on_reel_seek(self, time_s: float) -> None:
        self.player.seek(time_s)
        tab = self.notch.tab
        if not tab.frame.start_s <= time_s <= tab.frame.end_s:
            tab.go_to(time_s - 0.2 * (tab.frame.end_s - tab.frame.start_s))

    def tap_beat(self) -> None:
        """Take a tap of the beat map, along with what plays or in silence."""
        along = self.player.playing
        self.hear.tap(self.player.time_s if along else time.monotonic(), along=along)

    # --- view ---
    def show_phrase(self) -> None:
        phrase = self.session.phrase
        if phrase is not None:
            self.notch.tab.show_span(phrase.start_s, phrase.end_s)

    def show_all(self) -> None:
        clip, notes = self.session.document.clip, self.session.score.notes
        end_s = clip.duration_s if clip is not None else max((note.offset_s for note in notes), default=10.0)
        self.notch.tab.show_span(0.0, end_s)

    def switch_theme(self) -> None:
        self._set_and_apply("theme", "stage" if self.settings.get("theme") == "paper" else "paper")

    def switch_strokes(self) -> None:
        self._set_and_apply("show_strokes", not self.settings.get("show_strokes"))

    def _set_and_apply(self, name: str, value: object) -> None:
        """Change a setting and the window with it; what was set for this sitting stays."""
        self.settings.set(name, value)
        pace, count_in = self.player.pace, self.player.count_in
        self.apply_settings()
        self.player.set_pace(pace)
        self.player.set_count_in(count_in)

    def show_settings(self) -> None:
        if SettingsDialog(self.settings, self).exec():
            self.apply_settings()
            self.teach.takes.judge_again(self.settings.thresholds)

    def show_about(self) -> None:
        QMessageBox.about(
            self,
            "About Notcher",
            f"Notcher {__version__}\nMeasured tablature for lead guitar teachers.\nFree software, GPL-3.0-or-later.",
        )
