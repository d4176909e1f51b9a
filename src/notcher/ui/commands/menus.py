"""All menus. What acts on the tab stands in one table; the keys are the usual ones and can be changed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QActionGroup, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidget

from notcher.core.formats import EXPORTS
from notcher.core.score import Attack, End, Tone

if TYPE_CHECKING:
    from notcher.ui.shell.window import Window


VOICES = {
    "recording": ("Hear the recording", "F5"),
    "tab": ("Hear the tab", "F6"),
    "both": ("Hear the recording left, the tab right", "F7"),
}
SOUND_ENDINGS = "*.wav *.flac *.ogg *.opus *.mp3 *.aif *.aiff"
SOUND_FILES = f"Recordings ({SOUND_ENDINGS})"
BENCH_NAMES = ("Hear", "Notch", "Prove", "Teach")


@dataclass(frozen=True)
class Row:
    """One action. on_tab: its keys work only on the tab, where nothing else wants them."""

    menu: str
    name: str
    do: Callable[[], object]
    keys: str = ""
    on_tab: bool = False


def rows(window: Window) -> list[Row]:
    """Return every action that works on the tab, in the menus' order.

    Keys go by rows of the keyboard: above how a note is struck, in the middle how its pitch moves and what is believed
    of it, below how it sounds and, with Shift, how it ends.
    """
    return [*_walking(window), *_placing(window), *_timing(window), *_sounding(window), *_bending(window)]


def _walking(window: Window) -> list[Row]:
    edits = window.notch.edits
    table = (
        ("Next note", lambda: edits.step(1), "Right"),
        ("Previous note", lambda: edits.step(-1), "Left"),
        ("Select on to the next note", lambda: edits.step(1, extend=True), "Ctrl+Right"),
        ("Select back to the note before", lambda: edits.step(-1, extend=True), "Ctrl+Left"),
        ("Select the phrase", edits.select_phrase, "Ctrl+A"),
        ("Next phrase", lambda: edits.step_phrase(1), "Down"),
        ("Previous phrase", lambda: edits.step_phrase(-1), "Up"),
        ("Next beat", lambda: edits.step_beat(1), "."),
        ("Previous beat", lambda: edits.step_beat(-1), ","),
        ("Nearest note on a higher string", lambda: edits.step_string(-1), "Alt+Up"),
        ("Nearest note on a lower string", lambda: edits.step_string(1), "Alt+Down"),
        ("Next doubt", edits.step_doubt, "N"),
        ("Previous doubt", lambda: edits.step_doubt(-1), "Shift+N"),
        ("Accept note", edits.accept, "K"),
        ("Accept the phrase", edits.accept_phrase, "Shift+K"),
        ("Snap to evidence", edits.snap, "A"),
        ("Snap the phrase to evidence", edits.snap_phrase, "Shift+A"),
    )
    return [Row("&Walk", *row, on_tab=True) for row in table]


def _placing(window: Window) -> list[Row]:
    edits = window.notch.edits
    table = (
        ("Same pitch, higher string", lambda: edits.move_string(-1), "Shift+Up"),
        ("Same pitch, lower string", lambda: edits.move_string(1), "Shift+Down"),
        ("Same fret, higher string", lambda: edits.move_fret_over(-1), "Ctrl+Shift+Up"),
        ("Same fret, lower string", lambda: edits.move_fret_over(1), "Ctrl+Shift+Down"),
        ("Place again what was not placed by hand", edits.place_again, "Ctrl+R"),
        ("Play the phrase around a fret…", window.asking.ask_near_fret, "Ctrl+F"),
        ("Lock places", lambda: edits.lock(True), "Ctrl+L"),
        ("Unlock places", lambda: edits.lock(False), "Ctrl+Shift+L"),
        ("First finger", lambda: edits.finger(1), "Alt+1"),
        ("Second finger", lambda: edits.finger(2), "Alt+2"),
        ("Third finger", lambda: edits.finger(3), "Alt+3"),
        ("Little finger", lambda: edits.finger(4), "Alt+4"),
        ("No finger", lambda: edits.finger(None), "Alt+0"),
        ("Pick stroke: down, up, none", edits.next_stroke, "/"),
        ("Write pick strokes for all notes", edits.suggest_strokes, ""),
    )
    return [Row("&Place", *row, on_tab=True) for row in table]


def _timing(window: Window) -> list[Row]:
    edits, player = window.notch.edits, window.player
    table = (
        ("Onset earlier", lambda: edits.nudge(-1), "Shift+Left"),
        ("Onset later", lambda: edits.nudge(1), "Shift+Right"),
        ("Onset to the strike heard before", lambda: edits.snap_onset(-1), "Ctrl+Shift+Left"),
        ("Onset to the strike heard next", lambda: edits.snap_onset(1), "Ctrl+Shift+Right"),
        ("End earlier", lambda: edits.nudge_end(-1), "["),
        ("End later", lambda: edits.nudge_end(1), "]"),
        ("End at the strike heard before", lambda: edits.snap_end(-1), "{"),
        ("End at the strike heard next", lambda: edits.snap_end(1), "}"),
        ("Insert note at the playhead", lambda: edits.insert(player.time_s), "Ins"),
        ("Write the next note", edits.append, "I"),
        ("Longer steps", lambda: edits.change_step(True), "="),
        ("Shorter steps", lambda: edits.change_step(False), "-"),
        ("Split note at the playhead", lambda: edits.split(player.time_s), "Ctrl+D"),
        ("Join with the next note", edits.join, "Ctrl+J"),
        ("Delete note", edits.delete, "Del"),
        ("Copy notes", edits.copy, "Ctrl+C"),
        ("Paste at the playhead", lambda: edits.paste(player.time_s), "Ctrl+V"),
        ("Paste moved…", window.asking.ask_paste, "Ctrl+Shift+V"),
        ("Chord at the note…", window.asking.ask_chord, "Ctrl+K"),
        ("Tap the pulse", window.tap_beat, ";"),
    )
    return [Row("&Time", *row, on_tab=True) for row in table]


def _sounding(window: Window) -> list[Row]:
    edits = window.notch.edits
    attacks = (
        ("Picked", Attack.PICK, "Q"),
        ("Hammered", Attack.HAMMER, "W"),
        ("Pulled off", Attack.PULL, "E"),
        ("Tapped", Attack.TAP, "T"),
        ("Slid into", Attack.SLIDE, "R"),
        ("Struck again while bent", Attack.REPICK, "Y"),
        ("Faded in", Attack.SWELL, "U"),
    )
    tones = (
        ("Palm mute", Tone.PALM_MUTE, "Z"),
        ("Dead note", Tone.DEAD, "X"),
        ("Natural harmonic", Tone.NATURAL_HARMONIC, "C"),
        ("Squeal harmonic", Tone.SQUEAL_HARMONIC, "V"),
        ("Tapped harmonic", Tone.TAPPED_HARMONIC, "B"),
    )
    ends = (
        ("Ends damped", End.STOPS, "Shift+Z"),
        ("Rings on", End.RINGS, "Shift+X"),
        ("Choked", End.CHOKED, "Shift+C"),
        ("Slides away", End.SLIDES_AWAY, "Shift+V"),
    )
    found = [Row("&Note", name, lambda s=attack: edits.attack(s), keys, True) for name, attack, keys in attacks]
    found += [Row("&Note", name, lambda t=tone: edits.tone(t), keys, True) for name, tone, keys in tones]
    found += [Row("&Note", name, lambda e=end: edits.end(e), keys, True) for name, end, keys in ends]
    marks = (
        ("Raked into", lambda: edits.toggle("raked", "Rake"), "M"),
        ("Garnish", lambda: edits.toggle("garnish", "Garnish"), "O"),
        ("The player's slip", lambda: edits.toggle("slip", "Slip"), "P"),
        ("Doubt", edits.doubt, "Shift+D"),
        ("Remark…", window.asking.ask_remark, "Ctrl+M"),
    )
    return found + [Row("&Note", *row, on_tab=True) for row in marks]


def _bending(window: Window) -> list[Row]:
    edits = window.notch.edits
    table = (
        ("Bend further", lambda: edits.bend_by(1), "S"),
        ("Bend less", lambda: edits.bend_by(-1), "Shift+S"),
        ("Pre-bend", lambda: edits.bend_how(prebent=True), "D"),
        ("Release", lambda: edits.bend_how(released=True), "F"),
        ("Curl", edits.curl, "H"),
        ("Vibrato", edits.vibrato, "G"),
        ("Type the curve", window.notch.edit_words, "J"),
    )
    return [Row("&Curve", *row, on_tab=True) for row in table]


def build_menus(window: Window) -> None:
    """Fill the menu bar."""
    _file_menu(window)
    _edit_menu(window)
    menus: dict[str, QMenu] = {}
    for row in rows(window):
        menu = menus.get(row.menu) or menus.setdefault(row.menu, window.menuBar().addMenu(row.menu))
        # these keys belong to the tab: elsewhere they move a slider or type a number
        add_action(window, menu, row.name, row.do, row.keys, owner=window.notch.tab if row.on_tab else None)
    _play_menu(window)
    _view_menus(window)


def add_action(
    window: Window, menu: QMenu, name: str, do: Callable[[], object], keys: str = "", *, owner: QWidget | None = None
) -> QAction:
    """Put an action into a menu and into the window's list. owner: the only widget on which its keys work."""
    action = QAction(name, window)
    action.triggered.connect(lambda _checked=False: do())
    window.usual_keys[name] = keys
    chosen = window.settings.keys(name)
    action.setShortcut(QKeySequence(keys if chosen is None else chosen))
    if owner is not None:
        action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        owner.addAction(action)
    menu.addAction(action)
    window.actions_by_name[name] = action
    return action


def _file_menu(window: Window) -> None:
    asking = window.asking
    file = window.menuBar().addMenu("&File")
    add_action(window, file, "Open…", window.ask_open, "Ctrl+O")
    window.recent_menu = file.addMenu("Open recent")
    window.recent_menu.aboutToShow.connect(window.fill_recent)
    add_action(window, file, "Open the demo", window.open_demo)
    add_action(window, file, "Write a solo by hand", asking.new_by_hand, "Ctrl+N")
    file.addSeparator()
    add_action(window, file, "Save", window.save, "Ctrl+S")
    add_action(window, file, "Save as…", window.save_as, "Ctrl+Shift+S")
    exports = file.addMenu("Write as")
    for ending, (name, _) in EXPORTS.items():
        add_action(window, exports, f"{name}…", lambda ending=ending: window.ask_export(ending))
    file.addSeparator()
    add_action(window, file, "Settings…", window.show_settings)
    add_action(window, file, "Quit", window.close, "Ctrl+Q")


def _edit_menu(window: Window) -> None:
    asking = window.asking
    edit = window.menuBar().addMenu("&Edit")
    stack = window.session.undo_stack
    for action, keys in (
        (stack.createUndoAction(window, "Undo"), "Ctrl+Z"),
        (stack.createRedoAction(window, "Redo"), "Ctrl+Shift+Z"),
    ):
        action.setShortcut(QKeySequence(keys))
        edit.addAction(action)
    edit.addSeparator()
    add_action(window, edit, "Find an action…", asking.show_finder, "Ctrl+Space")
    add_action(window, edit, "Keys…", asking.show_keys)
    edit.addSeparator()
    add_action(window, edit, "Keep this state…", asking.ask_state_name, "Ctrl+B")
    add_action(window, edit, "Kept states…", asking.show_states, "Ctrl+Shift+B")


def _play_menu(window: Window) -> None:
    notch, desk = window.notch, window.take_desk
    play = window.menuBar().addMenu("&Play")
    add_action(window, play, "Play or stop", window.player.toggle, "Space")
    add_action(window, play, "Loop the phrase, or stop looping", window.toggle_loop, "L")
    add_action(window, play, "Slower", lambda: window.change_pace(-0.05), "Ctrl+Down")
    add_action(window, play, "Faster", lambda: window.change_pace(0.05), "Ctrl+Up")
    add_action(window, play, "Playhead to the selected note", window.seek_note, "Return", owner=notch.tab)
    add_action(window, play, "Hear the selected notes", window.voices.hear_selection, "Shift+Space", owner=notch.tab)
    play.addSeparator()
    add_action(window, play, "Record a take, or end it", desk.record_take, "F8")
    add_action(window, play, "Take from a file…", desk.ask_take_file)
    delay = play.addMenu("Measure the delay")
    add_action(window, delay, "With a cable from output to input", lambda: desk.measure_delay(claps=False))
    add_action(window, delay, "By clapping along", lambda: desk.measure_delay(claps=True))
    play.addSeparator()
    voices = QActionGroup(window)
    for voice, (name, keys) in VOICES.items():
        action = add_action(window, play, name, lambda voice=voice: window.voices.choose(voice), keys)
        action.setCheckable(True)
        action.setChecked(voice == "recording")
        voices.addAction(action)


def _view_menus(window: Window) -> None:
    notch = window.notch
    view = window.menuBar().addMenu("&View")
    group = QActionGroup(window)
    for index, name in enumerate(BENCH_NAMES):
        action = add_action(window, view, f"{name} bench", lambda at=index: window.show_bench(at), f"Ctrl+{index + 1}")
        action.setCheckable(True)
        group.addAction(action)
    view.addSeparator()
    add_action(window, view, "Closer", lambda: notch.tab.zoom(1.25), "Ctrl++")
    add_action(window, view, "Further", lambda: notch.tab.zoom(0.8), "Ctrl+-")
    add_action(window, view, "Show the phrase", window.show_phrase, "Ctrl+9")
    add_action(window, view, "Show everything", window.show_all, "Ctrl+0")
    view.addSeparator()
    action = add_action(window, view, "A click on the neck writes the next note", window.toggle_step_entry, "Ctrl+I")
    action.setCheckable(True)
    view.addSeparator()
    add_action(window, view, "Show or hide pick strokes", window.switch_strokes, "Ctrl+Y")
    add_action(window, view, "Paper or stage", window.switch_theme, "Ctrl+T")
    help_menu = window.menuBar().addMenu("&Help")
    add_action(window, help_menu, "Legend and keys", window.show_legend, "F1")
    add_action(window, help_menu, "About Notcher", window.show_about)
