"""Menus, labels and the finder speak as guitarists do: what they may type finds what they mean."""

import json
import re

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import gone, press
from notcher.cli import main
from notcher.core.formats.files.atomic import held_against
from notcher.ui.commands.finder import CommandFinder
from notcher.ui.commands.menus import plain, with_access_letters
from notcher.ui.commands.ranking import ranked
from notcher.ui.commands.wording import MENU_ENTRIES, MENU_PATHS, WORDING
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import SETTINGS

TYPED = """
dark mode|view.theme
bigger text|view.larger_text
text size|view.larger_text,view.smaller_text,file.settings
whole step bend|bend.further
bend up|bend.further
slide up|attack.slide,note.slid_in
double stop|note.beside_lower,note.beside_higher
power chord|note.beside_lower,note.beside_higher
wrong fret|place.over_higher,note.otherwise,prove.correct,place.higher_string
missed note|walk.unclaimed,note.insert
trill|attack.hammer,attack.pull
grace note|note.garnish
pick direction|stroke.next
key signature|solo.key
quantize|count.starts_on,count.free,count.fourths
save as midi|export.mid
recent files|file.open
merge notes|note.join
lefty|file.settings
playback speed|pace.slower,pace.faster
record myself|take.record
backing track|source.band
whammy bar|curve.type
tuning|tuning.choose
drop d|tuning.choose
capo|tuning.choose
go back|edit.undo,view.back
a b repeat|loop.toggle
easier|variant.ease
let ring|end.rings
half speed|pace.slower
slow down|pace.slower
loop|loop.toggle
metronome|count_in.toggle,beat.tap
count in|count_in.toggle
hammer on|attack.hammer
pull off|attack.pull
tapping|attack.tap
vibrato|note.vibrato
prebend|bend.prebend
release bend|bend.release
quarter bend|bend.curl
pinch harmonic|tone.squeal_harmonic
natural harmonic|tone.natural_harmonic
palm mute|tone.palm_mute
dead note|tone.dead
ghost note|tone.dead
staccato|end.stops
print|sheet.print
export pdf|sheet.pdf
musicxml|export.musicxml
zoom|view.closer,view.further
full screen|view.stand
undo|edit.undo
redo|edit.redo
copy|notes.copy
paste|notes.paste
delete note|note.delete
transpose|variant.move,notes.paste_moved
key of song|solo.key
time signature|bar.meter
swing|bar.swing
triplets|count.thirds
tempo|beat.tap
bpm|beat.tap
chords|chords.propose,chord.at_note
new student|student.new
lesson plan|lesson.plan
practice pack|pack.make
homework|pack.make
mp3 slow|pack.make
volume|play.volumes
microphone|play.devices,take.record
headphones|play.devices
latency|delay.cable
tuner|mirror.toggle
next phrase|walk.next_phrase
previous note|walk.previous
select all|select.phrase
shortcuts|edit.keys,help.legend
keyboard shortcuts|edit.keys
preferences|file.settings
help|help.guide
tutorial|file.demo,help.cards
same lick again|view.licks,shapes.elsewhere,catalogue.like
search licks|catalogue.like,catalogue.show
compare|versions.compare,edit.states
version history|edit.states
move to another string|place.higher_string,place.lower_string
fingering|place.again,finger.1
finger|finger.1
alternate picking|stroke.all,stroke.next
economy picking|stroke.all
sweep|stroke.all,note.raked
rake|note.raked
slide off|end.slides_away
fall off|end.slides_away
volume swell|attack.swell
mistake|note.slip
comment|note.remark
add note|note.insert
split note|note.split
name phrase|phrase.name
rename|phrase.name,variant.name,file.facts
chorus|section.make
verse|section.make
section|section.make
open file|file.open
import|file.open,ledger.take_in
new tab|file.by_hand
ascii tab|export.txt,phrase.copy_text
send to student|pack.make,ledger.give_state
due today|ledger.today
progress|ledger.progress
safety|lesson.cautions
warm up|lesson.cautions
full mix|source.mix
play tab|source.tab
original|source.recording,variant.hear,variant.put_back
isolate lead|bench.hear
fretboard|neck.writes,place.near_fret
position|place.near_fret
hand position|place.near_fret
lock string|place.lock
rewind|playhead.earlier
stop|play.toggle
pause|play.toggle
confirm|note.accept
unsure|note.doubt,walk.next_doubt
doubt|walk.next_doubt,note.doubt
retune|tuning.choose,pitch.meet
half step down|tuning.choose,pitch.lower
pitch up|pitch.higher
scale degrees|view.degrees
notation|sheet.staff,export.musicxml
standard notation|sheet.staff
landscape|sheet.landscape
hide rhythm|sheet.rhythm
legend|help.legend,sheet.legend
backup|ledger.restore,ledger.give_out
quit|file.quit
save|file.save
title|file.facts
artist|file.facts
vibrto|note.vibrato
harmonc|tone.natural_harmonic
hamer on|attack.hammer
bnd|bend.further
palm muting|tone.palm_mute
bending|bend.further
sliding|attack.slide
hear lick|catalogue.hear,prove.play,shapes.both
read aloud|walk_words.phrase,walk_words.next
speak|walk_words.next
mute|tone.palm_mute,end.stops
trim|file.keep_stretch
cut|file.keep_stretch,note.split
align|file.recording
sync|file.recording
transcribe|draft.again
"""
"""What a guitarist may type, and the commands of which one is meant (common practice, no source)."""
OLD_WORDS = (
    "squeal", "struck again", "faded in", "choked", "damped", "no fret", "raked into", "curl", "garnish", "slip",
    "otherwise", "evidence", "sound without a note", "placed by hand", "attack heard", "closer", "further", "unloop",
    "note after note", "halves", "fourths", "as it is read", "this state", "kept state", "lay the tab", "draft the tab",
    "meet a guitar", "not silent", "once more", "let them go", "cautions", "nobody", "drop in", "gather",
    "by words alone",     "hold against", "rung", "ladder", "placing school", "ledger", "pickup",
)  # fmt: skip
"""The dialect that labels once spoke."""


def the_finder(qtbot: QtBot) -> CommandFinder:
    """The finder, once the keys are its line's."""
    finder = next(
        widget for widget in QApplication.topLevelWidgets() if isinstance(widget, CommandFinder) and widget.isVisible()
    )
    qtbot.waitUntil(finder.line.hasFocus, timeout=5_000)
    return finder


@pytest.fixture(scope="module")
def entries() -> list[tuple[str, str]]:
    return [(wording.label, wording.words) for wording in WORDING.values()]


@pytest.mark.parametrize("row", TYPED.strip().splitlines(), ids=lambda row: row.partition("|")[0])
def test_what_a_guitarist_types_finds_it_among_the_first_three(row: str, entries: list[tuple[str, str]]) -> None:
    typed, _, meant = row.partition("|")
    names = list(WORDING)
    first = [names[at] for at in ranked(typed, entries)[:3]]
    assert set(meant.split(",")) & set(first), first


def test_the_exact_name_comes_first_whatever_else_fits(entries: list[tuple[str, str]]) -> None:
    for at, (label, _) in enumerate(entries):
        same = [other for other, _ in entries if other.lower().strip("…") == label.lower().strip("…")]
        if len(same) == 1:
            assert ranked(label.lower().strip("…"), entries)[0] == at, label


@pytest.mark.parametrize("typed", ["vibrto", "virbato", "harmonc", "hamer on", "pul off", "tranpose", "metronom"])
def test_a_slip_of_the_finger_finds_it_all_the_same(typed: str, entries: list[tuple[str, str]]) -> None:
    right = {"vibrto": "note.vibrato", "virbato": "note.vibrato", "harmonc": "tone.natural_harmonic",
             "hamer on": "attack.hammer", "pul off": "attack.pull", "tranpose": "variant.move",
             "metronom": "count_in.toggle"}  # fmt: skip
    names = list(WORDING)
    assert right[typed] in [names[at] for at in ranked(typed, entries)[:3]]


def test_the_order_of_words_does_not_matter(entries: list[tuple[str, str]]) -> None:
    assert ranked("string lock", entries)[0] == ranked("lock string", entries)[0]
    assert ranked("", entries) == list(range(len(entries)))
    assert ranked("qwxyzq", entries) == []


def test_no_label_speaks_the_old_dialect() -> None:
    labels = [wording.label for wording in WORDING.values()] + list(MENU_PATHS)
    labels += [setting.label for setting in SETTINGS]
    for label in labels:
        for word in OLD_WORDS:
            assert not re.search(rf"\b{word}\b", label.lower()), (label, word)


def test_every_command_stands_in_one_menu_and_none_is_longer_than_twenty(program: Program) -> None:
    assert {command.id for command in program.commands} == set(WORDING)
    assert set(WORDING) <= set(MENU_ENTRIES)
    for path in MENU_PATHS:
        assert sum(wording.menu == path for wording in WORDING.values()) <= 20, path


def test_every_entry_of_a_menu_has_an_access_letter_of_its_own(program: Program) -> None:
    bar = program.window.menuBar()
    assert bar is not None
    for above in bar.actions():
        menu = above.menu()
        assert menu is not None
        menu.aboutToShow.emit()
        texts = [action.text().partition("\t")[0] for action in menu.actions() if not action.isSeparator()]
        letters = [text.replace("&&", "")[text.replace("&&", "").index("&") + 1].lower() for text in texts]
        assert len(letters) == len(set(letters)), texts
    letters = [action.text().replace("&&", "").partition("&")[2][:1].lower() for action in bar.actions()]
    assert len(set(letters)) == len(letters)


def test_access_letters_leave_what_is_written_as_it_is() -> None:
    labels = ["Bend & vibrato", "Back", "12", "Bar"]
    marked = with_access_letters(labels)
    assert [plain(text) for text in marked] == labels
    assert marked == ["&Bend && vibrato", "B&ack", "12", "Ba&r"]


def test_desktop_habits_are_kept() -> None:
    """Copy, paste and delete in Edit, zoom in View, print before Quit (common practice, no source)."""
    menu_of = {name: wording.menu for name, wording in WORDING.items()}
    assert {menu_of[name] for name in ("notes.copy", "notes.paste", "note.delete", "file.settings")} == {"Edit"}
    assert {menu_of[name] for name in ("view.closer", "view.further")} == {"View"}
    in_file = [name for name in MENU_ENTRIES if menu_of.get(name) == "File"]
    assert in_file[-2:] == ["sheet.print", "file.quit"]


def test_larger_text_is_a_command(program: Program, qtbot: QtBot) -> None:
    program.settings.set("text_scale", 1.0)
    for typed, scale in (("bigger text", 1.1), ("smaller text", 1.0)):
        press("Ctrl+Space")
        finder = the_finder(qtbot)
        QTest.keyClicks(finder.line, typed)
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        assert program.settings.get("text_scale") == pytest.approx(scale)
        gone(finder)


@pytest.mark.parametrize(("typed", "kind"), [("nudge", "setting"), ("trust", "guide page")])
def test_the_finder_also_finds_what_is_no_command(program: Program, qtbot: QtBot, typed: str, kind: str) -> None:
    press("Ctrl+Space")
    finder = the_finder(qtbot)
    QTest.keyClicks(finder.line, typed)
    kinds = [finder.list.item(row, 1).text() for row in range(finder.list.rowCount())]  # type: ignore[union-attr]
    assert kind in kinds
    finder.list.setCurrentCell(kinds.index(kind), 0)
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    opened = [
        widget for widget in QApplication.topLevelWidgets() if widget.isVisible() and widget is not program.window
    ]
    assert opened
    for widget in opened:
        widget.close()


def test_a_phrase_is_found_by_its_name(opened: Program, qtbot: QtBot) -> None:
    name = opened.session.score.phrases[-1].name
    press("Ctrl+Space")
    finder = the_finder(qtbot)
    QTest.keyClicks(finder.line, name)
    kinds = [finder.list.item(row, 1).text() for row in range(finder.list.rowCount())]  # type: ignore[union-attr]
    finder.list.setCurrentCell(kinds.index("phrase"), 0)
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    note = opened.session.note
    assert note is not None
    assert note.onset_s >= opened.session.score.phrases[-1].start_s - 0.05


@pytest.mark.slow
def test_the_command_line_answers_as_the_finder_does(capsys: pytest.CaptureFixture[str], program: Program) -> None:
    assert main(["commands", "drop", "d", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    held_against(rows, "commands", "what was printed")
    assert rows[0]["id"] == "tuning.choose"
    assert [row["id"] for row in rows] == [command.id for command in program.commands.found("drop d")]
    assert main(["commands", "undo", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert "nothing to undo" in rows[0]["disabled_reason"]
    assert main(["commands", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert [row["id"] for row in rows] == list(WORDING), "in the menus' order"
    assert main(["commands", "qwxyzq"]) == 0
    assert "Nothing found" in capsys.readouterr().out
