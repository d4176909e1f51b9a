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
    ("\"not said\" stood for a student; \"Its solo\", \"For\" and \"Notes, about\" in the form of a request said too "
     "little; rows of lists cut their letters.",
     "They are called nobody named, its tab or recording, for whom, about how many notes; rows have room."),
)  # fmt: skip
"""What hurt, and what was done about it."""


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
    ]  # fmt: skip
    print("\n".join(lines))
    PAGE.write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
