"""What the heart makes of fixed music, written down: what changes it must be meant, and is then written down anew.

`./dev same` writes tests/as_before/ again; the difference is read before it is kept.
This holds nothing to the truth, which other tests do: it tells of a change that nobody saw.
"""

import hashlib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import fields, is_dataclass, replace
from enum import Enum
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from lead_cases import EVERYTHING, ONE_STRING, TWO_STRINGS, VOCABULARY, make_case
from made_scores import HARD, any_score
from makers import modelled, summed
from notcher.core.catalogue.query import query_from_text
from notcher.core.errors import NotcherError
from notcher.core.formats import musicxml_text, text_tab
from notcher.core.formats.jams import jams_bytes, read_jams
from notcher.core.formats.meaning import patterns_data, patterns_lines
from notcher.core.formats.midi.reading import read_midi
from notcher.core.formats.midi.writing import midi_bytes
from notcher.core.formats.note_table import note_table
from notcher.core.hearing import Draft, draft
from notcher.core.neck import place_score
from notcher.core.parsing import beat_map_from_text, gesture_from_text
from notcher.core.patterns import boundaries, lines_of, patterns, phrase_marks, phrases_of, sections_of
from notcher.core.proving import advice, doubts, hear_take, prove
from notcher.core.score import Score, excerpt, only
from notcher.core.score.notation import written_bars
from notcher.core.score.revision import changes
from notcher.core.score.rhythm import played_late_s, written_times
from notcher.core.score.score import with_derived_ids
from notcher.core.sheets import Names, PageMaker, Paper, Repeats, Sheet, SheetChoices, Size
from notcher.core.sound import Clip, read_clip
from notcher.core.synthesis import SKILLS, backing, performed, render
from notcher.core.synthesis.backing import PARTS
from notcher.core.teaching import TransposeSpec, difficulties, easier, moved_lick, plan_lesson
from notcher.core.teaching.mirror import limen_cents
from notcher.core.teaching.stand import place_words, stand_lines
from notcher.core.teaching.words import difficulty_words, later_words, plan_reasons, step_words
from notcher.core.theory import outside_notes, ranked_keys, targets
from notcher.core.words.advice import advice_words, headline, phrase_figures
from notcher.core.words.findings import finding_facts, row_words, verdict_words
from notcher.core.words.spoken import phrase_said
from notcher.demo import demo_audio
from notcher.demo.solo import demo_score

HERE = Path(__file__).parent / "as_before"
HEARD_S = 16.0
DIGITS = 4
UNSAID = ("id", "source", "note_id", "repeats")
"""Fields that hold ids, which are drawn anew where nobody gave one."""


def plain(value: Any) -> Any:
    """A value as what it is made of, numbers to four digits, ids left out."""
    if isinstance(value, Enum):
        return value.value
    if is_dataclass(value) and not isinstance(value, type):
        kept = ((field.name, getattr(value, field.name)) for field in fields(value) if field.compare)
        made = {name: plain(part) for name, part in kept if name not in UNSAID}
        return {name: part for name, part in made.items() if part not in ("", None, [])}
    if isinstance(value, np.ndarray):
        return [plain(part) for part in value.tolist()]
    if isinstance(value, Mapping):
        return {str(plain(name)): plain(part) for name, part in value.items()}
    if isinstance(value, list | tuple):
        return [plain(part) for part in value]
    if isinstance(value, frozenset | set):
        return sorted((plain(part) for part in value), key=str)
    if isinstance(value, float | np.floating):
        return round(float(value), DIGITS) + 0.0
    return value


def digest(value: Any) -> str:
    """A short sign of what is too long to be written down."""
    return hashlib.sha256(repr(plain(value)).encode()).hexdigest()[:12]


def sound_figures(sound: Clip | np.ndarray) -> Iterator[str]:
    """How loud each tenth of a second is and how high its spectrum lies, to what ears could tell."""
    samples = np.asarray(getattr(sound, "samples", sound), dtype=np.float64)
    mono = samples.reshape(samples.shape[0], -1).mean(axis=1)
    for part in np.array_split(mono, max(1, mono.size // 4410)):
        spectrum = np.abs(np.fft.rfft(part)) ** 2
        centre = float((spectrum * np.arange(spectrum.size)).sum() / max(spectrum.sum(), 1e-12))
        yield f"{10 * np.log10(np.mean(part**2) + 1e-9):.1f} dB, {centre:.0f}"


@cache
def solo() -> Score:
    return demo_score()


@cache
def heard(kind: str) -> Draft:
    return draft(read_clip(demo_audio(kind)).cut(0.0, HEARD_S))


@cache
def part() -> Score:
    return only(solo(), 0.0, HEARD_S)


def drafts() -> Iterator[str]:
    for kind in ("lead", "mix"):
        found = heard(kind)
        yield f"{kind}: {found.focus}, {plain(found.score.tuning)}, {plain(found.score.beat_map)}, {found.score.key}"
        yield from (str(plain(note)) for note in found.score.notes)
        yield from (str(plain(aside)) for aside in found.score.excluded)
        yield str(plain([found.score.phrases, found.score.chords, found.score.sections]))


def gestures() -> Iterator[str]:
    """Solos composed of all that a hand does, played by the string model and by partials."""
    for seed, licks, instrument in ((1, EVERYTHING, modelled), (2, TWO_STRINGS, summed), (3, EVERYTHING, summed),
                                    (4, ONE_STRING, modelled), (5, VOCABULARY, modelled)):  # fmt: skip
        found = draft(instrument(make_case(seed, length_s=12.0, licks=licks), seed))
        yield f"seed {seed}: {plain(found.score.tuning)}, {plain(found.score.beat_map)}, {found.score.key}"
        yield from (f"{plain(note)} {plain(note.readings)}" for note in found.score.notes)


def proofs() -> Iterator[str]:
    for kind in ("lead", "mix"):
        for score in (part(), place_score(part(), style="string"), heard("lead").score):
            proof = prove(score, heard(kind))
            yield from (str(plain(finding)) for finding in proof.notes)
            yield from (verdict_words(finding, score) for finding in proof.notes)
            yield from (finding_facts(finding, score) for finding in proof.notes)
            yield str(plain(proof.unwritten))
            yield from (row_words(row, score) for row in doubts(proof, score))


def placings() -> Iterator[str]:
    for style in ("position", "string", "easy"):
        placed = place_score(solo(), style=style)
        yield style + ": " + " ".join(f"{note.string}/{note.fret}" for note in placed.notes)


def found_patterns() -> Iterator[str]:
    score, found = solo(), patterns(solo())
    yield from (str(plain(pattern)) for pattern in found.shapes)
    yield str(plain(list(phrase_marks(score, found).values())))
    for made in (boundaries(score), phrases_of(score), lines_of(score), sections_of(score, found), targets(score)):
        yield from (str(plain(row)) for row in made)
    keys = ranked_keys(score)
    yield from (str(plain(key)) for key in keys[:6])
    yield str(plain(outside_notes(score, keys[0])))


def lessons() -> Iterator[str]:
    score = solo()
    hard = difficulties(score)
    yield from (f"{difficulty_words(found)} {plain(found)}" for found in hard.values())
    for minutes in (10, 30, 60):
        plan = plan_lesson(score, minutes=minutes)
        yield from (f"{step_words(step, plan)} {plain(step)}" for step in plan.steps)
        yield from (later_words(later, plan) for later in plan.later)
        yield from plan_reasons(plan)


def variants() -> Iterator[str]:
    for phrase in solo().phrases:
        for level in (1, 2, 3):
            yield f"{phrase.name} {level}: {plain(easier(solo(), phrase, level))}"
        for semitones in (-5, 2, 7):
            yield f"{phrase.name} {semitones}: {digest(moved_lick(solo(), phrase, TransposeSpec(semitones)))}"


def written() -> Iterator[str]:
    score = solo()
    yield from (str(plain(time)) for time in written_times(score))
    yield from (str(plain(bar)) for bar in written_bars(score))
    yield str(plain(played_late_s(score)))


def files() -> Iterator[str]:
    score = solo()
    yield from text_tab(score).splitlines()
    yield from (f"xml {digest(block)}" for block in musicxml_text(score).split("<measure"))
    yield f"jams {digest(jams_bytes(score))}"
    data = midi_bytes(score)
    yield f"midi {digest(data)}"
    yield from (str(plain(note)) for note in read_midi(data).score.notes)


def sheets() -> Iterator[str]:
    rich = replace(solo(), title="Lantern watch")
    for choices in (
        SheetChoices(),
        SheetChoices(staff=True, names=Names.SOUNDING),
        SheetChoices(rhythm=False, paper=Paper.LETTER, repeats=Repeats.FOLDED),
        SheetChoices(size=Size.LARGE, landscape=True),
        SheetChoices(sheet=Sheet.CARDS, staff=True, size=Size.SMALL),
        SheetChoices(sheet=Sheet.SHAPES),
    ):
        for number, page in enumerate(PageMaker().pages(rich, choices), 1):
            for at, block in enumerate(page.blocks):
                kinds = sorted({item.kind for item in block.items})
                yield f"{digest(choices)} page {number}, block {at}: {len(block.items)} {kinds} {digest(block)}"


def odd_music() -> Iterator[tuple[str, Score]]:
    """Scores with everything in them that a neck can do, drawn by a seed, and what is hard to engrave."""
    yield from ((f"seed {seed}", with_derived_ids(any_score(seed, count=40))) for seed in range(8))
    yield from ((name, with_derived_ids(made())) for name, made in HARD.items())


def odd_sheets() -> Iterator[str]:
    for name, score in odd_music():
        for choices in (SheetChoices(staff=True), SheetChoices(size=Size.SMALL, repeats=Repeats.WRITTEN)):
            for number, page in enumerate(PageMaker().pages(score, choices), 1):
                for at, block in enumerate(page.blocks):
                    yield f"{name}, page {number}, block {at}: {len(block.items)} {digest(block)}"


def odd_files() -> Iterator[str]:
    for name, score in odd_music():
        yield f"{name}: {digest(written_times(score))} {digest(written_bars(score))} {digest(note_table(score))}"
        yield from (f"text {digest(block)}" for block in text_tab(score).split("\n\n"))
        yield from (f"xml {digest(block)}" for block in musicxml_text(score).split("<measure"))
        data, other = midi_bytes(score), jams_bytes(score)
        yield f"midi {digest(data)}, jams {digest(other)}"
        for kind, read, from_bytes in (("midi", read_midi, data), ("jams", read_jams, other)):
            try:
                reading = read(from_bytes)
            except NotcherError as problem:
                yield f"{kind} {problem}"
                continue
            yield from (f"{kind} {digest(note)}" for note in reading.score.notes)
            form = (reading.score.phrases, reading.score.sections, reading.score.chords, reading.score.beat_map)
            yield f"{kind} {plain(form)}"
        yield from (f"placed {note.string}/{note.fret}" for note in place_score(score).notes)


def said() -> Iterator[str]:
    score = solo()
    for phrase in score.phrases:
        yield from phrase_said(score, score.notes_of(phrase))
    yield from (str(plain(line)) for line in stand_lines(score))
    yield from (str(place_words(score, time_s)) for time_s in np.arange(0.0, 55.0, 1.7))
    yield str(plain(patterns_data(score, patterns(score), targets(score))))
    yield from patterns_lines(score, patterns(score))
    yield from (f"{hertz}: {limen_cents(hertz):.3f}" for hertz in (82.4, 220.0, 440.0, 1318.5))
    for left, right in ((solo(), heard("lead").score), (part(), heard("mix").score)):
        yield from (str(plain(change)) for change in changes(left, right))
    for words in SEARCHED:
        yield f"{words}: {plain(query_from_text(words))}"
    for words in TYPED:
        yield f"{words}: {plain(gesture_from_text(words, duration_s=1.2))}"
    for words in COUNTED:
        yield f"{words}: {plain(beat_map_from_text(words))}"


SEARCHED = ("minor bends", "over the fourth", "over 8 a second", "under 5 a second fret 12", "A dorian sextuplets",
            "over A7", "tapping position 12", "vibrato b3 to 3", "slow releases around fret 9")  # fmt: skip
TYPED = ("bend 1", "bend 1/2 over 150 ms", "pre-bend 2, release", "bend 1 1/2, vibrato 5.5 Hz 25 cents", "bend ¼",
         "bend 1 release 1/2", "vibrato 6 Hz 30 cents")  # fmt: skip
COUNTED = ("4/4 120", "6/8 60 0.5", "5/4 120 1", "7/8 200 1", "4/4 90.5 2.25")


def sounds() -> Iterator[str]:
    lick = only(solo(), 0.0, 8.0)
    yield from sound_figures(render(lick, duration_s=8.0))
    yield from sound_figures(backing(lick, duration_s=8.0, parts=PARTS))


def takes() -> Iterator[str]:
    stretch = only(solo(), 0.0, 8.0)
    for seed, skill in enumerate(SKILLS.values(), 1):
        clip = render(performed(excerpt(stretch, 0.0, 8.0), skill, seed=seed, begin_s=0.5).score)
        report = hear_take(clip, stretch, 0.0, 8.0, begin_s=0.5)
        yield f"{skill.name}: {headline(report)}"
        for phrase in report.phrases:
            yield f"{phrase_figures(phrase)} {plain(phrase)}"
            advices = advice(phrase, stretch, pace=1.0)
            yield from (f"{advice_words(said, stretch, report.aligned)} {plain(said)}" for said in advices)


OUTCOMES: dict[str, Callable[[], Iterator[str]]] = {
    "drafts": drafts, "gestures": gestures, "proofs": proofs, "placings": placings, "patterns": found_patterns,
    "lessons": lessons, "variants": variants, "written": written, "files": files, "sheets": sheets,
    "odd_sheets": odd_sheets, "odd_files": odd_files, "said": said,
    "sounds": sounds,
    "takes": takes,
}  # fmt: skip


def main() -> None:
    HERE.mkdir(exist_ok=True)
    for name, made in OUTCOMES.items():
        (HERE / f"{name}.txt").write_text("\n".join(made()) + "\n", "utf-8")


if __name__ == "__main__":
    main()
