"""What comes again in a solo, said as an instructor would: "the same, two frets up, with another ending"."""

from collections import Counter
from collections.abc import Sequence
from itertools import groupby

from notcher.core.neck import ScaleBox
from notcher.core.patterns import (
    Boundary,
    BoundaryReason,
    Group,
    Kind,
    Occurrence,
    Pattern,
    Patterns,
    ProposedLine,
    ProposedSection,
)
from notcher.core.score import Tuning
from notcher.core.theory import LikelyScale, Outside, named_key
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import many, ordinal
from notcher.core.words.pitches import pitch_class_name, place_name, string_name

NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
SIZES = {2: "twos", 3: "threes", 4: "fours", 5: "fives", 6: "sixes", 7: "sevens"}
TIMES = {1: "once", 2: "twice"}
OCTAVE = 12  # semitones


def number_word(number: int) -> str:
    """A small number as a word, a larger one in figures."""
    return NUMBERS[number] if 0 <= number < len(NUMBERS) else str(number)


def times_word(count: int) -> str:
    return TIMES.get(count, f"{number_word(count)} times")


def moved_words(occurrence: Occurrence, kind: Kind) -> str:
    """How one playing lies against the first: "the same", "the same, two frets up", "an octave above"."""
    if kind is Kind.RHYTHM:
        return "the same rhythm, other notes"
    if kind is Kind.OCTAVE or (occurrence.strings is None and occurrence.semitones in (OCTAVE, -OCTAVE)):
        return f"the same, an octave {'above' if (occurrence.semitones or 0) > 0 else 'below'}"
    if not occurrence.strings:
        if not occurrence.frets:
            return "the same"
        return f"the same, {many_frets(occurrence.frets)}"
    where = f"the same, {strings_words(occurrence.strings)}"
    if occurrence.frets == 0:
        return f"{where}, on the same frets"
    if occurrence.semitones is not None and occurrence.frets is None:
        return f"{where}, sounding the same shape"
    return where if occurrence.frets is None else f"{where} and {many_frets(occurrence.frets)}"


def many_frets(frets: int) -> str:
    return f"{number_word(abs(frets))} {'fret' if abs(frets) == 1 else 'frets'} {'up' if frets > 0 else 'down'}"


def strings_words(strings: int) -> str:
    """How many strings it is moved over; the next higher string has the next lower number."""
    count = abs(strings)
    return f"{number_word(count)} {'string' if count == 1 else 'strings'} {'higher' if strings < 0 else 'lower'}"


def shape_words(shape: Pattern) -> str:
    """A whole shape in one clause: what it is and how it comes again."""
    later = shape.occurrences[1:]
    if shape.kind is Kind.CELL:
        return f"a cell of {many(shape.notes, 'note')}, {times_word(len(shape.occurrences))}"
    if shape.kind is Kind.SEQUENCE:
        return f"a figure of {many(shape.notes, 'note')}, {times_word(len(shape.occurrences))}: {turn_words(shape)}"
    ways = list(dict.fromkeys(moved_words(occurrence, shape.kind) for occurrence in later))
    text = ways[0] if len(ways) == 1 else f"{ways[0]}; {', '.join(way.removeprefix('the same, ') for way in ways[1:])}"
    if shape.kind is Kind.OTHER_ENDING:
        own = "beginning" if shape.at_end else "ending"
        text += f", with another {own}" if text != "the same" else f" with another {own}"
    if len(later) > 1 and len(ways) == 1:
        text += f", {times_word(len(later))}"
    return text + _but(shape)


def turn_words(shape: Pattern) -> str:
    """How each turn of a sequence lies against the one before."""
    if shape.steps:
        size = abs(shape.steps)
        step = f"{number_word(size)} scale {'step' if size == 1 else 'steps'}"
        return f"each turn starts {step} {'higher' if shape.steps > 0 else 'lower'}"
    second = shape.occurrences[1]
    way = moved_words(second, Kind.ALONG_NECK).removeprefix("the same, ")
    return f"each turn {way}"


def _but(shape: Pattern) -> str:
    """That some notes inside are not the shape's."""
    if shape.kind is Kind.OTHER_ENDING:
        return ""
    count = max((len(occurrence.but) for occurrence in shape.occurrences[1:]), default=0)
    return f" ({many(count, 'note')} of its own)" if count else ""


def group_words(group: Group) -> str:
    """A figure by its size and how often it is turned: "in sixes four times"."""
    return f"in {SIZES.get(group.size, f'groups of {group.size}')} {times_word(group.count)}"


def group_place_words(group: Group, tuning: Tuning, naming: Naming = USUAL) -> str:
    """A group and how it lies to the beat and the neck: "in threes twice, against the beat, from frets 12, 10 of string
    2"."""
    text = group_words(group) + (", against the beat" if group.against else "")
    starts = [start for start, _ in groupby(group.starts)]  # a turn from where the one before began is not told again
    if len(starts) == 1:
        return f"{text}, each from {place_name(tuning, *starts[0], naming)}"
    strings = {string for string, _ in starts}
    if len(strings) == 1:
        frets = ", ".join(str(fret) for _, fret in starts)
        return f"{text}, from frets {frets} of {string_name(tuning, strings.pop(), naming)}"
    return f"{text}, from {'; '.join(place_name(tuning, *start, naming) for start in starts)}"


def statement(patterns: Patterns) -> str:
    """What all of it saves, in one sentence."""
    if not patterns.count:
        return "There are no notes yet."
    if patterns.to_learn == patterns.count:
        return f"{many(patterns.count, 'note')}, and nothing comes again."
    return f"Learn {many(patterns.to_learn, 'note')}, get {patterns.count}."


def key_words(keys: Sequence[LikelyScale], tuning: Tuning, naming: Naming = USUAL) -> str:
    """Which scale a solo is likely in, as it sounds and, on a retuned neck, as it is called there."""
    best = keys[0]
    key = named_key(best.tonic, best.scale)
    text = f"likely {pitch_class_name(key.tonic, naming)} {key.scale} ({best.weight:.0%})"
    if tuning.shift:
        called = key.moved(-tuning.shift)
        text += f", called {pitch_class_name(called.tonic, naming)} on this neck"
    if best.scale in PERIODS:
        text += f"; its shape is the same again every {many_frets(PERIODS[best.scale]).removesuffix(' up')}"
    return text


PERIODS = {"half-whole": 3, "whole-half": 3, "whole tone": 2}
"""After how many frets a scale that repeats inside the octave is itself again."""


def box_words(box: ScaleBox) -> str:
    """A position of a scale: "box 1, fret 12"."""
    return f"box {box.number}, fret {box.hand}"


def lick_words(number: int, shape: Pattern, playing: int) -> str:
    """One playing of a numbered lick, for the tab: "2nd lick", "= 2nd lick, two frets up"."""
    name = "rhythm" if shape.kind is Kind.RHYTHM else f"{ordinal(number)} lick"
    if shape.kind in (Kind.CELL, Kind.SEQUENCE):
        return f"{name}, {times_word(len(shape.occurrences))}" if playing == 0 else ""
    if playing == 0:
        return name
    way = moved_words(shape.occurrences[playing], shape.kind).removeprefix("the same").removeprefix(" rhythm")
    return f"= {name}{way}"


REASONS = {
    BoundaryReason.FIRST: "it is the first",
    BoundaryReason.REST: "after a rest",
    BoundaryReason.LONG_NOTE: "after a long note",
    BoundaryReason.AGAIN: "where something begins again",
    BoundaryReason.BAR: "on a bar",
    BoundaryReason.FOUR_BARS: "after four bars",
    BoundaryReason.EIGHT_BARS: "after eight bars",
}


def boundary_words(proposals: Sequence[Boundary | ProposedLine | ProposedSection]) -> str:
    """Why phrases, lines or sections begin where they do, counted: "3 after a rest, 1 where something begins again"."""
    counts = Counter(boundary.reasons[0] if boundary.reasons else BoundaryReason.BAR for boundary in proposals[1:])
    return ", ".join(f"{count} {REASONS[reason]}" for reason, count in counts.most_common())


def boundary_reason_words(reasons: Sequence[BoundaryReason]) -> str:
    """Why one of them begins where it does: "after four bars, after a rest"."""
    return ", ".join(REASONS[reason] for reason in reasons or (BoundaryReason.BAR,))


def section_words(proposals: Sequence[ProposedSection]) -> str:
    """Which sections are an earlier one again: "Part 3 as part 1, with another ending"."""
    names = {proposed.section.id: proposed.section.name for proposed in proposals}
    texts = [
        f"{proposed.section.name} as {names[proposed.section.repeats].lower()}"
        + (", with another ending" if proposed.other_ending else "")
        for proposed in proposals
        if proposed.section.repeats
    ]
    return "; ".join(texts)


def outside_words(outside_notes: Sequence[tuple[int, Outside]]) -> str:
    """How many notes are not of the scale, and what they do: "9 notes outside, 6 of them half steps into it"."""
    if not outside_notes:
        return "no note outside"
    led = sum(what is not Outside.FROM_OUTSIDE for _, what in outside_notes)
    text = f"{many(len(outside_notes), 'note')} outside"
    if not led:
        return text
    whole = (
        "all of them" if led == len(outside_notes) > 1 else f"{led} of them" if len(outside_notes) > 1 else "which is"
    )
    return f"{text}, {whole} {'a half step' if led == 1 else 'half steps'} into it"
