"""The composition root: builds every part, gives each what it needs, and connects them, one phase after the other."""

import time
from collections.abc import Callable, Sequence
from datetime import date, datetime
from functools import partial
from pathlib import Path

from platformdirs import user_data_dir, user_state_dir
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QApplication, QWidget

from notcher.core.formats import OpenLock
from notcher.core.score import EDGE_S
from notcher.core.sound import Overview
from notcher.core.words import Naming, many
from notcher.devices import (
    Footswitch,
    GuitarInput,
    Loudspeaker,
    PluggedInput,
    PluggedLoudspeaker,
    SimulatedLoudspeaker,
    SoundServer,
    Voice,
    find_footswitch,
)
from notcher.ui.benches.context import Context, Devices, Installed, Requests
from notcher.ui.benches.hear.install import install as install_hear
from notcher.ui.benches.ledger.install import install as install_ledger
from notcher.ui.benches.ledger.list_page import due_today
from notcher.ui.benches.notch.install import install as install_notch
from notcher.ui.benches.prove.install import install as install_prove
from notcher.ui.benches.shapes.install import install as install_shapes
from notcher.ui.benches.sheets.install import install as install_sheets
from notcher.ui.benches.teach.install import install as install_teach
from notcher.ui.commands.command import Scope
from notcher.ui.commands.context_menu import CELL, NOTE, PHRASE, REEL, ROW, ContextMenus
from notcher.ui.commands.finder import Findable
from notcher.ui.commands.menu_bar import MenuBar
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.commands.registry import Registry
from notcher.ui.playback.commands import playback_commands
from notcher.ui.playback.monitor import InputMonitor
from notcher.ui.playback.player import PaceReason, Player
from notcher.ui.playback.playhead import Playhead
from notcher.ui.playback.sources import Sources
from notcher.ui.playback.transport import Transport
from notcher.ui.reel.reel import Reel
from notcher.ui.shell.analysing import Analysing
from notcher.ui.shell.autosave import Autosave
from notcher.ui.shell.commands import edit_commands, file_commands, view_commands
from notcher.ui.shell.dialogs import Dialogs
from notcher.ui.shell.face import ProgramFace
from notcher.ui.shell.focus_keeper import FocusKeeper
from notcher.ui.shell.log import LOG_NAME
from notcher.ui.shell.opening import Opening
from notcher.ui.shell.recordings import Recordings
from notcher.ui.shell.saving import Saving
from notcher.ui.shell.stale_keys import StaleKeys
from notcher.ui.shell.tour_cards import TourCards, six_cards
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
from notcher.ui.widgets.field_guard import FieldGuard
from notcher.ui.widgets.style import apply_theme

STATE, DATA = Path(user_state_dir("notcher")), Path(user_data_dir("notcher"))


class Program(ProgramFace):
    """Every part of one running Notcher; parts know each other only as they were given to each other here.

    Built in phases, each of which needs the ones before: what is known, what plays, the benches, the shell around them,
    the commands, and last what one part hears from another.
    """

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
        self.settings, self.window = settings, window or Window(Jobs())
        self.patience_s: float | None = None
        self.all_ended = True
        self._naming: Naming | None = None  # that the benches were told
        self._pace_of = ""  # the document that is heard
        data = data or (DATA if state is None else state / "data")
        state = state or STATE
        self._build_state(data, state, now)
        self._build_playback(speaker, guitar, footswitch)
        self._install_benches(state, lambda: now().date(), clock, voice)
        self._build_shell(state)
        self._add_commands()
        self._connect_session()
        self._connect_parts()
        self._give_context_menus()
        self._give_tips()
        self.apply_settings()
        self.player.count_in_from_first_loop(wanted=settings.get("count_in"))
        self._show_title()
        self.window.show_bench(Bench.NOTCH)
        self.focus_keeper, self.fields = FocusKeeper(self.window), FieldGuard(self.window)
        self.stale_keys = StaleKeys(self.window, self.window.notice)
        self.fields.watch(self.window)
        self.window.drops.watch(self.window)
        self.window.waiting.end(self.commands.run, self.commands.run_keys)

    # --- phases ---
    def _build_state(self, data: Path, state: Path, now: Callable[[], datetime]) -> None:
        """What is known: the open document, the record of students, what is found in the notes."""
        window, settings = self.window, self.settings
        self.session, self.jobs = Session(), window.jobs
        self.history = self.session.history
        for part in (self.session, self.jobs):
            part.setParent(window)
        # first of all: what was begun for another document is stopped before anybody looks at the new one
        self.session.opened.connect(lambda: self.jobs.belong_to(self.session.document.id))
        self.ledger = LedgerState(
            self.jobs, settings, data / "ledger.sqlite", state / "unwritten", self.history.record, window
        )
        self.practice = Practice(self.session, self.ledger, now, window)
        self.meaning = Meaning(self.session, self.jobs, window)

    def _build_playback(
        self, speaker: Loudspeaker | None, guitar: GuitarInput | None, footswitch: Footswitch | None
    ) -> None:
        """What plays, and what is plugged in."""
        window = self.window
        self.server: SoundServer | None = None
        if speaker is None or guitar is None:
            self.server = server = SoundServer(window)
            speaker = speaker or PluggedLoudspeaker(server, self.settings.device("output"), window)
            guitar = guitar or PluggedInput(server, self.settings.device("input"), window)
        self.speaker, self.guitar = speaker, guitar
        self.footswitch = footswitch or find_footswitch()
        self.player = Player(self.speaker, self.jobs)
        self.player.setParent(window)
        self.player.monitor = InputMonitor(self.guitar)
        self.player.spare = SimulatedLoudspeaker
        self.sources = Sources(self.session, self.player, self.jobs, self.settings, window)
        self.playhead = Playhead(self.session, self.player, window)
        self.transport = Transport(self.session, self.player, window, lambda time_s: self.notch.show_time(time_s))
        self.reel = Reel(self.player, (self.speaker, self.guitar, self.footswitch))

    def _install_benches(
        self, state: Path, today: Callable[[], date], clock: Callable[[], float], voice: Voice | None
    ) -> None:
        """The benches, each with what belongs to it; they are given one context and ask for what they do not know."""
        window = self.window
        self.autosave = Autosave(self.session, self.jobs, state / "unsaved", window, window)
        self.commands = Registry(self.settings, window.notice, window.quiet, window)
        self.preconditions, self.requests = Preconditions(self.session), Requests(window)
        self.context = Context(
            session=self.session,
            jobs=self.jobs,
            settings=self.settings,
            ledger=self.ledger,
            practice=self.practice,
            meaning=self.meaning,
            player=self.player,
            sources=self.sources,
            playhead=self.playhead,
            transport=self.transport,
            devices=Devices(self.speaker, self.guitar, voice),
            commands=self.commands,
            preconditions=self.preconditions,
            shell=window,
            parent=window,
            requests=self.requests,
            today=today,
            clock=clock,
            take_stream=self.autosave.take_stream,
            phrases_in_hand=self._phrases_in_hand,
        )
        self.hearing, self.notching = install_hear(self.context), install_notch(self.context)
        self.proving, self.shaping = install_prove(self.context), install_shapes(self.context)
        self.teaching, self.printing = install_teach(self.context), install_sheets(self.context)
        self.record = install_ledger(self.context)
        self.benches: dict[Bench, Installed] = {
            Bench.HEAR: self.hearing,
            Bench.NOTCH: self.notching,
            Bench.PROVE: self.proving,
            Bench.SHAPES: self.shaping,
            Bench.TEACH: self.teaching,
            Bench.SHEETS: self.printing,
            Bench.LEDGER: self.record,
        }

    def _build_shell(self, state: Path) -> None:
        """What opens, saves, explains and lies around the benches. state: of what is kept between sittings."""
        window, settings, context = self.window, self.settings, self.context
        self.saving = Saving(
            self.session, self.jobs, settings, self.autosave, window, window, self.teaching.takes.finish
        )
        self.analysing = Analysing(self.session, self.jobs, settings, self.hearing.bench, self.sources, window)
        self.lock = OpenLock(state / "open")
        self.opening = Opening(context, self.saving, self.analysing, self.autosave, self.lock, window.notices)
        self.recordings = Recordings(self.session, self.player, window, window)
        self.dialogs = Dialogs(
            self.commands, self.session, settings, window, self._on_settings_changed, self._set_levels,
            self._guide_page, window,
        )  # fmt: skip
        self.dialogs.log_path = state / LOG_NAME
        self.dialogs.findables = (self._findable_phrases, self._findable_students, self._findable_solos)
        self.dialogs.plugged = (self.server, self.speaker, self.guitar)
        self.cards = TourCards(
            window,
            lambda: six_cards(
                self.commands.keys_shown, self.notch.tab, self.notch.card, self.reel, window.bench_buttons
            ),
        )
        places = {name: (bench.widget, bench.focus) for name, bench in self.benches.items()}
        self._asking_to_close = self._leave = False
        window.put_in(places, self.reel, self.player, self._may_close)
        around = [*window.bench_buttons.values(), window.title, self.reel]
        self.whole_screen = WholeScreen(window, window.stack, self.teaching.stand, around)
        window.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, self.record.catalogue)
        self.record.catalogue.hide()
        window.ways_in.show_recent(settings.recent)
        window.ways_in.due_chosen.connect(self.record.bench.solo_requested)
        self.ledger.changed.connect(self._show_due)
        LastFolder.path = next((str(Path(recent).parent) for recent in settings.recent), "")

    def _add_commands(self) -> None:
        """Put every command into the registry, in the menus' order, and draw the menu bar from it."""
        window, preconditions = self.window, self.preconditions
        owners: dict[Scope, QWidget] = {Scope.EVERYWHERE: window}
        for bench in self.benches.values():
            owners |= bench.scopes
        everything = (
            file_commands(
                self.opening,
                self.saving,
                self.recordings,
                self.dialogs,
                window,
                preconditions,
            ),
            edit_commands(self.history, self.dialogs),
            self.notching.commands,
            self.hearing.commands,
            playback_commands(self.player, self.transport, self.sources, preconditions),
            self.proving.commands,
            self.shaping.commands,
            self.teaching.commands,
            self.printing.commands,
            self.record.commands,
            view_commands(
                window,
                self.session,
                self.dialogs,
                self.settings,
                self.whole_screen,
                self.cards,
                preconditions,
                self.apply_settings,
                lambda: any(bench.leave_page() for bench in self.benches.values()),
            ),
        )
        commands = [command for part in everything for command in part]
        self.commands.add(commands, owners)
        self.record.bench.name_acts({command.id: command.label for command in commands})
        window.notices.keys_of = lambda number: self.commands.keys_shown(f"offer.{('first', 'second')[number]}")
        bar = window.menuBar()
        if bar is not None:
            self.menus = MenuBar(bar, self.commands, {"file.open": ("File/Open recent", self.opening.fill_recent)})

    def _connect_session(self) -> None:
        """What the shell does when the document, its score or what is found in it is another."""
        session, window = self.session, self.window
        session.opened.connect(self._on_opened)
        session.opened.connect(self.record.desk.go_on)  # after the tab was brought to the front
        session.score_changed.connect(self._on_score_changed)
        session.recording_changed.connect(self._show_recording)
        session.notice.connect(window.notice)
        self.meaning.changed.connect(lambda: self.reel.strip.show_marks(self.meaning.marks))
        self.saving.changed.connect(self._show_title)
        self.saving.changed.connect(self.practice.note_document)
        self.practice.notice.connect(window.notice)
        self.practice.take_stored.connect(self.autosave.take_stored)

    def _connect_parts(self) -> None:
        """What one part hears from another."""
        player, window, strip = self.player, self.window, self.reel.strip
        window.file_dropped.connect(self.opening.open_path)
        window.tab_dropped.connect(self.opening.open_text)
        window.closed.connect(self._on_closed)
        window.bench_shown.connect(self._on_bench_shown)
        window.bench_shown.connect(lambda _bench: self.whole_screen.leave())
        window.bench_shown.connect(lambda _bench: self.cards.leave())
        self.whole_screen.left.connect(lambda: window.show_bench(window.bench))
        player.notice.connect(window.notice)
        player.speaker_changed.connect(self._on_speaker_changed)
        player.state_changed.connect(self.sources.on_loop_changed)
        self.playhead.moved.connect(self.reel.show_time)
        self.reel.volumes_requested.connect(self.dialogs.volumes)
        self.reel.rounds_requested.connect(self.dialogs.rounds)
        self.reel.source_requested.connect(lambda source: self.commands.run(f"source.{source}"))
        self.sources.on_chosen = self._show_source
        self._show_source(self.sources.chosen)
        self.reel.loop_phrase_requested.connect(self.transport.loop_phrase)
        self.notch.tab.view_changed.connect(self._on_view_changed)
        self.hear.picture.pan_requested.connect(self.notch.tab.pan)
        self.hear.picture.zoom_requested.connect(self.notch.tab.zoom_at)
        strip.seek_requested.connect(window.seek)
        strip.seek_requested.connect(self.notch.show_time)
        strip.loop_requested.connect(lambda start_s, end_s: window.loop((start_s, end_s)))
        self.requests.open_at.connect(self.opening.open_at)
        self.requests.open_path.connect(self.opening.open_path)
        self.requests.file.connect(self.opening.ask_for)
        self.requests.analysis.connect(self.analysing.hold_against)
        for device in (self.speaker, self.guitar):
            if isinstance(device, PluggedLoudspeaker | PluggedInput):
                device.changed.connect(self._on_device_changed)
        self.footswitch.attach(window)
        self.footswitch.pressed.connect(self._on_footswitch)
        self.footswitch.lost.connect(window.notice)

    # --- what a right click offers ---
    def _give_context_menus(self) -> None:
        """On a note, a phrase, a cell of the board, a row of the records, the reel."""
        self.context_menus = menus = ContextMenus(self.commands, self.window)
        menus.give(self.notch.tab, self._offered_on_tab)
        menus.give(self.teach.board, lambda _at: CELL)
        menus.give(self.reel.strip, lambda _at: REEL)
        bench = self.record.bench
        for page in (bench.today, bench.queue, bench.due, bench.sent):
            for part in (page.list, page.list.viewport()):
                if part is not None:
                    menus.give(part, lambda _at: ROW)

    def _give_tips(self) -> None:
        """Let buttons say their command and its keys."""
        reel, hear, prove, teach = self.reel, self.hear, self.prove, self.teach
        shapes, sheets, record = self.shapes, self.printing.bench, self.record.bench
        versions, licks = shapes.versions, self.record.catalogue
        self.commands.tip({
            reel.play_button: "play.toggle", reel.loop_button: "loop.toggle", reel.count_in_box: "count_in.toggle",
            reel.volumes_button: "play.volumes", reel.rounds_button: "play.rounds",
            hear.hear_button: "draft.again", hear.tuning_button: "tuning.choose", hear.tap_button: "beat.tap",
            hear.forget_button: "hints.forget",
            prove.correct_button: "prove.correct", prove.slip_button: "prove.slip",
            prove.checked_button: "prove.checked", prove.analyse_button: "prove.compare",
            shapes.notes_button: "shapes.notes", shapes.both_button: "shapes.both",
            teach.play_button: "board.play", teach.clear_button: "board.clear", teach.take_button: "take.record",
            teach.file_button: "take.file", teach.why_button: "lesson.why", teach.plan.button: "lesson.plan",
            teach.plan.understood: "lesson.understood",
            **{button: f"board.{result}" for result, button in teach.mark_buttons.items()},
            teach.takes.mark_button: "take.verdict", teach.takes_button: "take.show",
            teach.takes.play_button: "take.play", teach.takes.both_button: "take.both",
            teach.takes.remove_button: "take.delete", teach.takes.back_button: "view.back",
            versions.both_button: "versions.both", versions.here_button: "versions.here",
            versions.there_button: "versions.there", versions.note_button: "versions.note",
            versions.close_button: "versions.close",
            licks.hear_button: "catalogue.hear", licks.drop_button: "catalogue.drop",
            licks.open_button: "catalogue.source", licks.gather_button: "catalogue.gather",
            licks.words_button: "catalogue.words",
            self.window.work_strip.cancel_button: "work.cancel", self.window.notices.close_button: "view.back",
            self.cards.next: "help.next_card", self.cards.leave_button: "view.back",
            **self.window.ways_in.tips, **record.page_tips,
            sheets.print_button: "sheet.print", sheets.write_button: "sheet.pdf", sheets.pack_button: "pack.make",
            **{button: name for name, button in record.acts.items()},
            **{button: f"bench.{bench}" for bench, button in self.window.bench_buttons.items()},
        })  # fmt: skip

    def _offered_on_tab(self, at: QPoint | None) -> Sequence[str]:
        tab = self.notch.tab
        if at is None:  # by the menu key: what is selected
            return NOTE if self.session.note is not None else PHRASE
        index = tab.note_at(QPointF(at))
        if index is None:
            phrase = self.session.score.phrase_at(tab.frame.time(at.x()))
            if phrase is not None:
                self._select_from(phrase.start_s)
            return PHRASE
        note = self.session.score.notes[index]
        if note.id not in self.session.chosen.ids:
            self.session.select(note.id)
        return NOTE

    # --- what the finder finds of the work ---
    def _select_from(self, start_s: float) -> None:
        """Select the first note that begins at a time or later."""
        note = next((note for note in self.session.score.notes if note.onset_s >= start_s - EDGE_S), None)
        if note is not None:
            self.session.select(note.id)

    def _findable_phrases(self) -> list[Findable]:
        def go_to(start_s: float) -> None:
            self.window.show_bench(Bench.NOTCH)
            self._select_from(start_s)

        return [
            Findable(phrase.name, "phrase", "phrase lick", partial(go_to, phrase.start_s))
            for phrase in self.session.score.phrases
            if phrase.name
        ]

    def _findable_students(self) -> list[Findable]:
        return [
            Findable(student.name, "student", "student pupil", partial(self.ledger.choose, student.id))
            for student in self.ledger.book.present
        ]

    def _show_due(self) -> None:
        """Let the start page say what is due, while it is there."""
        if self.window.nothing_open:
            self.window.ways_in.show_due(due_today(self.ledger.book, self.context.today()))

    def _findable_solos(self) -> list[Findable]:
        return [
            Findable(Path(path).stem, "recent solo", "recent open solo file", partial(self.opening.open_path, path))
            for path in self.settings.recent
        ]

    # --- looks ---
    def apply_settings(self) -> None:
        """Dress everything as the settings say; what was set for this sitting, the pace and the count-in, stays."""
        settings = self.settings
        theme, scale, naming = self.context.look
        app = QApplication.instance()
        if isinstance(app, QApplication):
            apply_theme(app, theme, scale)
        for bench in self.benches.values():
            for part in bench.themed:
                part.show_theme(theme, scale)
            for named in bench.named if naming != self._naming else ():
                named.set_naming(naming)
        for around in (self.reel, self.cards):
            around.show_theme(theme, scale)
        self.reel.set_naming(naming)
        self._naming = naming
        self.playhead.still = settings.get("still")
        self.transport.up_after = round(settings.get("up_after"))
        self.player.set_gap(settings.get("loop_gap"))
        for bench in self.benches.values():
            bench.configure()
        self._set_levels()

    def _set_levels(self) -> None:
        self.player.levels = self.teaching.recorder.levels = self.settings.levels
        self.sources.on_levels_changed()

    def _on_settings_changed(self, names: set[str]) -> None:
        """Take what was changed; what was set for this sitting stays where its setting was not touched."""
        if not names:
            return
        self.apply_settings()
        if "count_in" in names:
            self.player.set_count_in(self.settings.get("count_in"))

    def _show_title(self) -> None:
        score = self.session.score
        star = "" if self.saving.clean else " (changed)"
        facts = many(len(score.notes), "note") if score.notes else "open a recording or drop one here"
        self.window.show_title(f"{score.title or 'No solo open'}{star}", facts)

    def _guide_page(self) -> str:
        return "start" if self.window.nothing_open and self.window.bench is Bench.NOTCH else str(self.window.bench)

    def _on_bench_shown(self, bench: Bench) -> None:
        """Where students are taught the record is undone, elsewhere the music."""
        teaching = bench in (Bench.TEACH, Bench.LEDGER)
        self.history.setActiveStack(self.history.record if teaching else self.history.music)
        self.benches[bench].shown()

    # --- what changed ---
    def _on_opened(self) -> None:
        self.window.nothing_open = False
        self._keep_pace()
        self._show_recording()
        self._pace_of = self.session.document.id
        self.player.set_pace(self.settings.pace_of(self._pace_of), PaceReason.LAST_TIME)
        self._show_title()
        self.window.show_bench(Bench.NOTCH)  # the tab has the keys, at its first note
        self.cards.leave()
        heard_now = self.session.source is not None and bool(self.score.notes)
        if heard_now and self.settings.tell_once("tour"):
            self.cards.start()

    def _keep_pace(self) -> None:
        """How fast a solo was heard last is its own affair."""
        if self._pace_of:
            self.settings.keep_pace(self._pace_of, self.player.pace)

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
        self.player.set_beat_map(self.session.score.beat_map)
        self._show_title()
        self.sources.on_score_changed()

    def _show_source(self, source: str) -> None:
        self.reel.show_source(source, lambda name: self.commands.keys_shown(f"source.{name}"))

    def _phrases_in_hand(self) -> tuple[str, ...]:
        """The phrases of the practice board's row, while it is in view; else none in particular."""
        if self.window.bench is not Bench.TEACH:
            return ()
        chosen = self.teach.cell
        return () if chosen is None else tuple(phrase.id for phrase in chosen[0].phrases)

    def _on_speaker_changed(self, speaker: Loudspeaker) -> None:
        self.speaker = speaker
        self.reel.tell_devices((self.speaker, self.guitar, self.footswitch))

    def _on_device_changed(self, sentence: str) -> None:
        self.reel.tell_devices((self.speaker, self.guitar, self.footswitch))
        self.window.notice(sentence)

    def _on_view_changed(self, start_s: float, end_s: float) -> None:
        self.reel.strip.show_view(start_s, end_s)
        self.hear.picture.show_span(max(0.0, start_s), end_s)

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
        self._keep_pace()
        self.player.stop()
        for bench in self.benches.values():
            bench.stop()
        self.meaning.stop()
        self.all_ended = self.jobs.shut_down(patience_s=self.patience_s)
        self.ledger.finish()
        self.opening.close()
        self.autosave.discard()  # last: nothing that still ran can leave something behind
        self.teaching.walk.close()
        self.lock.release()
        self.history.close()
        for device in (self.speaker, self.guitar, self.footswitch):
            device.close()
        if self.server is not None:
            self.server.close()
