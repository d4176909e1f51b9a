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

EditRow = tuple[str, Edit | Callable[[], object], str, tuple[Precondition, ...]]
"""id, the edit that it is or what else it does, keys, what it needs"""


def notch_commands(
    notch: NotchBench, dialogs: NotchDialogs, variants: VariantController, player: Player, preconditions: Preconditions
) -> list[Command]:
    """Return everything that is done on the tab, in the menus' order."""
    editor = notch.editor
    return [
        *_of(editor, [*_walking(notch, player, preconditions), *_believing(preconditions)],
             hands_free=("walk.next_phrase", "walk.next_doubt")),
        *_of(editor, _placing(dialogs, preconditions)),
        *_of(editor, _timing(notch, dialogs, player, preconditions), also={"note.delete": "Backspace"}),
        *_of(editor, [*_counting(dialogs, preconditions), *_form(dialogs, preconditions),
                              *_variants(variants, preconditions)]),
        *_of(editor, _sounding(dialogs, preconditions)),
        *_of(editor, _bending(notch, preconditions)),
        *_writing(notch),
        Command("view.closer", lambda: notch.tab.zoom(1.25), "Ctrl++"),
        Command("view.further", lambda: notch.tab.zoom(0.8), "Ctrl+-"),
        Command("view.page_on", lambda: notch.tab.turn(1), "PgDown", Scope.TAB),
        Command("view.page_back", lambda: notch.tab.turn(-1), "PgUp", Scope.TAB),
        Command("view.phrase", notch.show_phrase, "Ctrl+9", preconditions=(preconditions.phrase,)),
        Command("view.all", notch.show_all, "Ctrl+0"),
    ]  # fmt: skip


def _of(
    editor: Editor,
    rows: Sequence[EditRow],
    *,
    hands_free: Sequence[str] = (),
    also: dict[str, str] | None = None,
) -> list[Command]:
    return [
        Command(name, partial(editor.run, what) if isinstance(what, Edit) else what, keys, Scope.TAB, needed,
                hands_free=name in hands_free, also=(also or {}).get(name, ""))
        for name, what, keys, needed in rows
    ]  # fmt: skip


def _writing(notch: NotchBench) -> list[Command]:
    writing = notch.writing
    return [
        Command("neck.writes", notch.toggle_writing, "Ctrl+I", checked=lambda: writing.on),
        Command("write.higher_string", lambda: writing.change_string(-1), "Up", Scope.WRITING, (writing.need,)),
        Command("write.lower_string", lambda: writing.change_string(1), "Down", Scope.WRITING, (writing.need,)),
        Command("write.later", writing.leave_a_step, "Right", Scope.WRITING, (writing.need,)),
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
        ("walk.next", to(1), "Right", notes),
        ("walk.previous", to(-1), "Left", notes),
        ("select.next", to(1, extend=True), "Ctrl+Right", note),
        ("select.previous", to(-1, extend=True), "Ctrl+Left", note),
        ("select.phrase", editor.select_phrase, "Ctrl+A", (preconditions.phrase,)),
        ("walk.first", lambda: editor.go_to_end(-1), "Home", notes),
        ("walk.last", lambda: editor.go_to_end(1), "End", notes),
        ("walk.next_phrase", by_phrase(1), "Down", note),
        ("walk.previous_phrase", by_phrase(-1), "Up", note),
        ("walk.next_beat", by_beat(1), ".", (preconditions.note, preconditions.beats)),
        ("walk.previous_beat", by_beat(-1), ",", (preconditions.note, preconditions.beats)),
        ("walk.higher_string", by_string(-1), "Alt+Up", note),
        ("walk.lower_string", by_string(1), "Alt+Down", note),
        ("walk.next_doubt", by_doubt(1), "N", (preconditions.doubt,)),
        ("walk.previous_doubt", by_doubt(-1), "Shift+N", (preconditions.doubt,)),
        ("walk.unclaimed", to_unclaimed, "Shift+U", (preconditions.recording,)),
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
    return "Match the recording" if len(chosen.ids) == 1 else "Match notes to the recording"


def _believing(preconditions: Preconditions) -> list[EditRow]:
    note, reading = (preconditions.note,), (preconditions.note, preconditions.reading)
    return [
        ("note.accept", Edit(_accepted, lambda s, c, _g: accepted_notes(s, c)), "K", note),
        ("phrase.accept", Edit(lambda s, c, g: _accepted(s, c.phrase_notes(s), g), _accept_phrase), "Shift+K",
         note),
        ("note.otherwise", Edit("Next interpretation", lambda s, c, _g: read_otherwise(s, c.note_id, 1)), "Shift+R",
         reading),
        ("note.otherwise_back", Edit("Previous interpretation", lambda s, c, _g: read_otherwise(s, c.note_id, -1)),
         "Ctrl+Shift+R", reading),
        ("note.snap", Edit(_snap_name, _snapped), "A", note),
        ("phrase.snap", Edit("Snap notes to evidence", lambda s, c, g: _snapped(s, c.phrase_notes(s), g)),
         "Shift+A", note),
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
        ("place.higher_string", same_pitch(-1), "Shift+Up", note),
        ("place.lower_string", same_pitch(1), "Shift+Down", note),
        ("place.over_higher", same_fret(-1), "Ctrl+Shift+Up", note),
        ("place.over_lower", same_fret(1), "Ctrl+Shift+Down", note),
        ("place.again", again, "Ctrl+R", note),
        ("place.near_fret", dialogs.near_fret, "Ctrl+F", note),
        ("place.lock", Edit("Lock places", lambda s, c, _g: c.changed(s, locked=True)), "Ctrl+L", note),
        ("place.unlock", Edit("Unlock places", lambda s, c, _g: c.changed(s, locked=False)), "Ctrl+Shift+L", note),
        ("finger.1", finger(1), "Alt+1", note),
        ("finger.2", finger(2), "Alt+2", note),
        ("finger.3", finger(3), "Alt+3", note),
        ("finger.4", finger(4), "Alt+4", note),
        ("finger.none", finger(None), "Alt+0", note),
        ("stroke.next", Edit(stroke_name, lambda s, c, _g: with_next_stroke(s, c)), "/", note),
        ("stroke.all", all_strokes, "", note),
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
        ("onset.earlier", _nudged(-1), "Shift+Left", note),
        ("onset.later", _nudged(1), "Shift+Right", note),
        ("onset.attack_before", _onset_at_attack(-1), "Ctrl+Shift+Left", attacks),
        ("onset.attack_next", _onset_at_attack(1), "Ctrl+Shift+Right", attacks),
        ("end.earlier", _end_nudged(-1), "[", note),
        ("end.later", _end_nudged(1), "]", note),
        ("end.attack_before", _end_at_attack(-1), "{", attacks),
        ("end.attack_next", _end_at_attack(1), "}", attacks),
        ("note.insert", write_here, "Ins", ()),
        ("note.beside_lower", lambda: writing.choose_beside(1), "Alt+Shift+Down", note),
        ("note.beside_higher", lambda: writing.choose_beside(-1), "Alt+Shift+Up", note),
        ("note.write_next", writing.write, "I", ()),
        ("step.longer", lambda: writing.change_step(True), "=", ()),
        ("step.shorter", lambda: writing.change_step(False), "-", ()),
        ("note.split", SPLIT, "Ctrl+D", note),
        ("note.join", JOIN, "Ctrl+J", note),
        ("note.delete", DELETE, "Del", note),
        ("notes.copy", editor.copy, "Ctrl+C", note),
        ("phrase.copy", lambda: editor.copy(phrase=True), "Ctrl+Alt+C", (preconditions.note, preconditions.phrase)),
        ("phrase.copy_text", dialogs.clipboard.copy_text, "Alt+Shift+C",
         (preconditions.note, preconditions.phrase)),
        ("phrase.copy_picture", dialogs.clipboard.copy_picture, "Alt+Shift+P",
         (preconditions.note, preconditions.phrase)),
        ("notes.paste", dialogs.paste_here, "Ctrl+V", (dialogs.paste_need,)),
        ("notes.paste_moved", dialogs.paste, "Ctrl+Shift+V", can_paste),
        ("chord.at_note", dialogs.chord, "Ctrl+K", ()),
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
        ("count.starts_on", dialogs.count, "Ctrl+Shift+C", beats),
        ("count.thirds", divided("thirds", "triplets"), "Ctrl+Shift+3", beats),
        ("count.halves", divided("halves", "halves"), "", beats),
        ("count.fourths", divided("fourths", "fourths"), "", beats),
        ("count.sixths", divided("sixths", "sixths"), "", beats),
        ("count.fifths", divided("fifths", "fives"), "", beats),
        ("count.free", divided("", "as they are read"), "", beats),
        ("bar.meter", dialogs.meter, "", beats),
        ("bar.swing", Edit(swing_name, lambda s, c, _g: swung(s, c)), "", beats),
        ("solo.key", dialogs.key, "", (preconditions.notes,)),
        ("phrase.key", dialogs.phrase_key, "", (preconditions.note, preconditions.phrase)),
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
        ("phrase.make", dialogs.phrase, "Ctrl+Shift+P", note),
        ("phrase.name", dialogs.phrase_name, "F2", phrase),
        ("phrase.begin", begin, "Ctrl+[", note),
        ("phrase.end", end, "Ctrl+]", note),
        ("phrase.split", cut, "Ctrl+Shift+D", phrase),
        ("phrase.join", join, "Ctrl+Shift+J", phrase),
        ("phrase.delete", delete, "Ctrl+Shift+Del", phrase),
        ("phrase.propose", dialogs.propose_phrases, "Ctrl+Alt+P", (preconditions.notes,)),
        ("chords.propose", dialogs.propose_chords, "Ctrl+Alt+H",
         (preconditions.notes, preconditions.recording, preconditions.beats)),
        ("section.make", dialogs.section, "Ctrl+G", phrase),
        ("section.delete", no_section, "", note),
        ("section.repeats", dialogs.repeat, "", note),
    ]  # fmt: skip


def _split_name(after: Score, chosen: Selection) -> str:
    """By the name of the phrase that was cut: the one that ends where the note begins."""
    at_s = chosen.note(after).onset_s
    before = [phrase for phrase in after.phrases if phrase.start_s < at_s - AT_S]
    return f"Split {(before[-1].name if before else '') or 'phrase'}"


def _variants(desk: VariantController, preconditions: Preconditions) -> list[EditRow]:
    phrase, some, shown = (preconditions.phrase,), (desk.need_variants,), (desk.need_variant,)
    return [
        ("variant.ease", desk.ease, "Ctrl+Shift+E", phrase),
        ("variant.move", desk.move, "Ctrl+Shift+M", phrase),
        ("variant.next", desk.next_variant, "\\", some),
        ("variant.hear", desk.hear_both, "Ctrl+\\", some),
        ("variant.put_back", desk.put_note_back, "Ctrl+Backspace", shown),
        ("variant.name", desk.rename, "", shown),
        ("variant.delete", desk.delete, "", shown),
    ]  # fmt: skip


# --- how it is struck, sounds and ends ---
ATTACK_KEYS = {
    Attack.PICK: "Q", Attack.HAMMER: "W", Attack.PULL: "E", Attack.TAP: "T", Attack.SLIDE: "R", Attack.REPICK: "Y",
    Attack.SWELL: "U",
}  # fmt: skip
TONE_KEYS = {
    Tone.PALM_MUTE: "Z", Tone.DEAD: "X", Tone.NATURAL_HARMONIC: "C", Tone.SQUEAL_HARMONIC: "V",
    Tone.TAPPED_HARMONIC: "B",
}  # fmt: skip
END_KEYS = {End.STOPS: "Shift+Z", End.RINGS: "Shift+X", End.CHOKED: "Shift+C", End.SLIDES_AWAY: "Shift+V"}
SWITCHES = (
    ("slid_in", "Slide in", "Shift+E"),
    ("raked", "Rake", "M"),
    ("garnish", "Optional note", "O"),
    ("slip", "Player's mistake", "P"),
)
"""The field of a note that is switched, what undo calls it, keys."""


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
        *((f"attack.{attack}", _attack(attack), keys, note) for attack, keys in ATTACK_KEYS.items()),
        *((f"tone.{tone}", _tone(tone), keys, note) for tone, keys in TONE_KEYS.items()),
        ("harmonic.partial", Edit("Harmonic", lambda s, c, _g: with_next_partial(s, c)), "Shift+B", note),
        *((f"end.{end}", _end(end), keys, note) for end, keys in END_KEYS.items()),
        *((f"note.{field}", _switch(field, called), keys, note) for field, called, keys in SWITCHES),
        ("note.doubt", doubt, "Shift+D", note),
        ("note.remark", dialogs.remark, "Ctrl+M", note),
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
        ("bend.further", Edit(_bend_name, lambda s, c, _g: bent_by(s, c, 1)), "S", note),
        ("bend.less", Edit(_bend_name, lambda s, c, _g: bent_by(s, c, -1)), "Shift+S", note),
        ("bend.prebend", Edit(_bend_how, lambda s, c, _g: bent_how(s, c, prebent=True)), "D", note),
        ("bend.release", Edit(_bend_how, lambda s, c, _g: bent_how(s, c, released=True)), "F", note),
        ("bend.curl", curl, "H", note),
        ("note.vibrato", wave, "G", note),
        ("curve.type", notch.edit_words, "J", note),
    ]  # fmt: skip
