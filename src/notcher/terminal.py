"""The commands for a terminal and for scripts, each with its options."""

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from notcher.core.errors import NotcherError, Progress
from notcher.reference import ABOUT, COMMANDS

if TYPE_CHECKING:
    from notcher.core.ledger import Book, LoggedPass, Student
    from notcher.core.sheets import SheetChoices
    from notcher.core.teaching import Guitar, Wishes

NOT_HELD = 3


class UsageError(NotcherError):
    """The command's words are off."""


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> None:  # type: ignore[override]
        raise UsageError(f"{message[:1].upper()}{message[1:]}.", f"See `{self.prog} --help`.")


def run(words: list[str]) -> int:
    """Run what is no window; return the exit code. Raises: NotcherError that says what is wrong."""
    options = parser().parse_args(words)
    command: Callable[[argparse.Namespace], int | None] = options.command
    return command(options) or 0


def parser() -> argparse.ArgumentParser:
    """Return the reader of all commands and their options."""
    result = _Parser(prog="notcher", add_help=False, description=ABOUT)
    commands = result.add_subparsers(required=True, metavar="COMMAND", parser_class=_Parser)

    draft = _command(commands, "draft")
    draft.add_argument("audio", help="a recording, or a folder of them")
    draft.add_argument(
        "-o",
        "--output",
        required=True,
        metavar="OUT.events.json",
        help="where to write it; a folder if the recordings are one",
    )
    draft.add_argument(
        "--score", metavar="OUT.notch", nargs="?", const="", help="also save a document; of a folder: beside each draft"
    )
    draft.add_argument(
        "--focus", choices=("auto", "mid", "left", "right", "side"), default="auto",
        help="where in the stereo picture the lead is",
    )  # fmt: skip
    draft.add_argument(
        "--tuning",
        default="auto",
        help='standard, half-down, whole-down, drop-d, auto, or the open strings: "E4 B3 G3 D3 A2 E2"',
    )
    draft.add_argument("--from", dest="start_s", type=float, default=0.0, metavar="S", help="begin at this second")
    draft.add_argument("--to", dest="end_s", type=float, metavar="S", help="end at this second")
    draft.add_argument("--f0", metavar="OUT.csv", help="also write the measured pitch, one line every 10 ms or less")
    draft.add_argument("--jobs", type=int, default=1, metavar="N", help="how many recordings of a folder at a time")
    draft.add_argument("--quiet", action="store_true", help="no progress bar")
    draft.set_defaults(command=_draft)

    place = _command(commands, "place")
    place.add_argument("events", help="an events.json; notes with string and fret stay where they are")
    place.add_argument("-o", "--output", required=True, metavar="OUT.events.json", help="where to write it")
    place.add_argument(
        "--school", choices=("position", "string", "easy"), default="position",
        help="fingering style: stay in position, travel along strings, or the easy way",
    )  # fmt: skip
    place.set_defaults(command=_place)

    prove = _command(commands, "prove")
    prove.add_argument("score", metavar="SCORE.notch", help="the document with the tab")
    prove.add_argument("audio", nargs="?", help="the recording; the document's own when left out")
    prove.add_argument(
        "--focus", choices=("auto", "mid", "left", "right", "side"), default="auto",
        help="where in the stereo picture the lead is",
    )  # fmt: skip
    prove.add_argument("--json", action="store_true", help="print all findings as JSON")
    prove.add_argument("--strict", action="store_true", help="exit with 3 if anything is left open")
    prove.add_argument("--quiet", action="store_true", help="no progress bar")
    prove.set_defaults(command=_prove)

    meaning = _command(commands, "patterns")
    meaning.add_argument("score", metavar="SCORE.notch", help="the document with the tab")
    meaning.add_argument("--json", action="store_true", help="print it as JSON")
    meaning.set_defaults(command=_patterns)

    plan = _command(commands, "plan")
    plan.add_argument("score", metavar="SCORE.notch", help="the document with the tab")
    plan.add_argument("--minutes", type=float, default=30.0, metavar="N", help="how long the lesson is")
    plan.add_argument(
        "--school",
        choices=("build-up", "pairs", "from-the-end"),
        help="teaching order; build-up unless you say otherwise",
    )
    plan.add_argument("--student", metavar="NAME", help="plan by this student's marks")
    plan.add_argument("--marks", metavar="MARKS.json", help="plan by these marks: phrase, pace, mark, day")
    plan.add_argument(
        "--level",
        choices=("beginner", "intermediate", "advanced"),
        help="how far the student is; the marks tell it otherwise",
    )
    plan.add_argument("--date", metavar="YYYY-MM-DD", help="the day of the lesson; today unless you say otherwise")
    plan.add_argument("--json", action="store_true", help="print it as JSON")
    plan.set_defaults(command=_plan)

    export = _command(commands, "export")
    export.add_argument("score", metavar="SCORE.notch", help="the document with the tab")
    export.add_argument(
        "output", metavar="OUT.(musicxml|mid|txt|jams|csv|pdf|svg|png)", help="the ending says the format"
    )
    export.add_argument("--student", metavar="NAME", help="whose sheet it is, with this student's choices")
    export.add_argument(
        "--sheet",
        action="append",
        default=[],
        metavar="CHOICE=VALUE",
        help=f"one of {_choice_words()}; may be given more than once",
    )
    export.set_defaults(command=_export)

    pack = _command(commands, "pack")
    pack.add_argument("score", metavar="SCORE.notch", help="the document with the tab")
    pack.add_argument("-o", "--output", required=True, metavar="OUT.zip|DIR", help="a zip, or a folder")
    pack.add_argument(
        "--phrases", default="", metavar="1,2", help="which phrases, by number; all unless you say otherwise"
    )
    pack.add_argument("--rungs", default="50,70,100", metavar="50,70,100", help="tempos in percent of the recording's")
    pack.add_argument("--sound", choices=("mp3", "flac", "ogg", "wav"), default="mp3", help="sound format of the loops")
    pack.add_argument("--click", choices=("left", "right", "none"), default="none", help="add a click on this side")
    pack.add_argument("--student", metavar="NAME", help="for whom: with this student's sheet and name")
    pack.add_argument("--film", action="store_true", help="also a film of each phrase")
    pack.add_argument("--quiet", action="store_true", help="no progress bar")
    pack.set_defaults(command=_pack)

    importer = _command(commands, "import")
    importer.add_argument("source", help="a text tab, MusicXML, MIDI, JAMS or events.json")
    importer.add_argument("--part", default="", metavar="NAME", help="which part or track, if there are several")
    importer.add_argument("-o", "--output", required=True, metavar="OUT.notch", help="where to write the document")
    importer.set_defaults(command=_import)

    finder = _command(commands, "commands")
    finder.add_argument("words", nargs="*", metavar="WORDS", help="what you want to do; all commands when left out")
    finder.add_argument("--json", action="store_true", help="print them as JSON")

    doctor = _command(commands, "doctor")
    doctor.set_defaults(command=_doctor)
    return result


def _command(commands: Any, name: str) -> argparse.ArgumentParser:
    argument_parser: argparse.ArgumentParser = commands.add_parser(
        name, help=COMMANDS[name], description=f"{COMMANDS[name]}."
    )
    return argument_parser


def _doctor(_options: argparse.Namespace) -> int:
    from notcher.doctor import run as examine

    return examine()


def _draft(options: argparse.Namespace) -> int:
    from pathlib import Path

    if Path(options.audio).is_dir():
        return _draft_folder(options)
    from notcher.batch import write_draft
    from notcher.core.formats import write_pitch_csv
    from notcher.core.hearing import SURE_OF_TUNING, draft
    from notcher.core.hearing.draft import shifted
    from notcher.core.score import tuning_from_text
    from notcher.core.sound import read_clip
    from notcher.core.words import doubt_words, evidence_words

    if options.score == "":
        raise UsageError("--score does not say where to.", "Give it a name that ends in .notch.")
    _check_folders(options.output, options.score, options.f0)
    tuning = None if options.tuning == "auto" else tuning_from_text(options.tuning)
    clip = read_clip(options.audio)
    end_s = clip.duration_s if options.end_s is None else options.end_s
    if not 0 <= options.start_s < min(end_s, clip.duration_s):
        raise UsageError(
            f"Nothing lies between {options.start_s:g} s and {end_s:g} s of {clip.duration_s:.1f} s.",
            "Give --from and --to inside the recording.",
        )
    part = clip.cut(options.start_s, end_s)
    with _bar(quiet=options.quiet) as progress:
        drafted = draft(part, focus=options.focus, tuning=tuning, progress=progress)
    drafted = shifted(drafted, options.start_s)
    write_draft(drafted, clip, Path(options.output), Path(options.score) if options.score else None)
    if options.f0:
        write_pitch_csv(drafted.track, options.f0)
    if drafted.score.lead_doubt is not None:
        text = doubt_words(drafted.score.lead_doubt, drafted.score.tuning)
        print(f"{text[0].upper()}{text[1:]}. The draft is written all the same.", file=sys.stderr)
    if not options.quiet:
        likeliest, offset = drafted.tunings[0], drafted.score.tuning.offset_cents
        print(
            f"{len(drafted.score.notes)} notes; {likeliest.name} tuning "
            f"({likeliest.likelihood:.0%}: {evidence_words(likeliest.evidence, likeliest.tuning)}); "
            f"{offset:+.0f} cents from A = 440 Hz.",
            file=sys.stderr,
        )
        if tuning is None and likeliest.likelihood < SURE_OF_TUNING:
            others = ", ".join(f"{other.name} {other.likelihood:.0%}" for other in drafted.tunings[1:])
            print(f"The tuning is a guess ({others}): give --tuning if you know it.", file=sys.stderr)
    return 0


def _draft_folder(options: argparse.Namespace) -> int:
    from notcher.batch import run as draft_all
    from notcher.core.score import tuning_from_text

    if options.f0 or options.start_s or options.end_s is not None:
        raise UsageError("--from, --to and --f0 are for one recording.", "Leave them out for a folder.")
    if options.tuning != "auto":
        tuning_from_text(options.tuning)  # wrong words are told before the work
    return draft_all(
        options.audio, options.output, jobs=options.jobs, focus=options.focus, tuning=options.tuning,
        scores=options.score is not None, quiet=options.quiet,
    )  # fmt: skip


def _check_folders(*paths: str | None) -> None:
    """Refuse a folder that is not there before the long work, not after it."""
    from pathlib import Path

    for path in paths:
        if path and not Path(path).absolute().parent.is_dir():
            raise UsageError(f"There is no folder for {Path(path).name!r}.", "Make the folder first.")


class _bar:  # noqa: N801 - used as a function
    """A progress bar on a terminal, nothing elsewhere."""

    def __init__(self, *, quiet: bool) -> None:
        from tqdm import tqdm

        self._bar = tqdm(
            total=100, unit="%", disable=quiet or not sys.stderr.isatty(), bar_format="{l_bar}{bar}| {elapsed}"
        )

    def __enter__(self) -> Progress:
        return self._show

    def _show(self, share: float) -> None:
        self._bar.update(100 * share - self._bar.n)

    def __exit__(self, *_: object) -> None:
        self._bar.close()


def _place(options: argparse.Namespace) -> None:
    from notcher.core.formats import read_events, write_events

    score, recording = read_events(options.events, style=options.school)
    write_events(score, options.output, recording)


def _prove(options: argparse.Namespace) -> int:
    from notcher.core.formats import proof_data, proof_lines, read_document
    from notcher.core.formats.files.atomic import json_bytes
    from notcher.core.hearing import draft
    from notcher.core.proving import prove
    from notcher.core.sound import read_clip

    document = read_document(options.score)
    clip = read_clip(options.audio) if options.audio else document.clip
    if clip is None:
        raise UsageError("This document holds no recording.", "Name the recording after it.")
    if not document.score.notes:
        raise UsageError("This document holds no notes.", "Draft the recording, or write the tab first.")
    with _bar(quiet=options.quiet or options.json) as progress:
        drafted = draft(clip, focus=options.focus, tuning=document.score.tuning, progress=progress)
    proof = prove(document.score, drafted)
    if options.json:
        sys.stdout.write(json_bytes(proof_data(proof, document.score)).decode())
    else:
        print("\n".join(proof_lines(proof, document.score)))
    return NOT_HELD if options.strict and not proof.proved else 0


def _patterns(options: argparse.Namespace) -> None:
    from notcher.core.formats import patterns_data, patterns_lines, read_document
    from notcher.core.formats.files.atomic import json_bytes
    from notcher.core.patterns import patterns
    from notcher.core.theory import read_chord, targets

    score = read_document(options.score).score
    if not score.notes:
        raise UsageError("This document holds no notes.", "Draft the recording, or write the tab first.")
    for chord in score.chords:
        if chord.name.strip() and read_chord(chord.name) is None:
            print(f"The chord {chord.name!r} at {chord.start_s:.2f} s means nothing: correct it.", file=sys.stderr)
    found_patterns = patterns(score)
    if options.json:
        sys.stdout.write(json_bytes(patterns_data(score, found_patterns, targets(score))).decode())
    else:
        print("\n".join(patterns_lines(score, found_patterns)))


def _plan(options: argparse.Namespace) -> None:
    from notcher.core.formats import read_document
    from notcher.core.formats.files.atomic import json_bytes
    from notcher.core.patterns import patterns, phrases_of
    from notcher.core.score.score import with_derived_ids
    from notcher.core.teaching import (
        NO_WISHES,
        Guitar,
        LessonOrder,
        Level,
        difficulties,
        due_phrases,
        plan_data,
        plan_lesson,
        plan_lines,
        student_of,
    )

    document = read_document(options.score)
    score = document.score
    if not score.notes:
        raise UsageError("This document holds no notes.", "Draft the recording, or write the tab first.")
    if not score.phrases:  # proposed ones have the same ids at every run
        score = with_derived_ids(replace(score, phrases=phrases_of(score)))
    student_facts = _told_of(options.student, document.id) if options.student else None
    passes = _marks(options.marks, document.id) if options.marks else ()
    passes = (*(() if student_facts is None else student_facts.passes), *passes)
    difficulty = difficulties(score, guitar=Guitar() if student_facts is None else student_facts.guitar)
    level = Level(options.level) if options.level else None
    plan = plan_lesson(
        score,
        minutes=options.minutes,
        lesson_order=LessonOrder(
            options.school or (student_facts.lesson_order if student_facts is not None else "") or LessonOrder.BUILD_UP
        ),
        patterns=patterns(score),
        student=student_of(score, passes, difficulty=difficulty, level=level),
        due=due_phrases(passes, _day(options.date) if options.date else date.today()),
        wishes=NO_WISHES if student_facts is None else student_facts.wishes,
        difficulty=difficulty,
    )
    if options.json:
        sys.stdout.write(json_bytes(plan_data(plan)).decode())
    else:
        print("\n".join(plan_lines(plan)))


def _marks(path: str, document_id: str) -> tuple["LoggedPass", ...]:
    """Read marks of somebody who stands in no record. Raises: UsageError."""
    from notcher.core.ledger import LoggedPass
    from notcher.core.proving import Result

    try:
        rows = json.loads(Path(path).read_text("utf-8"))
        marks = tuple(
            LoggedPass("", document_id, (str(row["phrase"]),), float(row["pace"]), Result(row["mark"]),
                       _day(row["day"]).isoformat() if row.get("day") else "")
            for row in rows
        )  # fmt: skip
    except OSError as problem:
        raise UsageError(f"{path} cannot be read: {problem.strerror}.", "Check the name.") from problem
    except (ValueError, TypeError, KeyError, AttributeError) as problem:
        raise UsageError(
            f"{path} holds no marks.",
            'Write [{"phrase": id, "pace": 0.5, "mark": "clean|shaky|missed", "day": "2026-12-02"}, …].',
        ) from problem
    if not all(0.05 <= mark.pace <= 2.0 for mark in marks):
        raise UsageError(f"A pace in {path} is not between 0.05 and 2.", "Write 0.5 for half of the recorded tempo.")
    return marks


def _day(text: str) -> date:
    """Raises: UsageError."""
    try:
        return date.fromisoformat(text)
    except (TypeError, ValueError) as problem:
        raise UsageError(f"“{text}” is no day.", "Write it as 2026-12-02.") from problem


@dataclass(frozen=True)
class _Told:
    """What the ledger tells of a student before a lesson on one solo."""

    lesson_order: str
    guitar: "Guitar"
    passes: "Sequence[LoggedPass]"
    wishes: "Wishes"


def _student_of(name: str) -> "tuple[Student, Book]":
    """Read a student out of the ledger; it is not made where there is none. Raises: NotcherError."""
    from pathlib import Path

    from platformdirs import user_data_dir

    from notcher.core.ledger.record import Record
    from notcher.core.ledger.store import Ledger

    path = Path(user_data_dir("notcher")) / "ledger.sqlite"
    if not path.exists():
        raise UsageError("There is no ledger yet.", "Note the student on the Students bench first.")
    ledger = Ledger(path)
    try:
        record = Record(ledger)
        book = record.read()
        students = [student for student in book.present if student.name.casefold() == name.casefold()]
        if not students:
            there = ", ".join(student.name for student in book.present) or "nobody"
            raise UsageError(f"There is no student {name!r} in the ledger.", f"There is {there}.")
        if len(students) > 1:
            raise UsageError(
                f"There are {len(students)} students called {name!r}.", "Rename one of them on the Students bench."
            )
        return students[0], record.read(students[0].id)
    finally:
        ledger.close()


def _told_of(name: str, document_id: str) -> _Told:
    """What the ledger tells of a student. Raises: NotcherError."""
    from notcher.core.neck import SCALE_LENGTH_MM
    from notcher.core.neck.strings import STRING_SETS, USUAL_SET
    from notcher.core.teaching import Guitar, wishes_of

    student, book = _student_of(name)
    guitar = Guitar(STRING_SETS.get(student.string_set, USUAL_SET), student.scale_mm or SCALE_LENGTH_MM)
    wishes = wishes_of(book.wishes_of(student.id, document_id).wishes)
    return _Told(student.lesson_order, guitar, book.passes_of(student.id, document_id), wishes)


def _choice_words() -> str:
    """The choices of a sheet, for the help; named here so that asking for help loads nothing heavy."""
    return (
        "sheet, paper, landscape, size, rhythm, staff, strings, bends, names, lines, repeats, easier, chords, counts, "
        "fingers, strokes, remarks, garnish, footnotes, legend"
    )


SHEETS = (".pdf", ".svg", ".png")


def _export(options: argparse.Namespace) -> None:
    from pathlib import Path

    from notcher.core.formats import EXPORTS, FileError, export, read_document

    ending = Path(options.output).suffix.lower()
    if ending not in SHEETS:
        if ending not in EXPORTS:
            raise FileError(
                f"Notcher cannot write {ending or 'a file without an ending'!r}.",
                f"Use one of {', '.join((*EXPORTS, *SHEETS))}.",
            )
        document = read_document(options.score)
        if sys.stderr.isatty():  # for whoever sits there; a script knows
            print(EXPORTS[ending].loses, file=sys.stderr)
        export(document.score, options.output, document.track)
        return
    _check_folders(options.output)
    choices, student = _sheet_choices(options.student, options.sheet)
    score = read_document(options.score).score
    from notcher.painting.without_display import painted_sheet

    for path in painted_sheet(score, choices, options.output, student=student.name if student else ""):
        print(path)


def _sheet_choices(student: str | None, settings: Sequence[str]) -> "tuple[SheetChoices, Student | None]":
    """What a sheet is like, as it was chosen for a student and is said besides; and the student. Raises: UsageError."""
    from notcher.core.sheets import choices_from, kept_choices

    row = None if student is None else _student_of(student)[0]
    pairs = {}
    for words in settings:
        choice, sign, value = words.partition("=")
        if not sign:
            raise UsageError(f"{words!r} is no choice.", "Write it as --sheet size=large.")
        pairs[choice.strip()] = value.strip()
    return choices_from(pairs, kept_choices("" if row is None else row.sheets)), row


def _pack(options: argparse.Namespace) -> None:
    from notcher.core.formats import read_document
    from notcher.core.teaching import (
        ClickSide,
        PackChoices,
        SoundKind,
        first_lesson,
        phrases_from_text,
        rungs_from_text,
        write_pack,
    )

    _check_folders(options.output)
    document = read_document(options.score)
    score = document.score
    choices = PackChoices(
        phrases_from_text(options.phrases, score), rungs_from_text(options.rungs), SoundKind(options.sound),
        ClickSide(options.click),
    )  # fmt: skip
    sheet_choices, student = _sheet_choices(options.student, ())
    name, lesson_order = (student.name, student.lesson_order) if student else ("", "")
    from notcher.painting.film import films_of
    from notcher.painting.theme import load_fonts
    from notcher.painting.without_display import sheet_pdf, without_display

    with without_display(), _bar(quiet=options.quiet) as progress:
        load_fonts()
        plan = first_lesson(score, lesson_order=lesson_order)
        films = films_of(score, document.clip, choices, document.track, plan) if options.film else {}
        loops = write_pack(
            options.output, score, document.clip, choices, track=document.track, films=films, student=name,
            sheet=lambda _progress, cancelled: sheet_pdf(score, sheet_choices, student=name, cancelled=cancelled),
            plan=plan, progress=progress,
        )  # fmt: skip
    print(f"{len(loops)} loops, the sheet and the plan are in {options.output}.")


def _import(options: argparse.Namespace) -> None:
    from pathlib import Path

    from notcher.core.formats import Document, read_import, write_document

    reading = read_import(options.source, part=options.part)
    for unread in reading.unread:
        print(unread, file=sys.stderr)
    title = reading.score.title or Path(options.source).name.split(".")[0]
    write_document(Document(replace(reading.score, title=title)), options.output)
