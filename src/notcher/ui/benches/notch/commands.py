"""The commands of the measured tab.

Keys go by rows of the keyboard: above how a note is struck, in the middle how its pitch moves and what is believed of
it, below how it sounds and, with Shift, how it ends.
"""

from collections.abc import Callable

from notcher.core.score import Attack, End, Tone
from notcher.ui.benches.notch.asking import NotchAsking
from notcher.ui.benches.notch.notch_bench import NotchBench
from notcher.ui.benches.notch.variant_desk import VariantDesk
from notcher.ui.commands.command import Command, Need, Scope
from notcher.ui.commands.needs import Needs
from notcher.ui.playback.player import Player

Row = tuple[str, str, Callable[[], object], str, str]
"""id, label, what it does, keys, other words for it"""


def notch_commands(
    notch: NotchBench, asking: NotchAsking, variants: VariantDesk, player: Player, needs: Needs
) -> list[Command]:
    """Return everything that is done on the tab, in the menus' order."""
    note = (needs.note,)
    return [
        *_walking(notch, player, needs),
        *_of("Place", _placing(notch, asking), note),
        *_timing(notch, asking, player, needs),
        *_form(notch, asking, needs),
        *_variants(variants, needs),
        *_of("Note", _sounding(notch, asking), note),
        *_of("Curve", _bending(notch), note),
        *_writing(notch),
        Command("view.closer", "Closer", lambda: notch.tab.zoom(1.25), "View", "Ctrl++", "zoom in larger magnify",
                separated=True),
        Command("view.further", "Further", lambda: notch.tab.zoom(0.8), "View", "Ctrl+-", "zoom out smaller"),
        Command("view.page_on", "A page on", lambda: notch.tab.turn(1), "View", "PgDown", "scroll forward right",
                Scope.TAB),
        Command("view.page_back", "A page back", lambda: notch.tab.turn(-1), "View", "PgUp", "scroll left", Scope.TAB),
        Command("view.phrase", "Show the phrase", notch.show_phrase, "View", "Ctrl+9", "zoom fit",
                needs=(needs.phrase,)),
        Command("view.all", "Show everything", notch.show_all, "View", "Ctrl+0", "zoom fit whole solo"),
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


def _of(menu: str, rows: tuple[Row, ...], needed: tuple[Need, ...]) -> list[Command]:
    return [Command(name, label, run, menu, keys, words, Scope.TAB, needed) for name, label, run, keys, words in rows]


def _to_unclaimed(notch: NotchBench, player: Player) -> None:
    at_s = notch.edits.unclaimed_after(player.time_s)
    if at_s is not None:
        player.seek(at_s)
        notch.show_time(at_s)


def _walking(notch: NotchBench, player: Player, needs: Needs) -> list[Command]:
    edits = notch.edits
    rows: tuple[tuple[Row, tuple[Need, ...]], ...] = (
        (("walk.next", "Next note", lambda: edits.step(1), "Right", "forward right"), (needs.notes,)),
        (("walk.previous", "Previous note", lambda: edits.step(-1), "Left", "back left"), (needs.notes,)),
        (("select.next", "Select on to the next note", lambda: edits.step(1, extend=True), "Ctrl+Right",
          "extend mark several"), (needs.note,)),
        (("select.previous", "Select back to the note before", lambda: edits.step(-1, extend=True), "Ctrl+Left",
          "extend mark several"), (needs.note,)),
        (("select.phrase", "Select the phrase", edits.select_phrase, "Ctrl+A", "all mark lick"), (needs.phrase,)),
        (("walk.first", "First note", lambda: edits.go_to_end(-1), "Home", "start beginning"), (needs.notes,)),
        (("walk.last", "Last note", lambda: edits.go_to_end(1), "End", "end finish"), (needs.notes,)),
        (("walk.next_phrase", "Next phrase", lambda: edits.step_phrase(1), "Down", "lick line forward"),
         (needs.note,)),
        (("walk.previous_phrase", "Previous phrase", lambda: edits.step_phrase(-1), "Up", "lick line back"),
         (needs.note,)),
        (("walk.next_beat", "Next beat", lambda: edits.step_beat(1), ".", "count forward"), (needs.note, needs.beats)),
        (("walk.previous_beat", "Previous beat", lambda: edits.step_beat(-1), ",", "count back"),
         (needs.note, needs.beats)),
        (("walk.higher_string", "Nearest note on a higher string", lambda: edits.step_string(-1), "Alt+Up", "thinner"),
         (needs.note,)),
        (("walk.lower_string", "Nearest note on a lower string", lambda: edits.step_string(1), "Alt+Down", "thicker"),
         (needs.note,)),
        (("walk.next_doubt", "Next doubt", edits.step_doubt, "N", "uncertain question unsure check"), (needs.doubt,)),
        (("walk.previous_doubt", "Previous doubt", lambda: edits.step_doubt(-1), "Shift+N",
          "uncertain question unsure check"), (needs.doubt,)),
        (("walk.unclaimed", "Next sound without a note", lambda: _to_unclaimed(notch, player), "Shift+U",
          "unwritten missing heard gap lost"), (needs.recording,)),
        (("note.accept", "Accept note", edits.accept, "K", "confirm right ok approve believe"), (needs.note,)),
        (("phrase.accept", "Accept the phrase", edits.accept_phrase, "Shift+K", "confirm right ok approve believe"),
         (needs.note,)),
        (("note.otherwise", "Read the note otherwise", lambda: edits.read_otherwise(1), "Shift+R",
          "second reading alternative instead or heard"), (needs.note, needs.reading)),
        (("note.otherwise_back", "Back to the reading before", lambda: edits.read_otherwise(-1), "Ctrl+Shift+R",
          "second reading alternative instead or heard"), (needs.note, needs.reading)),
        (("note.snap", "Snap to evidence", edits.snap, "A", "measured heard curve follow"), (needs.note,)),
        (("phrase.snap", "Snap the phrase to evidence", edits.snap_phrase, "Shift+A", "measured heard curve follow"),
         (needs.note,)),
    )  # fmt: skip
    hands_free = ("walk.next_phrase", "walk.next_doubt")
    return [
        Command(name, label, run, "Walk", keys, words, Scope.TAB, needed, hands_free=name in hands_free)
        for (name, label, run, keys, words), needed in rows
    ]


def _placing(notch: NotchBench, asking: NotchAsking) -> tuple[Row, ...]:
    edits = notch.edits
    return (
        ("place.higher_string", "Same pitch, higher string", lambda: edits.move_string(-1), "Shift+Up", "move fret"),
        ("place.lower_string", "Same pitch, lower string", lambda: edits.move_string(1), "Shift+Down", "move fret"),
        ("place.over_higher", "Same fret, higher string", lambda: edits.move_fret_over(-1), "Ctrl+Shift+Up", "move"),
        ("place.over_lower", "Same fret, lower string", lambda: edits.move_fret_over(1), "Ctrl+Shift+Down", "move"),
        ("place.again", "Place again what was not placed by hand", edits.place_again, "Ctrl+R",
         "fingering solve neck position"),
        ("place.near_fret", "Play the phrase around a fret…", asking.near_fret, "Ctrl+F", "position box neck move"),
        ("place.lock", "Lock places", lambda: edits.lock(True), "Ctrl+L", "keep fix pin"),
        ("place.unlock", "Unlock places", lambda: edits.lock(False), "Ctrl+Shift+L", "free loose"),
        ("finger.1", "First finger", lambda: edits.finger(1), "Alt+1", "index fingering"),
        ("finger.2", "Second finger", lambda: edits.finger(2), "Alt+2", "middle fingering"),
        ("finger.3", "Third finger", lambda: edits.finger(3), "Alt+3", "ring fingering"),
        ("finger.4", "Little finger", lambda: edits.finger(4), "Alt+4", "fourth pinky fingering"),
        ("finger.none", "No finger", lambda: edits.finger(None), "Alt+0", "fingering remove"),
        ("stroke.next", "Pick stroke: down, up, none", edits.next_stroke, "/", "picking alternate plectrum"),
        ("stroke.all", "Write pick strokes for all notes", edits.suggest_strokes, "", "alternate economy sweep"),
    )  # fmt: skip


def _timing(notch: NotchBench, asking: NotchAsking, player: Player, needs: Needs) -> list[Command]:
    edits, note = notch.edits, (needs.note,)
    attacks = (needs.note, needs.attacks)
    rows: tuple[tuple[Row, tuple[Need, ...]], ...] = (
        (("onset.earlier", "Onset earlier", lambda: edits.nudge(-1), "Shift+Left", "nudge start move sooner"), note),
        (("onset.later", "Onset later", lambda: edits.nudge(1), "Shift+Right", "nudge start move"), note),
        (("onset.attack_before", "Onset to the attack heard before", lambda: edits.snap_onset(-1), "Ctrl+Shift+Left",
          "strike snap start"), attacks),
        (("onset.attack_next", "Onset to the attack heard next", lambda: edits.snap_onset(1), "Ctrl+Shift+Right",
          "strike snap start"), attacks),
        (("end.earlier", "End earlier", lambda: edits.nudge_end(-1), "[", "shorter length duration"), note),
        (("end.later", "End later", lambda: edits.nudge_end(1), "]", "longer length duration"), note),
        (("end.attack_before", "End at the attack heard before", lambda: edits.snap_end(-1), "{", "strike snap"),
         attacks),
        (("end.attack_next", "End at the attack heard next", lambda: edits.snap_end(1), "}", "strike snap"), attacks),
        (("note.insert", "Write the note at the playhead", lambda: edits.insert(player.time_s), "Ins",
          "insert add new heard sound"), ()),
        (("note.write_next", "Write the next note", edits.append, "I", "add new append insert"), ()),
        (("step.longer", "Longer steps", lambda: edits.change_step(True), "=", "note value length"), ()),
        (("step.shorter", "Shorter steps", lambda: edits.change_step(False), "-", "note value length"), ()),
        (("note.split", "Split note at the playhead", lambda: edits.split(player.time_s), "Ctrl+D", "cut"), note),
        (("note.join", "Join with the next note", edits.join, "Ctrl+J", "merge tie connect"), note),
        (("note.delete", "Delete note", edits.delete, "Del", "erase remove clear take out"), note),
        (("notes.copy", "Copy notes", edits.copy, "Ctrl+C", "clipboard duplicate"), note),
        (("phrase.copy", "Copy the phrase", edits.copy_phrase, "Ctrl+Alt+C", "clipboard duplicate lick"),
         (needs.note, needs.phrase)),
        (("notes.paste", "Paste at the playhead", asking.paste_here, "Ctrl+V", "clipboard insert"),
         (edits.copied_need,)),
        (("notes.paste_moved", "Paste moved…", asking.paste, "Ctrl+Shift+V", "transpose octave shape shift key"),
         (edits.copied_need,)),
        (("chord.at_note", "Chord at the note…", asking.chord, "Ctrl+K", "harmony symbol"), ()),
    )  # fmt: skip
    also = {"note.delete": "Backspace"}
    return [
        Command(name, label, run, "Time", keys, words, Scope.TAB, needed, also=also.get(name, ""))
        for (name, label, run, keys, words), needed in rows
    ]


def _form(notch: NotchBench, asking: NotchAsking, needs: Needs) -> list[Command]:
    form, beats, phrase = notch.form, (needs.note, needs.beats), (needs.note, needs.phrase)
    rows: tuple[tuple[Row, tuple[Need, ...]], ...] = (
        (("count.starts_on", "Starts on the count…", asking.count, "Ctrl+Shift+C", "beat and rhythm say written place"),
         beats),
        (("count.thirds", "Count triplets", lambda: form.divide("thirds"), "Ctrl+Shift+3", "rhythm three division"),
         beats),
        (("count.halves", "Count halves", lambda: form.divide("halves"), "", "rhythm straight eighths"), beats),
        (("count.fourths", "Count fourths", lambda: form.divide("fourths"), "", "rhythm sixteenths division"), beats),
        (("count.sixths", "Count sixths", lambda: form.divide("sixths"), "", "rhythm sextuplet division"), beats),
        (("count.fifths", "Count fives", lambda: form.divide("fifths"), "", "rhythm quintuplet division"), beats),
        (("count.free", "Count as it is read", lambda: form.divide(""), "", "rhythm division forget let"), beats),
        (("bar.meter", "Meter from this bar…", asking.meter, "", "time signature bar 6/8 change"), beats),
        (("bar.swing", "Swing or straight here", form.swing, "", "shuffle eighths feel triplet"), beats),
        (("solo.key", "Key of the solo…", asking.key, "", "scale tonic sharps flats spelling"), (needs.notes,)),
        (("phrase.key", "Key of the phrase…", asking.phrase_key, "", "scale tonic modulation spelling"), phrase),
        (("phrase.make", "Make a phrase of the notes…", asking.phrase, "Ctrl+Shift+P", "lick line new mark cut"),
         (needs.note,)),
        (("phrase.name", "Name the phrase…", asking.phrase_name, "F2", "rename lick title call"), phrase),
        (("phrase.begin", "The phrase begins with this note", form.begin_phrase, "Ctrl+[", "border start move"),
         (needs.note,)),
        (("phrase.end", "The phrase ends with this note", form.end_phrase, "Ctrl+]", "border stop move"),
         (needs.note,)),
        (("phrase.split", "Split the phrase before this note", form.split_phrase, "Ctrl+Shift+D", "cut border two"),
         phrase),
        (("phrase.join", "Join the phrase with the next", form.join_phrases, "Ctrl+Shift+J", "merge one"), phrase),
        (("phrase.delete", "Delete the phrase, not its notes", form.delete_phrase, "Ctrl+Shift+Del", "remove erase"),
         phrase),
        (("phrase.propose", "Propose phrases again", form.propose_phrases, "Ctrl+Alt+P", "cut find all lick anew"),
         (needs.notes,)),
        (("chords.propose", "Propose chords", form.propose_chords, "Ctrl+Alt+H", "harmony find all heard changes"),
         (needs.notes, needs.recording)),
        (("section.make", "Section around the phrases…", asking.section, "Ctrl+G", "verse chorus part form name"),
         phrase),
        (("section.delete", "Delete the section, not its phrases", form.delete_section, "", "remove erase verse"),
         (needs.note,)),
        (("section.repeats", "This section repeats…", asking.repeat, "", "again same form verse"), (needs.note,)),
    )  # fmt: skip
    return [
        Command(name, label, run, "Form", keys, words, Scope.TAB, needed)
        for (name, label, run, keys, words), needed in rows
    ]


def _variants(desk: VariantDesk, needs: Needs) -> list[Command]:
    phrase, some, shown = (needs.phrase,), (desk.need_variants,), (desk.need_variant,)
    rows: tuple[tuple[Row, tuple[Need, ...]], ...] = (
        (("variant.ease", "Make it easier…", desk.ease, "Ctrl+Shift+E", "simple variant leave out garnish student"),
         phrase),
        (("variant.move", "Move the phrase…", desk.move, "Ctrl+Shift+M",
          "transpose key chord fourth tuning elsewhere shape variant"), phrase),
        (("variant.next", "Show the next variant, or the original", desk.next_variant, "\\",
          "switch easier version beside"), some),
        (("variant.hear", "Hear the original, then the variant", desk.hear_both, "Ctrl+\\", "compare play both listen"),
         some),
        (("variant.put_back", "Put back what the original has here", desk.put_note_back, "Ctrl+Backspace",
          "revert undo change restore note"), shown),
        (("variant.name", "Name the variant…", desk.rename, "", "rename call"), shown),
        (("variant.delete", "Delete the variant", desk.delete, "", "remove throw away"), shown),
    )  # fmt: skip
    return [
        Command(name, label, run, "Form", keys, words, Scope.TAB, needed, separated=name == "variant.ease")
        for (name, label, run, keys, words), needed in rows
    ]


def _sounding(notch: NotchBench, asking: NotchAsking) -> tuple[Row, ...]:
    edits = notch.edits
    attacks = (
        ("Picked", Attack.PICK, "Q", "pluck strike plectrum"),
        ("Hammered", Attack.HAMMER, "W", "hammer-on legato slur"),
        ("Pulled off", Attack.PULL, "E", "pull-off legato slur"),
        ("Tapped", Attack.TAP, "T", "tapping right hand"),
        ("Slid into", Attack.SLIDE, "R", "slide glissando legato"),
        ("Struck again while bent", Attack.REPICK, "Y", "re-pick bend top"),
        ("Faded in", Attack.SWELL, "U", "swell volume pot"),
    )
    tones = (
        ("Palm mute", Tone.PALM_MUTE, "Z", "chug damped pm"),
        ("Dead note", Tone.DEAD, "X", "muted ghost click x"),
        ("Natural harmonic", Tone.NATURAL_HARMONIC, "C", "flageolet bell chime"),
        ("Squeal harmonic", Tone.SQUEAL_HARMONIC, "V", "pinch artificial scream"),
        ("Tapped harmonic", Tone.TAPPED_HARMONIC, "B", "touch artificial"),
    )
    ends = (
        ("Ends damped", End.STOPS, "Shift+Z", "stop mute staccato"),
        ("Rings on", End.RINGS, "Shift+X", "let ring sustain"),
        ("Choked", End.CHOKED, "Shift+C", "stop cut mute"),
        ("Slides away", End.SLIDES_AWAY, "Shift+V", "slide out off fall"),
    )
    rows: list[Row] = [
        (f"attack.{a}", label, lambda a=a: edits.attack(a), keys, f"attack struck {words}")  # type: ignore[misc]
        for label, a, keys, words in attacks
    ]
    rows += [
        (f"tone.{t}", label, lambda t=t: edits.tone(t), keys, f"tone {words}")  # type: ignore[misc]
        for label, t, keys, words in tones
    ]
    rows += [
        (f"end.{e}", label, lambda e=e: edits.end(e), keys, f"end {words}")  # type: ignore[misc]
        for label, e, keys, words in ends
    ]
    return (
        *rows,
        (
            "note.slid_in",
            "Slid in from no fret",
            lambda: edits.toggle("slid_in", "Slide in"),
            "Shift+E",
            "slide into from nowhere glissando",
        ),
        ("note.raked", "Raked into", lambda: edits.toggle("raked", "Rake"), "M", "sweep scrape mute"),
        ("note.garnish", "Garnish", lambda: edits.toggle("garnish", "Garnish"), "O", "ornament optional leave out"),
        ("note.slip", "The player's slip", lambda: edits.toggle("slip", "Slip"), "P", "mistake error wrong"),
        ("note.doubt", "Doubt", edits.doubt, "Shift+D", "question uncertain mark unsure"),
        ("note.remark", "Remark…", asking.remark, "Ctrl+M", "comment text say annotate"),
    )


def _bending(notch: NotchBench) -> tuple[Row, ...]:
    edits = notch.edits
    return (
        ("bend.further", "Bend further", lambda: edits.bend_by(1), "S", "more larger up"),
        ("bend.less", "Bend less", lambda: edits.bend_by(-1), "Shift+S", "unbend smaller"),
        ("bend.prebend", "Pre-bend", lambda: edits.bend_how(prebent=True), "D", "prebend bent before"),
        ("bend.release", "Release", lambda: edits.bend_how(released=True), "F", "let down"),
        ("bend.curl", "Curl", edits.curl, "H", "quarter blues bend"),
        ("note.vibrato", "Vibrato", edits.vibrato, "G", "shake wave wobble"),
        ("curve.type", "Type the curve", notch.edit_words, "J", "words gesture text"),
    )
