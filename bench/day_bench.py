"""What the instructor's day takes in keys and clicks: `./dev bench day`; writes docs/benchmarks/day.md.

Every event is delivered to whatever has the focus. `--shots DIR` keeps a picture of each part of the day.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication, QMainWindow

from day_walk import Day, Step, by_hand_line, laid_out
from notcher.painting.theme import load_fonts

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "day.md"
MOST_EVERY_LESSON, MOST_KEYS_A_NOTE = 3, 1.8
NOT_POSSIBLE = "not possible"
BEFORE = {
    "a request is noted, for somebody new": "8",
    "its recording is opened": "9",
    "a phrase is marked clean": "3",
    "the revision is sent with what changed": NOT_POSSIBLE,
    "of a long evening one solo is kept": NOT_POSSIBLE,
    "opened: One side.wav": "7",
}
"""What the same took before the day was walked: counted then, where it was more."""
HURT = (
    ("A request for somebody new needed the student first; once noted it was nowhere to be seen: the page in "
     "view, Today, "
     "shows only what is due.",
     "A new name may be typed; the queue comes to the front with the request chosen; Today has a button for it."),
    ("Return on a request that was not opened yet said only that it was about no solo; opening its recording did "
     "not tie "
     "the two, and chose no student.",
     "Return asks for the recording or tab, opens it, ties it to the request and chooses the student."),
    ("Every file dialog began in the folder the program was started from.", "It begins where the last file lay."),
    ("A lead on one side of the stereo picture: the usual focus keeps what both sides have in common, which is "
     "nothing; "
     "not one note was written.",
     "Where the sides have nothing in common, both are listened to for ten seconds, the one with the lead is "
     "heard, and "
     "it is said which."),
    ("Ten minutes of which one is wanted were heard and written whole.",
     "A drag over the strip and one key keep a stretch; a recording of more than four minutes says so when it opens."),
    ("Written by hand a note took a key to begin it, its figures, and chords of keys to change the string.",
     "Note after note: the figure writes, the last figure is enough near the hand, up and down change the string, and "
     "the next note's place is drawn."),
    ("A click on the neck did nothing unless it met another place of the same pitch.",
     "It puts the note there; hovering says that the pitch is another."),
    ("A note missing inside one that is held could not be written without splitting first.",
     "It is written at the playhead, and the held one ends there."),
    ("The size of an odd bend was typed in words.", "The size alone is enough: 1.8."),
    ("A palm-muted note was called struck again while bent, where nothing is bent.", "It is picked."),
    ("Places told in one phrase did not count in the next: only two notes beside a phrase were looked at.",
     "Twenty-four are."),
    ("From the takes Escape did not lead back to the board, though it leads back everywhere else; marks went nowhere.",
     "It does, and so from another version to the shapes."),
    ("A corrected solo could be handed out again, but the student had to be told by word what was another.",
     "The pack begins with what changed since the last one; the same can be written as a page. Each change says where "
     "it is: time, bar, note before and now."),
    ("Tab did not lead to the students nor to the ledger's pages; the tab, the shapes, the board, lists and "
     "the names of "
     "the benches did not show that they had the keys.",
     "It leads everywhere, and what has the keys has a frame."),
    ("The mark of a note that slides away or rings on was cut off where the next piece of the picture began.",
     "It is drawn whole; found by comparing pictures with and without each mark."),
    ("With text twice as large the window took 1670 by 1036 pixels, and cautions lay over the plan's steps.",
     "Rows of buttons go on below; it fits 1280 by 800, and nothing lies over anything."),
    ("Tab did not lead to the students nor to the ledger's pages; the tab, the shapes, the board, lists and "
     "the names of "
     "the benches did not show that they had the keys.",
     "It leads everywhere, and what has the keys has a frame."),
    ("With text twice as large the window took 1670 by 1036 pixels, and cautions lay over the plan's steps.",
     "Rows of buttons go on below; it fits 1280 by 800, and nothing lies over anything."),
    ("\"not said\" stood for a student; \"Its solo\", \"For\" and \"Notes, about\" in the form of a request said too "
     "little; rows of lists cut their letters.",
     "They are called no student, its tab or recording, for whom, about how many notes; rows have room."),
)  # fmt: skip
"""What hurt, and what was done about it."""


WORDS = (
    ("Hear", "Only this band", "Only these frequencies"), ("Hear", "Play only this", "Play back only what is kept"),
    ("Hear", "Hear it again", "Transcribe again"),
    ("Hear", "Forget the hints", "Forget the boxes (around the lead)"),
    ("Hear", "What differs (left − right)", "What the sides do not share (left − right)"),
    ("Hear", "half-down, whole-down, drop-d", "half a step down, a step down, lowest string to D"),
    ("Notch", "or: picked, fret 12 · 2 more", "could also be: picked, fret 12, or 2 more"),
    ("Notch", "counted 1, 2 ms early", "counted “1”, 2 ms early"),
    ("Notch", "A click on the neck writes the next note", "Write note after note"),
    ("Prove", "Checked", "The tab is right"), ("Prove", "Claimed → measured", "Written → measured"),
    ("Shapes", "sixes, four times", "in sixes four times"), ("Sheets", "Print: small, normal, large", "Print size"),
    ("Ledger", "not said", "no student"), ("Ledger", "For, Its solo, Notes, about",
                                               "For whom, Its tab or recording, About how many notes"),
    ("Ledger", "no student has no passes yet", "No passes yet for no student"),
    ("Ledger", "Ctrl+L says that it is the solo that is open.",
     "No recording or tab was opened for it yet: Return asks for one, Ctrl+L takes the one that is open."),
    ("Ledger", "R notes a request, G on the Teach bench keeps a planned lesson.",
     "What students ask for stands in the queue, lessons come here from the Teach bench."),
    ("Ledger", "re-bent: string 3, fret 12 → string 3, fret 12, bend, 1",
     "0:01.2, bar 1: bent otherwise: string 3, fret 12 → string 3, fret 12, bend, 1 step"),
)  # fmt: skip
"""Of all words on the benches, read one by one as by a guitarist who never saw the program: those that said "
"too little."""


def row(step: Step) -> str:
    before = next((told for name, told in BEFORE.items() if step.name.startswith(name)), str(step.acts))
    lesson = "yes" if step.lesson else ""
    return f"| {step.name} | {before} | {step.acts} | {step.letters or ''} | {lesson} | {step.seconds:.1f} |"


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--shots", type=Path, metavar="DIR", help="keep pictures there")
    options = parser.parse_args()
    app = QApplication(sys.argv[:1])
    load_fonts()

    def shot(name: str, window: QMainWindow) -> None:
        if options.shots is not None:
            options.shots.mkdir(parents=True, exist_ok=True)
            window.grab().save(str(options.shots / f"{name}.png"))

    with tempfile.TemporaryDirectory() as scratch:
        desk = laid_out(Path(scratch) / "desk")
        first = Day(app, desk, Path(scratch) / "first", shots=shot)
        day = first.walk()
        second = Day(app, desk, Path(scratch) / "second", shots=shot)
        others = second.walk_other_days()
        line = by_hand_line(desk.solo)
        keys_before = [1 + len(str(fret)) for _, fret in line]
        moves = sum(abs(a[0] - b[0]) for a, b in zip(line, [(3, 0), *line], strict=False))
    BEFORE["written by keys"] = str(sum(keys_before) + moves)
    dearest = max(step.acts for step in day if step.lesson)
    heads = [
        "| step | acts before | acts now | letters | every lesson | seconds |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    lines = [
        "# The day",
        "",
        "Made by `./dev bench day`: an invented request is noted, its recording (a random hand's solo on the "
        "string model,",
        "over a band) opened, checked, corrected until proved, read, eased, planned, taught, handed out, and "
        "gone on with a",
        "week later. Every key and click is delivered to whatever has the focus. A key or chord of keys, a "
        "click, a drag, a",
        "line of typed words each are one act; letters stand beside. Seconds are the machine's, with a student "
        "that plays",
        "and a loudspeaker that sounds eight times as fast as real ones.",
        "",
        "## A request, a lesson, next week",
        "",
        *heads,
        *(row(step) for step in day),
        "",
        f"**{sum(step.acts for step in day)} acts in all. What is done every lesson takes at most {dearest} acts "
        f"(asked: {MOST_EVERY_LESSON}). First notes on the screen {first.first_s:.1f} s after the file was chosen.**",
        "",
        "## Other days",
        "",
        *heads,
        *(row(step) for step in others),
        "",
        f"**{second.keys_a_note:.2f} keys a note for four bars of eight, by the keyboard alone (asked: "
        f"{MOST_KEYS_A_NOTE}); before, a key to begin each note, its figures and the way to its string: "
        f"{(sum(keys_before) + moves) / len(line):.2f}.** What a draft takes until it is right stands in "
        f"editing.md and "
        "editing-other-hands.md.",
        "",
        "## What hurt, and what was done about it",
        "",
        *(f"- {hurt} **{done}**" for hurt, done in HURT),
        "",
        "## Words",
        "",
        "Every label and sentence of the start, the seven benches and the ledger's seven pages was written "
        "out and read as",
        "by a guitarist who never saw the program. What said too little, and how it is said now:",
        "",
        "| where | before | now |",
        "| --- | --- | --- |",
        *(f"| {where} | {before} | {now} |" for where, before, now in WORDS),
        "",
    ]  # fmt: skip
    print("\n".join(lines))
    PAGE.write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
