"""The tab's actions in one table: menu, name, keys, what is done. The keys are the usual ones and can be changed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from notcher.core.score import End, Strike, Tone

if TYPE_CHECKING:
    from notcher.ui.window import Window


@dataclass(frozen=True)
class Row:
    """One action. on_tab: its keys work only on the tab, where nothing else wants them."""

    menu: str
    name: str
    do: Callable[[], object]
    keys: str = ""
    on_tab: bool = False


def rows(window: Window) -> list[Row]:
    """Return every action that the keyboard can do, in the menus' order."""
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
        ("Accept note", edits.accept, "A"),
        ("Accept the phrase", edits.accept_phrase, "Shift+A"),
        ("Snap to evidence", edits.snap, "E"),
        ("Snap the phrase to evidence", edits.snap_phrase, "Shift+E"),
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
        ("Play the phrase around a fret…", window.ask_near_fret, "Ctrl+F"),
        ("Lock places", lambda: edits.lock(True), "Ctrl+L"),
        ("Unlock places", lambda: edits.lock(False), "Ctrl+Shift+L"),
        ("First finger", lambda: edits.finger(1), "Alt+1"),
        ("Second finger", lambda: edits.finger(2), "Alt+2"),
        ("Third finger", lambda: edits.finger(3), "Alt+3"),
        ("Little finger", lambda: edits.finger(4), "Alt+4"),
        ("No finger", lambda: edits.finger(None), "Alt+0"),
        ("Pick stroke: down, up, none", edits.next_stroke, "Y"),
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
        ("Insert note at the playhead", lambda: edits.insert(player.time_s), "Ins"),
        ("Write the next note", edits.append, "I"),
        ("Longer steps", lambda: edits.change_step(True), "="),
        ("Shorter steps", lambda: edits.change_step(False), "-"),
        ("Split note at the playhead", lambda: edits.split(player.time_s), "X"),
        ("Join with the next note", edits.join, "J"),
        ("Delete note", edits.delete, "Del"),
        ("Copy notes", edits.copy, "Ctrl+C"),
        ("Paste at the playhead", lambda: edits.paste(player.time_s), "Ctrl+V"),
        ("Paste moved…", window.ask_paste, "Ctrl+Shift+V"),
        ("Chord at the note…", window.ask_chord, "Ctrl+K"),
    )
    return [Row("&Time", *row, on_tab=True) for row in table]


def _sounding(window: Window) -> list[Row]:
    edits = window.notch.edits
    strikes = (
        ("Picked", Strike.PICK, "K"),
        ("Hammered", Strike.HAMMER, "H"),
        ("Pulled off", Strike.PULL, "P"),
        ("Tapped", Strike.TAP, "T"),
        ("Slid into", Strike.SLIDE, "S"),
        ("Struck again while bent", Strike.REPICK, "R"),
        ("Faded in", Strike.SWELL, "W"),
    )
    tones = (
        ("Palm mute", Tone.PALM_MUTE, "M"),
        ("Dead note", Tone.DEAD, "D"),
        ("Natural harmonic", Tone.NATURAL_HARMONIC, "O"),
        ("Squeal harmonic", Tone.SQUEAL_HARMONIC, "Shift+O"),
        ("Tapped harmonic", Tone.TAPPED_HARMONIC, "Shift+T"),
    )
    ends = (
        ("Ends damped", End.STOPS, "Shift+D"),
        ("Rings on", End.RINGS, "Shift+R"),
        ("Choked", End.CHOKED, "Shift+C"),
        ("Slides away", End.SLIDES_AWAY, "Shift+S"),
    )
    found = [Row("&Note", name, lambda s=strike: edits.strike(s), keys, True) for name, strike, keys in strikes]
    found += [Row("&Note", name, lambda t=tone: edits.tone(t), keys, True) for name, tone, keys in tones]
    found += [Row("&Note", name, lambda e=end: edits.end(e), keys, True) for name, end, keys in ends]
    marks = (
        ("Raked into", lambda: edits.toggle("raked", "Rake"), "Shift+K"),
        ("Garnish", lambda: edits.toggle("garnish", "Garnish"), "G"),
        ("The player's slip", lambda: edits.toggle("slip", "Slip"), "U"),
        ("Doubt", edits.doubt, "Q"),
        ("Remark…", window.ask_remark, "Ctrl+M"),
    )
    return found + [Row("&Note", *row, on_tab=True) for row in marks]


def _bending(window: Window) -> list[Row]:
    edits = window.notch.edits
    table = (
        ("Bend further", lambda: edits.bend_by(1), "B"),
        ("Bend less", lambda: edits.bend_by(-1), "Shift+B"),
        ("Pre-bend", lambda: edits.bend_how(prebent=True), "Z"),
        ("Release", lambda: edits.bend_how(released=True), "Shift+Z"),
        ("Curl", edits.curl, "Shift+V"),
        ("Vibrato", edits.vibrato, "V"),
        ("Type the curve", window.notch.edit_words, "C"),
    )
    return [Row("&Curve", *row, on_tab=True) for row in table]
