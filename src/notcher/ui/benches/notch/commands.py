"""The commands of the measured tab: the table of its edits, and what else is done there.

Keys go by rows of the keyboard: above how a note is struck, in the middle how its pitch moves and what is believed of
it, below how it sounds and, with Shift, how it ends.
"""

from collections.abc import Callable, Sequence
from contextlib import suppress
from functools import partial

from notcher.core.hearing import snapped_note
from notcher.core.neck import inserted_at, on_next_string, on_string_beside, over_strings, place_score, strokes
from notcher.core.score import Attack, End, Note, Score, Selection, Tone
from notcher.core.score.edits import (
    end_at_attack,
    joined_with_next,
    onset_at_attack,
    read_otherwise,
    split,
    with_division,
    with_end,
    with_onset,
    without_notes,
)
from notcher.core.score.form import joined_phrases, without_phrase
from notcher.core.score.form_edits import begun_here, ended_here, split_here, swung, without_section_here
from notcher.core.score.note_edits import (
    accepted_notes,
    bent_by,
    bent_how,
    curled,
    shaken,
    toggled,
    with_doubt_switched,
    with_next_partial,
    with_next_stroke,
    with_strokes,
    with_tone,
)
from notcher.core.score.walking import from_next_beat, in_next_phrase, next_doubtful, note_beside, on_other_string
from notcher.core.words import ATTACKS, ENDS, TONES, bend_name, many
from notcher.ui.benches.notch.dialogs import NotchDialogs
from notcher.ui.benches.notch.editor import AT_S, Edit, Editor, Given, Made
from notcher.ui.benches.notch.notch_bench import NotchBench
from notcher.ui.benches.notch.variant_controller import VariantController
from notcher.ui.commands.command import Command, Precondition, Scope
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.playback.player import Player

EditRow = tuple[str, str, Edit | Callable[[], object], str, str, tuple[Precondition, ...]]
"""id, label, the edit that it is or what else it does, keys, other words for it, what it needs"""


def notch_commands(
    notch: NotchBench, dialogs: NotchDialogs, variants: VariantController, player: Player, preconditions: Preconditions
) -> list[Command]:
    """Return everything that is done on the tab, in the menus' order."""
    editor = notch.editor
    return [
        *_of("Walk", editor, [*_walking(notch, player, preconditions), *_believing(preconditions)],
             hands_free=("walk.next_phrase", "walk.next_doubt")),
        *_of("Place", editor, _placing(dialogs, preconditions)),
        *_of("Time", editor, _timing(notch, dialogs, player, preconditions), also={"note.delete": "Backspace"}),
        *_of("Form", editor, [*_counting(dialogs, preconditions), *_form(dialogs, preconditions),
                              *_variants(variants, preconditions)], separated=("variant.ease",)),
        *_of("Note", editor, _sounding(dialogs, preconditions)),
        *_of("Curve", editor, _bending(notch, preconditions)),
        *_writing(notch),
        Command("view.closer", "Closer", lambda: notch.tab.zoom(1.25), "View", "Ctrl++", "zoom in larger magnify",
                separated=True),
        Command("view.further", "Further", lambda: notch.tab.zoom(0.8), "View", "Ctrl+-", "zoom out smaller"),
        Command("view.page_on", "A page on", lambda: notch.tab.turn(1), "View", "PgDown", "scroll forward right",
                Scope.TAB),
        Command("view.page_back", "A page back", lambda: notch.tab.turn(-1), "View", "PgUp", "scroll left", Scope.TAB),
        Command("view.phrase", "Show the phrase", notch.show_phrase, "View", "Ctrl+9", "zoom fit",
                preconditions=(preconditions.phrase,)),
        Command("view.all", "Show everything", notch.show_all, "View", "Ctrl+0", "zoom fit whole solo"),
    ]  # fmt: skip


def _of(
    menu: str,
    editor: Editor,
    rows: Sequence[EditRow],
    *,
    hands_free: Sequence[str] = (),
    separated: Sequence[str] = (),
    also: dict[str, str] | None = None,
) -> list[Command]:
    return [
        Command(
            name, label, partial(editor.run, what) if isinstance(what, Edit) else what, menu, keys, words, Scope.TAB,
            needed, separated=name in separated, hands_free=name in hands_free, also=(also or {}).get(name, ""),
        )
        for name, label, what, keys, words, needed in rows
    ]  # fmt: skip


def _writing(notch: NotchBench) -> list[Command]:
    writing = notch.writing
    return [
        Command(
            "neck.writes", "Write note after note", notch.toggle_writing, "View", "Ctrl+I",
            "step entry add insert fretboard type fret by hand", checked=lambda: writing.on, separated=True,
        ),
        Command("write.higher_string", "The next note on a higher string", lambda: writing.change_string(-1), "View",
                "Up", "thinner", Scope.WRITING, (writing.need,)),
        Command("write.lower_string", "The next note on a lower string", lambda: writing.change_string(1), "View",
                "Down", "thicker", Scope.WRITING, (writing.need,)),
        Command("write.later", "The next note a step later", writing.leave_a_step, "View", "Right", "rest silence",
                Scope.WRITING, (writing.need,)),
    ]  # fmt: skip


# --- from note to note ---
def _walking(notch: NotchBench, player: Player, preconditions: Preconditions) -> list[EditRow]:
    editor, note, notes = notch.editor, (preconditions.note,), (preconditions.notes,)

    def to(by: int, *, extend: bool = False) -> Callable[[], None]:
        return lambda: editor.go(lambda score, here: note_beside(score, here, by), extend=extend)

    def by_phrase(by: int) -> Callable[[], None]:
        return lambda: editor.step_phrase(lambda score, here: in_next_phrase(score, here, by))

    def by_beat(by: int) -> Callable[[], None]:
        return lambda: editor.go(lambda score, here: from_next_beat(score, here, by))

    def by_string(direction: int) -> Callable[[], None]:
        return lambda: editor.go(lambda score, here: on_other_string(score, here, direction))

    def by_doubt(by: int) -> Callable[[], None]:
        return lambda: editor.go(lambda score, here: next_doubtful(score, here, by))

    def to_unclaimed() -> None:
        at_s = editor.unclaimed_after(player.time_s)
        if at_s is not None:
            player.seek(at_s)
            notch.show_time(at_s)

    return [
        ("walk.next", "Next note", to(1), "Right", "forward right", notes),
        ("walk.previous", "Previous note", to(-1), "Left", "back left", notes),
        ("select.next", "Select on to the next note", to(1, extend=True), "Ctrl+Right", "extend mark several", note),
        ("select.previous", "Select back to the note before", to(-1, extend=True), "Ctrl+Left", "extend mark several",
         note),
        ("select.phrase", "Select the phrase", editor.select_phrase, "Ctrl+A", "all mark lick",
         (preconditions.phrase,)),
        ("walk.first", "First note", lambda: editor.go_to_end(-1), "Home", "start beginning", notes),
        ("walk.last", "Last note", lambda: editor.go_to_end(1), "End", "end finish", notes),
        ("walk.next_phrase", "Next phrase", by_phrase(1), "Down", "lick line forward", note),
        ("walk.previous_phrase", "Previous phrase", by_phrase(-1), "Up", "lick line back", note),
        ("walk.next_beat", "Next beat", by_beat(1), ".", "count forward", (preconditions.note, preconditions.beats)),
        ("walk.previous_beat", "Previous beat", by_beat(-1), ",", "count back",
         (preconditions.note, preconditions.beats)),
        ("walk.higher_string", "Nearest note on a higher string", by_string(-1), "Alt+Up", "thinner", note),
        ("walk.lower_string", "Nearest note on a lower string", by_string(1), "Alt+Down", "thicker", note),
        ("walk.next_doubt", "Next doubt", by_doubt(1), "N", "uncertain question unsure check", (preconditions.doubt,)),
        ("walk.previous_doubt", "Previous doubt", by_doubt(-1), "Shift+N", "uncertain question unsure check",
         (preconditions.doubt,)),
        ("walk.unclaimed", "Next sound without a note", to_unclaimed, "Shift+U", "unwritten missing heard gap lost",
         (preconditions.recording,)),
    ]  # fmt: skip


# --- what is believed ---
def _accepted(_after: Score, chosen: Selection, _given: Given) -> str:
    return f"Accept {many(len(chosen.ids), 'note')}"


def _accept_phrase(score: Score, chosen: Selection, _given: Given) -> Made:
    return accepted_notes(score, chosen.phrase_notes(score))


def _snapped(score: Score, chosen: Selection, parameters: Given) -> Made:
    """The claims of the selected notes made equal to what was measured."""
    changed: dict[str, Note] = {}
    for note in chosen.notes(score):
        with suppress(ValueError):  # silent under this one
            changed[note.id] = snapped_note(score, note, parameters.measured)
    if not changed:
        raise ValueError("no pitch was heard under this note")
    return score.with_changed(changed)


def _snap_name(_after: Score, chosen: Selection, _given: Given) -> str:
    return "Snap to evidence" if len(chosen.ids) == 1 else "Snap notes to evidence"


def _believing(preconditions: Preconditions) -> list[EditRow]:
    note, reading = (preconditions.note,), (preconditions.note, preconditions.reading)
    return [
        ("note.accept", "Accept note", Edit(_accepted, lambda s, c, _g: accepted_notes(s, c)), "K",
         "confirm right ok approve believe", note),
        ("phrase.accept", "Accept the phrase",
         Edit(lambda s, c, g: _accepted(s, c.phrase_notes(s), g), _accept_phrase), "Shift+K",
         "confirm right ok approve believe", note),
        ("note.otherwise", "Read the note otherwise",
         Edit("Read otherwise", lambda s, c, _g: read_otherwise(s, c.note_id, 1)), "Shift+R",
         "second reading alternative instead or heard", reading),
        ("note.otherwise_back", "Back to the reading before",
         Edit("Read otherwise", lambda s, c, _g: read_otherwise(s, c.note_id, -1)), "Ctrl+Shift+R",
         "second reading alternative instead or heard", reading),
        ("note.snap", "Snap to evidence", Edit(_snap_name, _snapped), "A", "measured heard curve follow", note),
        ("phrase.snap", "Snap the phrase to evidence",
         Edit("Snap notes to evidence", lambda s, c, g: _snapped(s, c.phrase_notes(s), g)), "Shift+A",
         "measured heard curve follow", note),
    ]  # fmt: skip


# --- where ---
def _of_each(
    called: str | Callable[[Score, Selection, Given], str],
    change: Callable[[Score, Selection, Given], Made],
    way: int = 0,
) -> Edit:
    """An edit of one note that is made of each of several. way: later (above 0) begins with the last."""
    return Edit(called, change, each=change, backwards=way > 0)


def _moved(after: Score, chosen: Selection, _given: Given) -> str:
    note = chosen.note(after)
    return f"Move note to string {note.string}, fret {note.fret}"


def _placing(dialogs: NotchDialogs, preconditions: Preconditions) -> list[EditRow]:
    note = (preconditions.note,)

    def same_pitch(direction: int) -> Edit:
        return Edit(
            _moved,
            lambda s, c, g: on_next_string(s, c, direction, style=g.style),
            each=lambda s, c, _g: on_string_beside(s, c.note_id, direction),
        )

    def same_fret(direction: int) -> Edit:
        return _of_each(_moved, lambda s, c, g: over_strings(s, c, direction, style=g.style))

    def finger(number: int | None) -> Edit:
        return Edit(f"Finger {number}" if number else "No finger", lambda s, c, _g: c.changed(s, finger=number))

    def stroke_name(after: Score, chosen: Selection, _given: Given) -> str:
        return f"Stroke: {chosen.note(after).stroke or 'none'}"

    again = Edit("Place again", lambda s, _c, g: place_score(s, style=g.style))
    all_strokes = Edit(
        lambda _s, _c, g: f"Write {g.picking_style} strokes",
        lambda s, _c, g: with_strokes(s, strokes(s.notes, style=g.picking_style)),
    )
    return [
        ("place.higher_string", "Same pitch, higher string", same_pitch(-1), "Shift+Up", "move fret", note),
        ("place.lower_string", "Same pitch, lower string", same_pitch(1), "Shift+Down", "move fret", note),
        ("place.over_higher", "Same fret, higher string", same_fret(-1), "Ctrl+Shift+Up", "move", note),
        ("place.over_lower", "Same fret, lower string", same_fret(1), "Ctrl+Shift+Down", "move", note),
        ("place.again", "Place again what was not placed by hand", again, "Ctrl+R", "fingering solve neck position",
         note),
        ("place.near_fret", "Play the phrase around a fret…", dialogs.near_fret, "Ctrl+F", "position box neck move",
         note),
        ("place.lock", "Lock places", Edit("Lock places", lambda s, c, _g: c.changed(s, locked=True)), "Ctrl+L",
         "keep fix pin", note),
        ("place.unlock", "Unlock places", Edit("Unlock places", lambda s, c, _g: c.changed(s, locked=False)),
         "Ctrl+Shift+L", "free loose", note),
        ("finger.1", "First finger", finger(1), "Alt+1", "index fingering", note),
        ("finger.2", "Second finger", finger(2), "Alt+2", "middle fingering", note),
        ("finger.3", "Third finger", finger(3), "Alt+3", "ring fingering", note),
        ("finger.4", "Little finger", finger(4), "Alt+4", "fourth pinky fingering", note),
        ("finger.none", "No finger", finger(None), "Alt+0", "fingering remove", note),
        ("stroke.next", "Pick stroke: down, up, none", Edit(stroke_name, lambda s, c, _g: with_next_stroke(s, c)),
         "/", "picking alternate plectrum", note),
        ("stroke.all", "Write pick strokes for all notes", all_strokes, "", "alternate economy sweep", note),
    ]  # fmt: skip


# --- when ---
def _nudged(by: int) -> Edit:
    return _of_each("Nudge onset", lambda s, c, g: with_onset(s, c.note_id, c.note(s).onset_s + by * g.nudge_s), by)


def _end_nudged(by: int) -> Edit:
    return _of_each("Nudge end", lambda s, c, g: with_end(s, c.note_id, c.note(s).offset_s + by * g.nudge_s), by)


def _onset_at_attack(way: int) -> Edit:
    return _of_each("Snap onset to an attack", lambda s, c, g: onset_at_attack(s, c.note_id, g.attacks_s, way), way)


def _end_at_attack(way: int) -> Edit:
    return _of_each("Snap end to an attack", lambda s, c, g: end_at_attack(s, c.note_id, g.attacks_s, way), way)


def _inserted(score: Score, chosen: Selection, parameters: Given) -> Made:
    """A note at the playhead like the selected one; one of its string that sounds on there ends where it begins."""
    like, at_s = score.note_of(chosen.note_id), parameters.playhead_s
    for note in score.notes:
        here = note.onset_s - AT_S <= at_s < note.offset_s - AT_S
        if here and (like is None or note.string == like.string):
            if at_s <= note.onset_s + AT_S:
                raise ValueError("a note begins here already. Move the playhead to where the new one begins")
            return split(score, note.id, at_s)
    return inserted_at(score, at_s, like=like)


def _deleted(_after: Score, chosen: Selection, _given: Given) -> str:
    return "Delete note" if len(chosen.ids) == 1 else f"Delete {len(chosen.ids)} notes"


AT_NOTE_S = 0.03  # the playhead stands at a note's start
INSERT = Edit("Insert note", _inserted)
DELETE = Edit(_deleted, lambda s, c, _g: without_notes(s, c))
SPLIT = Edit("Split note", lambda s, c, g: split(s, c.note_id, g.playhead_s))
JOIN = Edit("Join notes", lambda s, c, _g: joined_with_next(s, c.note_id))


def _timing(notch: NotchBench, dialogs: NotchDialogs, player: Player, preconditions: Preconditions) -> list[EditRow]:
    editor, writing = notch.editor, notch.writing
    note, attacks, can_paste = (preconditions.note,), (preconditions.note, preconditions.attacks), (editor.copied_need,)

    def write_here() -> None:
        """What sounds at the playhead; at the selected note another string; else a note like the selected one."""
        note = editor.note
        if editor.claimed_at(player.time_s):
            return
        if note is not None and note.onset_s - AT_NOTE_S <= player.time_s < note.onset_s + AT_NOTE_S:
            writing.choose_beside(1)
        else:
            editor.run(INSERT)

    return [
        ("onset.earlier", "Onset earlier", _nudged(-1), "Shift+Left", "nudge start move sooner", note),
        ("onset.later", "Onset later", _nudged(1), "Shift+Right", "nudge start move", note),
        ("onset.attack_before", "Onset to the attack heard before", _onset_at_attack(-1), "Ctrl+Shift+Left",
         "strike snap start", attacks),
        ("onset.attack_next", "Onset to the attack heard next", _onset_at_attack(1), "Ctrl+Shift+Right",
         "strike snap start", attacks),
        ("end.earlier", "End earlier", _end_nudged(-1), "[", "shorter length duration", note),
        ("end.later", "End later", _end_nudged(1), "]", "longer length duration", note),
        ("end.attack_before", "End at the attack heard before", _end_at_attack(-1), "{", "strike snap",
         attacks),
        ("end.attack_next", "End at the attack heard next", _end_at_attack(1), "}", "strike snap", attacks),
        ("note.insert", "Write the note at the playhead", write_here, "Ins", "insert add new heard sound", ()),
        ("note.beside_lower", "Another note at this time, on a lower string", lambda: writing.choose_beside(1),
         "Alt+Shift+Down", "chord double stop second string together two notes", note),
        ("note.beside_higher", "Another note at this time, on a higher string", lambda: writing.choose_beside(-1),
         "Alt+Shift+Up", "chord double stop second string together two notes", note),
        ("note.write_next", "Write the next note", writing.write, "I", "add new append insert", ()),
        ("step.longer", "Longer steps", lambda: writing.change_step(True), "=", "note value length", ()),
        ("step.shorter", "Shorter steps", lambda: writing.change_step(False), "-", "note value length", ()),
        ("note.split", "Split note at the playhead", SPLIT, "Ctrl+D", "cut", note),
        ("note.join", "Join with the next note", JOIN, "Ctrl+J", "merge tie connect", note),
        ("note.delete", "Delete note", DELETE, "Del", "erase remove clear take out", note),
        ("notes.copy", "Copy notes", editor.copy, "Ctrl+C", "clipboard duplicate", note),
        ("phrase.copy", "Copy the phrase", lambda: editor.copy(phrase=True), "Ctrl+Alt+C", "clipboard duplicate lick",
         (preconditions.note, preconditions.phrase)),
        ("phrase.copy_text", "Copy the phrase as text", dialogs.clipboard.copy_text, "Alt+Shift+C",
         "clipboard mail chat share send ascii tab", (preconditions.note, preconditions.phrase)),
        ("phrase.copy_picture", "Copy the phrase as a picture", dialogs.clipboard.copy_picture, "Alt+Shift+P",
         "clipboard mail chat share send image png", (preconditions.note, preconditions.phrase)),
        ("notes.paste", "Paste at the playhead", dialogs.paste_here, "Ctrl+V", "clipboard insert mail text tab",
         (dialogs.paste_need,)),
        ("notes.paste_moved", "Paste moved…", dialogs.paste, "Ctrl+Shift+V", "transpose octave shape shift key",
         can_paste),
        ("chord.at_note", "Chord at the note…", dialogs.chord, "Ctrl+K", "harmony symbol", ()),
    ]  # fmt: skip


# --- rhythm and form ---
def _counting(dialogs: NotchDialogs, preconditions: Preconditions) -> list[EditRow]:
    beats = (preconditions.note, preconditions.beats)

    def divided(grid: str, called: str) -> Edit:
        return Edit(f"Count {called}", lambda s, c, _g: with_division(s, c.ids, grid))

    def swing_name(after: Score, chosen: Selection, _given: Given) -> str:
        beat_map = after.beat_map
        bar = beat_map.bar_at(beat_map.quarter(next(chosen.notes(after)).onset_s))
        return "Swing" if beat_map.swing_at(beat_map.bar_start(bar)) > 0.5 else "Straight"

    return [
        ("count.starts_on", "Starts on the count…", dialogs.count, "Ctrl+Shift+C",
         "beat and rhythm say written place", beats),
        ("count.thirds", "Count triplets", divided("thirds", "triplets"), "Ctrl+Shift+3", "rhythm three division",
         beats),
        ("count.halves", "Count halves", divided("halves", "halves"), "", "rhythm straight eighths", beats),
        ("count.fourths", "Count fourths", divided("fourths", "fourths"), "", "rhythm sixteenths division", beats),
        ("count.sixths", "Count sixths", divided("sixths", "sixths"), "", "rhythm sextuplet division", beats),
        ("count.fifths", "Count fives", divided("fifths", "fives"), "", "rhythm quintuplet division", beats),
        ("count.free", "Count as it is read", divided("", "as they are read"), "", "rhythm division forget let",
         beats),
        ("bar.meter", "Meter from this bar…", dialogs.meter, "", "time signature bar 6/8 change", beats),
        ("bar.swing", "Swing or straight here", Edit(swing_name, lambda s, c, _g: swung(s, c)), "",
         "shuffle eighths feel triplet", beats),
        ("solo.key", "Key of the solo…", dialogs.key, "", "scale tonic sharps flats spelling", (preconditions.notes,)),
        ("phrase.key", "Key of the phrase…", dialogs.phrase_key, "", "scale tonic modulation spelling",
         (preconditions.note, preconditions.phrase)),
    ]  # fmt: skip


def _phrase_called(words: str, rest: str = "") -> Callable[[Score, Selection, Given], str]:
    """What undo calls an edit of a phrase: by its name, as it is afterwards."""

    def called(after: Score, chosen: Selection, _given: Given) -> str:
        phrase = after.phrase_at(chosen.note(after).onset_s)
        return f"{words} {(phrase.name if phrase is not None else '') or 'the phrase'}{rest}"

    return called


def _form(dialogs: NotchDialogs, preconditions: Preconditions) -> list[EditRow]:
    note, phrase = (preconditions.note,), (preconditions.note, preconditions.phrase)
    begin = Edit(_phrase_called("Begin", " here"), lambda s, c, _g: begun_here(s, c))
    end = Edit(_phrase_called("End", " here"), lambda s, c, _g: ended_here(s, c))
    cut = Edit(lambda s, c, _g: _split_name(s, c), lambda s, c, _g: split_here(s, c))
    join = Edit("Join phrases", lambda s, c, _g: joined_phrases(s, c.phrase(s).id))
    delete = Edit("Delete phrase", lambda s, c, _g: without_phrase(s, c.phrase(s).id))
    no_section = Edit("Delete section", lambda s, c, _g: without_section_here(s, c))
    return [
        ("phrase.make", "Make a phrase of the notes…", dialogs.phrase, "Ctrl+Shift+P", "lick line new mark cut", note),
        ("phrase.name", "Name the phrase…", dialogs.phrase_name, "F2", "rename lick title call", phrase),
        ("phrase.begin", "The phrase begins with this note", begin, "Ctrl+[", "border start move", note),
        ("phrase.end", "The phrase ends with this note", end, "Ctrl+]", "border stop move", note),
        ("phrase.split", "Split the phrase before this note", cut, "Ctrl+Shift+D", "cut border two", phrase),
        ("phrase.join", "Join the phrase with the next", join, "Ctrl+Shift+J", "merge one", phrase),
        ("phrase.delete", "Delete the phrase, not its notes", delete, "Ctrl+Shift+Del", "remove erase", phrase),
        ("phrase.propose", "Propose phrases again", dialogs.propose_phrases, "Ctrl+Alt+P",
         "cut find all lick anew", (preconditions.notes,)),
        ("chords.propose", "Propose chords", dialogs.propose_chords, "Ctrl+Alt+H", "harmony find all heard changes",
         (preconditions.notes, preconditions.recording, preconditions.beats)),
        ("section.make", "Section around the phrases…", dialogs.section, "Ctrl+G", "verse chorus part form name",
         phrase),
        ("section.delete", "Delete the section, not its phrases", no_section, "", "remove erase verse", note),
        ("section.repeats", "This section repeats…", dialogs.repeat, "", "again same form verse", note),
    ]  # fmt: skip


def _split_name(after: Score, chosen: Selection) -> str:
    """By the name of the phrase that was cut: the one that ends where the note begins."""
    at_s = chosen.note(after).onset_s
    before = [phrase for phrase in after.phrases if phrase.start_s < at_s - AT_S]
    return f"Split {(before[-1].name if before else '') or 'phrase'}"


def _variants(desk: VariantController, preconditions: Preconditions) -> list[EditRow]:
    phrase, some, shown = (preconditions.phrase,), (desk.need_variants,), (desk.need_variant,)
    return [
        ("variant.ease", "Make it easier…", desk.ease, "Ctrl+Shift+E", "simple variant leave out garnish student",
         phrase),
        ("variant.move", "Move the phrase…", desk.move, "Ctrl+Shift+M",
         "transpose key chord fourth tuning elsewhere shape variant", phrase),
        ("variant.next", "Show the next variant, or the original", desk.next_variant, "\\",
         "switch easier version beside", some),
        ("variant.hear", "Hear the original, then the variant", desk.hear_both, "Ctrl+\\", "compare play both listen",
         some),
        ("variant.put_back", "Put back what the original has here", desk.put_note_back, "Ctrl+Backspace",
         "revert undo change restore note", shown),
        ("variant.name", "Name the variant…", desk.rename, "", "rename call", shown),
        ("variant.delete", "Delete the variant", desk.delete, "", "remove throw away", shown),
    ]  # fmt: skip


# --- how it is struck, sounds and ends ---
ATTACK_ROWS = (
    ("Picked", Attack.PICK, "Q", "pluck strike plectrum"),
    ("Hammered", Attack.HAMMER, "W", "hammer-on legato slur"),
    ("Pulled off", Attack.PULL, "E", "pull-off legato slur"),
    ("Tapped", Attack.TAP, "T", "tapping right hand"),
    ("Slid into", Attack.SLIDE, "R", "slide glissando legato"),
    ("Struck again while bent", Attack.REPICK, "Y", "re-pick bend top"),
    ("Faded in", Attack.SWELL, "U", "swell volume pot"),
)
TONE_ROWS = (
    ("Palm mute", Tone.PALM_MUTE, "Z", "chug damped pm"),
    ("Dead note", Tone.DEAD, "X", "muted ghost click x"),
    ("Natural harmonic", Tone.NATURAL_HARMONIC, "C", "flageolet bell chime"),
    ("Squeal harmonic", Tone.SQUEAL_HARMONIC, "V", "pinch artificial scream"),
    ("Tapped harmonic", Tone.TAPPED_HARMONIC, "B", "touch artificial"),
)
END_ROWS = (
    ("Ends damped", End.STOPS, "Shift+Z", "stop mute staccato"),
    ("Rings on", End.RINGS, "Shift+X", "let ring sustain"),
    ("Choked", End.CHOKED, "Shift+C", "stop cut mute"),
    ("Slides away", End.SLIDES_AWAY, "Shift+V", "slide out off fall"),
)
SWITCHES = (
    ("note.slid_in", "Slid in from no fret", "slid_in", "Slide in", "Shift+E",
     "slide into from nowhere glissando"),
    ("note.raked", "Raked into", "raked", "Rake", "M", "sweep scrape mute"),
    ("note.garnish", "Garnish", "garnish", "Garnish", "O", "ornament optional leave out"),
    ("note.slip", "The player's slip", "slip", "Slip", "P", "mistake error wrong"),
)  # fmt: skip
"""id, label, the field of a note that is switched, what undo calls it, keys, other words."""


def _attack(attack: Attack) -> Edit:
    return Edit(f"Attack: {ATTACKS[attack]}", lambda s, c, _g: c.changed(s, attack=attack))


def _end(end: End) -> Edit:
    return Edit(f"End: {ENDS[end]}", lambda s, c, _g: c.changed(s, end=end))


def _tone(tone: Tone) -> Edit:
    return Edit(lambda s, c, _g: f"Tone: {TONES[c.note(s).tone]}", lambda s, c, _g: with_tone(s, c, tone))


def _switch(field: str, name: str) -> Edit:
    def called(after: Score, chosen: Selection, _given: Given) -> str:
        return name if getattr(chosen.note(after), field) else f"No {name.lower()}"

    return Edit(called, lambda s, c, _g: toggled(s, c, field))


def _sounding(dialogs: NotchDialogs, preconditions: Preconditions) -> list[EditRow]:
    note = (preconditions.note,)
    doubt = Edit(
        lambda s, c, _g: "Doubt" if c.note(s).doubt else "No doubt", lambda s, c, _g: with_doubt_switched(s, c)
    )
    return [
        *((f"attack.{a}", label, _attack(a), keys, f"attack struck {words}", note)
          for label, a, keys, words in ATTACK_ROWS),
        *((f"tone.{t}", label, _tone(t), keys, f"tone {words}", note) for label, t, keys, words in TONE_ROWS),
        ("harmonic.partial", "Next harmonic at this fret", Edit("Harmonic", lambda s, c, _g: with_next_partial(s, c)),
         "Shift+B", "partial node natural flageolet overtone", note),
        *((f"end.{e}", label, _end(e), keys, f"end {words}", note) for label, e, keys, words in END_ROWS),
        *((name, label, _switch(field, called), keys, words, note)
          for name, label, field, called, keys, words in SWITCHES),
        ("note.doubt", "Doubt", doubt, "Shift+D", "question uncertain mark unsure", note),
        ("note.remark", "Remark…", dialogs.remark, "Ctrl+M", "comment text say annotate", note),
    ]  # fmt: skip


# --- how its pitch moves ---
def _bend_name(after: Score, chosen: Selection, parameters: Given) -> str:
    size = chosen.note(after).reading.bend_semitones
    return f"Bend {bend_name(size, parameters.naming)}" if size else "Unbend"


def _bend_how(after: Score, chosen: Selection, _given: Given) -> str:
    names = chosen.note(after).reading.names
    return "Pre-bend" if "prebend" in names else "Release" if "release" in names else "Bend"


def _bending(notch: NotchBench, preconditions: Preconditions) -> list[EditRow]:
    note = (preconditions.note,)
    curl = Edit(
        lambda s, c, _g: "Curl" if "curl" in c.note(s).reading.names else "No curl", lambda s, c, _g: curled(s, c)
    )
    wave = Edit(
        lambda s, c, _g: "Vibrato" if c.note(s).vibrato is not None else "No vibrato", lambda s, c, _g: shaken(s, c)
    )
    return [
        ("bend.further", "Bend further", Edit(_bend_name, lambda s, c, _g: bent_by(s, c, 1)), "S", "more larger up",
         note),
        ("bend.less", "Bend less", Edit(_bend_name, lambda s, c, _g: bent_by(s, c, -1)), "Shift+S", "unbend smaller",
         note),
        ("bend.prebend", "Pre-bend", Edit(_bend_how, lambda s, c, _g: bent_how(s, c, prebent=True)), "D",
         "prebend bent before", note),
        ("bend.release", "Release", Edit(_bend_how, lambda s, c, _g: bent_how(s, c, released=True)), "F", "let down",
         note),
        ("bend.curl", "Curl", curl, "H", "quarter blues bend", note),
        ("note.vibrato", "Vibrato", wave, "G", "shake wave wobble", note),
        ("curve.type", "Type the curve", notch.edit_words, "J", "words gesture text", note),
    ]  # fmt: skip
