"""What another version of a solo has otherwise, in sentences; "here" is the open solo, "there" the other version."""

from notcher.core.proving import Comparison, Difference, Differs
from notcher.core.score import Note, Score
from notcher.core.words.bends import bent_words
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import figure, half_steps, many
from notcher.core.words.pitches import place_name
from notcher.core.words.techniques import ATTACKS

TEMPO_SHARE = 0.01  # less is the same tempo


def difference_words(difference: Difference, comparison: Comparison, naming: Naming = USUAL) -> str:
    """Return one difference: "string 2, fret 12 here, a half step higher there (string 2, fret 13)"."""
    first, second = comparison.first.score, comparison.second.score
    note = first.notes[difference.first] if difference.first is not None else None
    other = second.notes[difference.second] if difference.second is not None else None
    here, there = _place(first, note, naming), _place(second, other, naming)
    if note is None or other is None:
        return f"{here} is not played there" if other is None else f"{there} is played there as well"
    if difference.kind is Differs.PITCH:
        return f"{here} here, {half_steps(difference.amount)} there ({there})"
    if difference.kind is Differs.BEND:
        return f"{here} {bent_words(note, naming)} here, {bent_words(other, naming)} there ({there})"
    if difference.kind is Differs.TIME:
        way = "later" if difference.amount > 0 else "earlier"
        return f"{here} comes {figure(abs(1000 * difference.amount))} ms {way} there"
    if difference.kind is Differs.STRUCK:
        return f"{here} {ATTACKS[note.attack]} here, {ATTACKS[other.attack]} there"
    return f"{here} here, {there} there"


def _place(score: Score, note: Note | None, naming: Naming) -> str:
    return "" if note is None else place_name(score.tuning, note.string, note.fret, naming)


def comparison_words(comparison: Comparison) -> str:
    """Return how many notes differ between two versions."""
    sure = sum(difference.sure for difference in comparison.differences)
    unsure = len(comparison.differences) - sure
    text = many(sure, "difference") if sure else "Nothing differs for sure"
    return f"{text}, {unsure} more in doubt." if unsure else f"{text}."


def comparison_facts(comparison: Comparison) -> str:
    """Return what else two versions are to each other: how many notes are paired, key and tempo of the other."""
    facts = [f"{many(len(comparison.pairs), 'note')} stand for each other"]
    if comparison.shift:
        facts.append(f"the other sounds {half_steps(comparison.shift)}")
    first_s, second_s = comparison.to_second.first_s, comparison.to_second.second_s
    if first_s.size > 1:
        pace = (first_s[-1] - first_s[0]) / (second_s[-1] - second_s[0])
        if abs(pace - 1) > TEMPO_SHARE:
            facts.append(f"it is {abs(pace - 1):.0%} {'faster' if pace > 1 else 'slower'}")
    return ", ".join(facts)
