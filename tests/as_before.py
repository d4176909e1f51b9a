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

from notcher.core.formats import musicxml_text, text_tab
from notcher.core.formats.jams import jams_bytes
from notcher.core.formats.midi.reading import read_midi
from notcher.core.formats.midi.writing import midi_bytes
from notcher.core.hearing import Draft, draft
from notcher.core.neck import place_score
from notcher.core.patterns import boundaries, lines_of, patterns, phrase_marks, phrases_of, sections_of
from notcher.core.proving import advice, doubts, hear_take, prove
from notcher.core.score import Score, excerpt, only
from notcher.core.score.notation import written_bars
from notcher.core.score.rhythm import played_late_s, written_times
from notcher.core.sheets import Names, PageMaker, Paper, Repeats, Sheet, SheetChoices, Size
from notcher.core.sound import Clip, read_clip
from notcher.core.synthesis import SKILLS, backing, performed, render
from notcher.core.synthesis.backing import PARTS
from notcher.core.teaching import TransposeSpec, difficulties, easier, moved_lick, plan_lesson
from notcher.core.teaching.words import difficulty_words, later_words, plan_reasons, step_words
from notcher.core.theory import outside_notes, ranked_keys, targets
from notcher.core.words.advice import advice_words, headline, phrase_figures
from notcher.core.words.findings import finding_facts, row_words, verdict_words
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


def proofs() -> Iterator[str]:
    for kind in ("lead", "mix"):
        for score in (part(), place_score(part(), school="string"), heard("lead").score):
            proof = prove(score, heard(kind))
            yield from (str(plain(finding)) for finding in proof.notes)
            yield from (verdict_words(finding, score) for finding in proof.notes)
            yield from (finding_facts(finding, score) for finding in proof.notes)
            yield str(plain(proof.unwritten))
            yield from (row_words(row, score) for row in doubts(proof, score))


def placings() -> Iterator[str]:
    for school in ("position", "string", "easy"):
        placed = place_score(solo(), school=school)
        yield school + ": " + " ".join(f"{note.string}/{note.fret}" for note in placed.notes)


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
    "drafts": drafts, "proofs": proofs, "placings": placings, "patterns": found_patterns, "lessons": lessons,
    "variants": variants, "written": written, "files": files, "sheets": sheets, "sounds": sounds,
    "takes": takes,
}  # fmt: skip


def main() -> None:
    HERE.mkdir(exist_ok=True)
    for name, made in OUTCOMES.items():
        (HERE / f"{name}.txt").write_text("\n".join(made()) + "\n", "utf-8")


if __name__ == "__main__":
    main()
