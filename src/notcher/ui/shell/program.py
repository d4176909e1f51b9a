"""The composition root: builds every part, gives each what it needs, and connects them."""

import time
from collections.abc import Callable
from datetime import date, datetime
from pathlib import Path

from platformdirs import user_data_dir, user_state_dir
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from notcher.core.formats import OpenLock
from notcher.core.score import Score
from notcher.core.sound import Overview
from notcher.core.teaching import USUAL_BPM, running_words, step_words
from notcher.core.words import Naming, many
from notcher.devices import (
    Footswitch,
    GuitarInput,
    Loudspeaker,
    SimulatedLoudspeaker,
    Voice,
    find_footswitch,
    find_guitar_input,
    find_loudspeaker,
)
from notcher.painting.meaning_layer import LickMark, lick_marks
from notcher.painting.theme import THEMES, Theme
from notcher.ui.benches.hear.commands import hear_commands
from notcher.ui.benches.hear.hear_bench import HearBench
from notcher.ui.benches.ledger.catalogue_panel import CataloguePanel
from notcher.ui.benches.ledger.commands import catalogue_commands, ledger_commands
from notcher.ui.benches.ledger.ledger_bench import LedgerBench
from notcher.ui.benches.ledger.ledger_desk import LedgerDesk
from notcher.ui.benches.ledger.student_choice import StudentChoice
from notcher.ui.benches.notch.commands import notch_commands
from notcher.ui.benches.notch.dialogs import NotchDialogs
from notcher.ui.benches.notch.notch_bench import NotchBench
from notcher.ui.benches.notch.variant_desk import VariantDesk
from notcher.ui.benches.prove.commands import prove_commands
from notcher.ui.benches.prove.prove_bench import ProveBench
from notcher.ui.benches.shapes.commands import shapes_commands
from notcher.ui.benches.shapes.comparing import Comparing
from notcher.ui.benches.shapes.shapes_bench import ShapesBench
from notcher.ui.benches.shapes.versions_page import OtherVersion
from notcher.ui.benches.sheets.commands import sheets_commands
from notcher.ui.benches.sheets.pack_desk import PackDesk
from notcher.ui.benches.sheets.sheets_bench import SheetsBench
from notcher.ui.benches.sheets.sheets_desk import SheetsDesk
from notcher.ui.benches.teach.commands import teach_commands
from notcher.ui.benches.teach.lesson_desk import LessonDesk
from notcher.ui.benches.teach.lesson_runner import LessonRunner
from notcher.ui.benches.teach.mirror_desk import MirrorDesk
from notcher.ui.benches.teach.stand_view import StandView
from notcher.ui.benches.teach.take_desk import TakeDesk
from notcher.ui.benches.teach.take_recorder import TakeRecorder
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.benches.teach.walk_desk import WalkDesk
from notcher.ui.commands.command import Scope
from notcher.ui.commands.menu_bar import MenuBar
from notcher.ui.commands.needs import Needs
from notcher.ui.commands.registry import Registry
from notcher.ui.playback.commands import playback_commands
from notcher.ui.playback.monitor import InputMonitor
from notcher.ui.playback.player import Player
from notcher.ui.playback.playhead import Playhead
from notcher.ui.playback.sources import Sources
from notcher.ui.playback.transport import Transport
from notcher.ui.reel.reel import Reel
from notcher.ui.shell.analysing import Analysing
from notcher.ui.shell.autosave import Autosave
from notcher.ui.shell.commands import edit_commands, file_commands, view_commands
from notcher.ui.shell.demo_cards import DemoCards, six_cards
from notcher.ui.shell.dialogs import Dialogs
from notcher.ui.shell.log import LOG_NAME
from notcher.ui.shell.opening import Opening
from notcher.ui.shell.recordings import Recordings
from notcher.ui.shell.saving import Saving
from notcher.ui.shell.whole_screen import WholeScreen
from notcher.ui.shell.window import Window
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.meaning import Meaning
from notcher.ui.state.practice import Practice
from notcher.ui.state.session import Session
from notcher.ui.state.settings import BY_NAME, Settings
from notcher.ui.state.shell import Bench
from notcher.ui.widgets.asking import LastFolder
from notcher.ui.widgets.style import apply_theme

STATE, DATA = Path(user_state_dir("notcher")), Path(user_data_dir("notcher"))


class Program:
    """Every part of one running Notcher; parts know each other only as they were given to each other here."""

    def __init__(
        self,
        settings: Settings,
        speaker: Loudspeaker | None = None,
        *,
        guitar: GuitarInput | None = None,
        footswitch: Footswitch | None = None,
        voice: Voice | None = None,
        state: Path | None = None,
        data: Path | None = None,
        window: Window | None = None,
        now: Callable[[], datetime] = datetime.now,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        """window: one that is shown already; None makes it. now: what the clock on the wall says.

        clock: seconds that rise, for a lesson that runs.
        """

        def today() -> date:
            return now().date()

        self.settings = settings
        self.window = window = window or Window(Jobs())
        self.session, self.jobs = Session(), window.jobs
        self.history = self.session.history
        self.speaker, self.guitar = speaker or find_loudspeaker(), guitar or find_guitar_input()
        self.footswitch = footswitch or find_footswitch()
        self.player = Player(self.speaker, self.jobs)
        self.player.monitor = InputMonitor(self.guitar)
        self.player.spare = SimulatedLoudspeaker
        for part in (self.session, self.jobs, self.player):
            part.setParent(window)
        # first of all: what was begun for another document is stopped before anybody looks at the new one
        self.session.opened.connect(lambda: self.jobs.belong_to(self.session.document.id))
        self.needs = Needs(self.session)
        data = data or (DATA if state is None else state / "data")
        state = state or STATE
        self.ledger = LedgerState(
            self.jobs, settings, data / "ledger.sqlite", state / "unwritten", self.history.record, window
        )
        self.practice = Practice(self.session, self.ledger, now, window)
        self.sources = Sources(self.session, self.player, self.jobs, settings, window)
        self.recorder = TakeRecorder(self.speaker, self.guitar, self.jobs, window)
        self._build_benches(today, clock, voice)
        self._build_desks(state)
        self._asking_to_close = self._leave = False
        self._lay_out()
        self._add_commands()
        self._connect()
        self.apply_settings()
        self.player.set_pace(settings.get("pace"))
        self.player.set_count_in(settings.get("count_in"))
        self._show_title()
        window.show_bench(Bench.NOTCH)
        window.waiting.end(self.commands.run, self.commands.run_keys)

    # --- building ---
    def _build_benches(self, today: Callable[[], date], clock: Callable[[], float], voice: Voice | None) -> None:
        """The benches, and what each does when it is asked to."""
        window, settings = self.window, self.settings
        self.hear, self.notch = HearBench(self.session), NotchBench(self.session, lambda: self.player.time_s)
        self.playhead = Playhead(self.session, self.player, window)
        self.transport = Transport(self.session, self.player, window, self.notch.show_time)
        self.prove = ProveBench(self.session, self.jobs)
        self.teach = TeachBench(self.session, self.practice, self.recorder)
        self.meaning = Meaning(self.session, self.jobs, window)
        self.shapes = ShapesBench(self.session, self.meaning)
        self.lesson = LessonDesk(
            self.session, self.practice, self.meaning, self.jobs, settings, self.teach, today, window
        )
        self.runner = LessonRunner(self.teach, self.player, settings, window, clock, window)
        self.stand = StandView()
        self.mirror = MirrorDesk(
            self.session, self.teach, self.teach.mirror, self.guitar, self.recorder, self.player, self.jobs, settings,
            window, window,
        )  # fmt: skip
        self.walk = WalkDesk(self.session, self.teach, self.player, self.jobs, settings, window, voice, window)
        self.reel = Reel(self.player, (self.speaker, self.guitar, self.footswitch))
        self.record = LedgerBench(self.session, self.ledger, today)
        self.record_desk = LedgerDesk(self.session, self.ledger, self.record, settings, window, today, window)
        self.sheets = SheetsBench()
        self.sheets_desk = SheetsDesk(self.session, self.ledger, self.sheets, self.jobs, window, window)
        self.packs = PackDesk(self.session, self.ledger, settings, window, window, self._phrases_in_hand)
        self.sheets.pack_button.clicked.connect(lambda: self.commands.run("pack.make"))

    def _build_desks(self, state: Path) -> None:
        """What opens, saves, compares and asks. state: the folder of what is kept between sittings."""
        window, settings = self.window, self.settings
        self.students = StudentChoice(self.ledger, window, window)
        self.catalogue = CataloguePanel(self.session, self.jobs, window, self.ledger, window)
        self.autosave = Autosave(self.session, self.jobs, state / "unsaved", window, window)
        self.take_desk = TakeDesk(
            self.session,
            self.practice,
            self.recorder,
            self.teach,
            self.player,
            self.sources,
            settings,
            window,
            self.autosave.take_stream,
        )
        self.saving = Saving(self.session, self.jobs, settings, self.autosave, window, window, self.take_desk.finish)
        self.analysing = Analysing(self.session, self.jobs, settings, self.hear, self.sources, window)
        self.lock = OpenLock(state / "open")
        self.opening = Opening(
            self.session,
            self.jobs,
            settings,
            self.saving,
            self.analysing,
            self.autosave,
            self.lock,
            window.notices,
            window,
            window,
            self.practice,
        )
        self.comparing = Comparing(self.session, self.sources, window, self._show_version, window)
        self.recordings = Recordings(self.session, self.player, window, window)
        self.commands = Registry(settings, window.notice, window.notices.quiet, window)
        self.dialogs = Dialogs(
            self.commands, self.session, settings, window, self._on_settings_changed, self._set_levels,
            self._guide_page, window,
        )  # fmt: skip
        self.dialogs.log_path = state / LOG_NAME
        self.cards = DemoCards(
            window,
            lambda: six_cards(
                self.commands.keys_shown, self.notch.tab, self.notch.card, self.reel, window.bench_buttons
            ),
        )
        self.variants = VariantDesk(self.session, self.notch.tab, self._look, window)
        self.notch_dialogs = NotchDialogs(self.session, self.notch.editor, self.player, window)
        self.notch.set_dialogs(self.notch_dialogs)

    def _lay_out(self) -> None:
        benches = {
            Bench.HEAR: (self.hear, self.hear.focus_box),
            Bench.NOTCH: (self.notch, self.notch.tab),
            Bench.PROVE: (self.prove, self.prove.list),
            Bench.SHAPES: (self.shapes, self.shapes.pages),
            Bench.TEACH: (self.teach, self.teach.board),
            Bench.SHEETS: (self.sheets, self.sheets.view),
            Bench.LEDGER: (self.record, self.record),
        }
        self.window.put_in(benches, self.reel, self.player, self._may_close)
        around = [*self.window.bench_buttons.values(), self.window.title, self.reel]
        self.whole_screen = WholeScreen(self.window, self.window.stack, self.stand, around)
        self.window.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, self.catalogue)
        self.catalogue.hide()
        self.window.ways_in.show_recent(self.settings.recent)
        LastFolder.path = next((str(Path(recent).parent) for recent in self.settings.recent), "")

    def _add_commands(self) -> None:
        """Put every command into the registry, in the menus' order, and draw the menu bar from it."""
        window, needs = self.window, self.needs
        owners = {
            Scope.EVERYWHERE: window,
            Scope.TAB: self.notch.tab,
            Scope.WRITING: self.notch.tab,
            Scope.PROVE: self.prove,
            Scope.SHAPES: self.shapes.shapes_page,
            Scope.VERSIONS: self.shapes.versions,
            Scope.BOARD: self.teach.board_page,
            Scope.CATALOGUE: self.catalogue,
            Scope.SHEETS: self.sheets,
            Scope.LEDGER: self.record,
            Scope.TAKES: self.teach.takes,
        }
        everything = (
            file_commands(
                self.opening, self.saving, self.recordings, self.dialogs, window, self.cards, self.settings, needs
            ),
            edit_commands(self.history, self.dialogs),
            notch_commands(self.notch, self.notch_dialogs, self.variants, self.player, needs),
            hear_commands(self.hear, self._tap_beat, needs),
            playback_commands(self.player, self.transport, self.sources, needs),
            prove_commands(self.prove),
            shapes_commands(self.shapes, self.meaning, self.comparing, needs),
            teach_commands(self.teach, self.take_desk, self.lesson, self.runner, self.walk, self.mirror),
            sheets_commands(self.sheets, self.sheets_desk, self.packs, needs),
            ledger_commands(self.record, self.record_desk, self.students),
            catalogue_commands(self.catalogue, needs),
            view_commands(
                window,
                self.session,
                self.dialogs,
                self.settings,
                self.whole_screen,
                self.cards,
                needs,
                self.apply_settings,
                lambda: self.teach.leave_page() or self.shapes.leave_page(),
            ),
        )
        for commands in everything:
            self.commands.add(commands, owners)
        self.record.name_acts({command.id: command.label for commands in everything for command in commands})
        bar = window.menuBar()
        if bar is not None:
            self.menus = MenuBar(bar, self.commands, {"file.open": ("File/Open recent", self.opening.fill_recent)})

    def _connect(self) -> None:
        session, player, window = self.session, self.player, self.window
        tab, strip = self.notch.tab, self.reel.strip
        session.opened.connect(self._on_opened)
        session.opened.connect(self.record_desk.go_on)  # after the tab was brought to the front
        session.score_changed.connect(self._on_score_changed)
        session.recording_changed.connect(self._show_recording)
        session.notice.connect(window.notice)
        self.saving.changed.connect(self._show_title)
        self.saving.changed.connect(self.practice.note_document)
        self.practice.notice.connect(window.notice)
        self.practice.take_kept.connect(self.autosave.take_kept)
        self.ledger.notice.connect(window.notice)
        window.file_dropped.connect(self.opening.open_path)
        window.closed.connect(self._on_closed)
        player.notice.connect(window.notice)
        player.speaker_changed.connect(self._on_speaker_changed)
        for showing in (self._show_time, self.reel.show_time):
            self.playhead.moved.connect(showing)
        player.state_changed.connect(lambda: tab.show_loop(player.loop_span))
        player.state_changed.connect(self.sources.on_loop_changed)
        self.recorder.moved.connect(self.playhead.go)
        self.recorder.moved.connect(self.teach.show_time)
        self.runner.changed.connect(self._say_lesson)
        self.notch.notice.connect(window.notice)
        writing = self.notch.writing
        writing.changed.connect(lambda: self.commands.set_active(Scope.WRITING, writing.next_spot is not None))
        self.notch.editor.phrase_stepped.connect(self.transport.follow_phrase)
        self.reel.volumes_requested.connect(self.dialogs.volumes)
        tab.seek_requested.connect(window.seek)
        for acted in (tab.note_pick_requested, tab.fret_typed):
            acted.connect(lambda *_: window.notices.quiet())
        tab.chord_pick_requested.connect(self.notch_dialogs.chord_at)
        tab.loop_requested.connect(lambda start_s, end_s: window.loop((start_s, end_s)))
        tab.view_changed.connect(self._on_view_changed)
        strip.seek_requested.connect(window.seek)
        strip.seek_requested.connect(self.notch.show_time)
        strip.loop_requested.connect(lambda start_s, end_s: window.loop((start_s, end_s)))
        self.reel.loop_phrase_requested.connect(self.transport.loop_phrase)
        self.prove.notice.connect(window.notice)
        self.prove.play_requested.connect(self.sources.play_stretch)
        self.prove.analysis_requested.connect(self.analysing.hold_against)
        self.notch.set_again(self._again_words)
        self.variants.hear_requested.connect(self.sources.play_scores)
        self.variants.notice.connect(window.notice)
        self.session.variant_changed.connect(self.notch.tell_again)
        window.bench_shown.connect(self._on_bench_shown)
        self.whole_screen.left.connect(lambda: window.show_bench(window.bench))
        window.bench_shown.connect(lambda _bench: self.whole_screen.leave())
        window.bench_shown.connect(lambda _bench: self.cards.leave())
        self.catalogue.hear_requested.connect(self.sources.play_scores)
        self.catalogue.drop_requested.connect(self._drop_in)
        self.catalogue.open_requested.connect(self.opening.open_at)
        self.record.command_requested.connect(self.commands.run)
        self.record_desk.open_requested.connect(self.opening.open_at)
        self.record_desk.recording_requested.connect(self.opening.open_path)
        self.record_desk.file_requested.connect(self.opening.ask_for)
        self.record_desk.replaced.connect(self.catalogue.close_ledger)
        self.meaning.changed.connect(self._show_meaning)
        self.shapes.notice.connect(window.notice)
        self.shapes.notes_requested.connect(self._show_notes)
        self.shapes.both_requested.connect(self.sources.play_in_turn)
        self.shapes.versions.hear_requested.connect(self.comparing.hear)
        self.shapes.versions.note_requested.connect(self._show_note)
        self.teach.loop_requested.connect(self.transport.play_at)
        self.teach.pace_changed.connect(self.transport.climb)
        self.lesson.notice.connect(window.notice)
        self.hear.tap_requested.connect(self._tap_beat)
        self.hear.picture.seek_requested.connect(window.seek)
        self.footswitch.attach(window)
        self.footswitch.pressed.connect(self._on_footswitch)
        self.footswitch.lost.connect(window.notice)

    # --- looks ---
    def apply_settings(self) -> None:
        """Dress everything as the settings say; what was set for this sitting, the pace and the count-in, stays."""
        settings = self.settings
        theme, scale, naming = THEMES[settings.get("theme")], settings.get("text_scale"), settings.naming
        app = QApplication.instance()
        if isinstance(app, QApplication):
            apply_theme(app, theme, scale)
        benches = (self.hear, self.notch, self.prove, self.shapes, self.teach, self.record, self.stand, self.catalogue)
        for part in (*benches, self.sheets, self.reel.strip, self.cards):
            part.show_theme(theme, scale)
        for named in (*benches, self.sheets_desk, self.packs, self.reel):
            named.set_naming(naming)
        self.notch.set_choices(
            school=settings.get("school"),
            stroke_school=settings.get("stroke_school"),
            nudge_s=settings.get("nudge_ms") / 1000,
        )
        for tab in (self.notch.tab, self.teach.tab):
            tab.show_strokes(settings.get("show_strokes"))
        self._show_meaning()
        self.teach.set_along(settings.get("along"))
        self.teach.set_ladder(settings.ladder)
        self.teach.climbs = settings.get("climbs")
        self._show_rungs()
        self.lesson.show_settings()
        self.notch.set_left_handed(settings.get("left_handed"))
        self.playhead.still = settings.get("still")
        self.transport.up_after = round(settings.get("up_after"))
        self.player.set_gap(settings.get("loop_gap"))
        self._set_levels()
        self.recorder.play_as(settings.get("guitarist"))

    def _set_levels(self) -> None:
        self.player.levels = self.recorder.levels = self.settings.levels
        self.sources.on_levels_changed()

    def _on_settings_changed(self, names: set[str]) -> None:
        """Take what was changed; what was set for this sitting stays where its setting was not touched."""
        if not names:
            return
        self.apply_settings()
        if "pace" in names:
            self.player.set_pace(self.settings.get("pace"))
        if "count_in" in names:
            self.player.set_count_in(self.settings.get("count_in"))
        self.teach.takes.judge_again(self.settings.thresholds)

    def _show_title(self) -> None:
        score = self.session.score
        star = "" if self.saving.clean else " (changed)"
        facts = many(len(score.notes), "note") if score.notes else "open a recording or drop one here"
        self.window.show_title(f"{score.title or 'No solo open'}{star}", facts)

    def _guide_page(self) -> str:
        return "start" if self.window.nothing_open and self.window.bench is Bench.NOTCH else str(self.window.bench)

    def _look(self) -> tuple[Theme, float, Naming]:
        return THEMES[self.settings.get("theme")], self.settings.get("text_scale"), self.settings.naming

    def _on_bench_shown(self, bench: Bench) -> None:
        """What is held against the recording is the original; where students are taught the record is undone."""
        teaching = bench in (Bench.TEACH, Bench.LEDGER)
        self.history.setActiveStack(self.history.record if teaching else self.history.music)
        if bench in (Bench.HEAR, Bench.PROVE):
            self.session.show_variant("")
        if bench in (Bench.TEACH, Bench.SHEETS, Bench.LEDGER):
            self.ledger.read_again()
        if bench is Bench.SHEETS:
            self.sheets_desk.show()

    # --- what changed ---
    def _on_opened(self) -> None:
        self.window.nothing_open = False
        self.shapes.show_shapes()
        self._show_recording()
        self._show_title()
        self.window.show_bench(Bench.NOTCH)  # the tab has the keys, at its first note
        self.cards.on_opened()

    def _show_recording(self) -> None:
        """Give the parts that play and draw the recording the one that is open."""
        document = self.session.document
        clip = document.clip
        self.sources.on_opened()
        self.player.load(clip, document.score.beat_map)
        self.reel.strip.show_sound(
            Overview(clip.mixed(), fine=False) if clip is not None else None,
            clip.sample_rate if clip is not None else 1,
            clip.duration_s if clip is not None else 0.0,
        )
        self.hear.picture.show_sound(None)
        self.analysing.show_focus()

    def _on_score_changed(self) -> None:
        self.reel.strip.show_score(self.session.score)
        self.stand.show_score(self.session.score)
        self.player.set_beat_map(self.session.score.beat_map)
        self._show_rungs()
        self._show_title()
        self.sources.on_score_changed()

    def _show_rungs(self) -> None:
        """Let a loop that goes faster by itself climb the board's rungs."""
        tempo = self.session.score.beat_map.tempo_bpm
        self.transport.rungs = self.settings.ladder.paces(tempo or USUAL_BPM)

    def _show_meaning(self) -> None:
        """Give the tab the layers that are switched on, and the reel its marks."""
        meaning, settings = self.meaning, self.settings
        told = meaning.targets if settings.get("show_degrees") else ()
        groups = (*meaning.patterns.groups, *meaning.patterns.outlines)
        licks: tuple[LickMark, ...] = ()
        if settings.get("show_licks"):
            licks = lick_marks(meaning.score, meaning.shapes, meaning.boxes, groups, naming=settings.naming)
        self.notch.tab.show_meaning(meaning.score, told, licks)
        self.notch.tell_again()
        self.reel.strip.show_marks(meaning.marks)

    def _again_words(self, note_id: str) -> str:
        """In what a note is not the original's; that it comes again, and by which keys it is made the same there."""
        if words := self.variants.words_of(note_id):
            return words
        count = len(self.meaning.partners(note_id))
        if not count:
            return ""
        keys = self.commands.keys_shown("shapes.elsewhere")
        return f"again in {many(count, 'other place')}" + (f": {keys} does the same there" if keys else "")

    def _phrases_in_hand(self) -> tuple[str, ...]:
        """The phrases of the rung board's row, while it is in view; else none in particular."""
        if self.window.bench is not Bench.TEACH:
            return ()
        chosen = self.teach.cell
        return () if chosen is None else tuple(phrase.id for phrase in chosen[0].phrases)

    def _show_version(self, version: OtherVersion) -> None:
        """Bring another version to the front, beside the open solo."""
        self.shapes.show_version(version)
        self.window.show_bench(Bench.SHAPES)

    def _drop_in(self, lick: Score) -> None:
        """Put a lick of the catalogue into the tab, where it is seen."""
        self.window.show_bench(Bench.NOTCH)
        self.notch_dialogs.drop_in(lick)

    def _show_note(self, note_id: str) -> None:
        """Bring the tab to the front with one note selected; one that is gone by now leaves the selection."""
        self.session.show_variant("")
        if self.session.score.note_of(note_id) is not None:
            self.session.select(note_id)
        self.window.show_bench(Bench.NOTCH)

    def _show_notes(self, first: int, last: int) -> None:
        """Bring the tab to the front with some notes selected, the first of them where the keys act."""
        notes = self.session.score.notes
        self.session.select(notes[last].id)
        self.session.select(notes[first].id, extend=True)
        self.window.show_bench(Bench.NOTCH)

    def _show_time(self, time_s: float) -> None:
        """Put the playhead of every bench at a time."""
        self.notch.tab.show_playhead(time_s, follow=self.player.playing)
        self.stand.show_time(time_s)
        self.hear.picture.show_playhead(time_s)

    def _on_speaker_changed(self, speaker: Loudspeaker) -> None:
        self.speaker = speaker
        self.recorder.use(speaker)
        self.reel.tell_devices((self.speaker, self.guitar, self.footswitch))

    def _say_lesson(self) -> None:
        """Let the stand tell where the lesson is."""
        running, plan = self.runner.running, self.teach.plan.plan
        if running is not None and plan is not None:
            about = f"{step_words(running.step, plan)}: " if self.runner.runs else ""
            self.stand.say(f"{about}{running_words(running, self.settings.naming)}")

    def _on_view_changed(self, start_s: float, end_s: float) -> None:
        self.reel.strip.show_view(start_s, end_s)
        self.hear.picture.show_span(max(0.0, start_s), end_s)

    def _tap_beat(self) -> None:
        """Take a tap of the beat, along with what plays or in silence."""
        along = self.player.playing
        said = self.hear.tap(self.player.time_s if along else time.monotonic(), along=along)
        if self.window.bench is not Bench.HEAR:  # where it would be read
            self.window.notice(said)

    def _on_footswitch(self, number: int) -> None:
        """Run what the settings say; an id that is no command any more is as good as the usual one."""
        name = f"switch_{number}"
        chosen = self.settings.get(name)
        self.commands.run(chosen if chosen in self.commands else BY_NAME[name].default)

    # --- the end ---
    def _may_close(self) -> bool:
        """Whether the window may close now; else it is closed again once what is unsaved was dealt with."""
        if self._leave:
            return True

        def go_on() -> None:
            self._leave = True
            if not self._asking_to_close:
                self.window.close()

        self._asking_to_close = True
        self.saving.before_leaving(go_on)
        self._asking_to_close = False
        return self._leave

    def _on_closed(self) -> None:
        self.settings.keep_geometry(self.window.saveGeometry())
        self.player.stop()
        self.mirror.stop()
        self.recorder.cancel()
        self.prove.stop()
        self.meaning.stop()
        self.jobs.shut_down()
        self.catalogue.close_ledger()
        self.ledger.finish()
        self.autosave.forget()  # last: nothing that still ran can leave something behind
        self.walk.close()
        self.lock.release()
        self.history.close()
        for device in (self.speaker, self.guitar, self.footswitch):
            device.close()
