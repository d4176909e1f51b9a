"""A take in sentences for the student: each thing found, with its number and what to do about it."""

import math
from collections.abc import Callable, Sequence

from notcher.core.proving import Advice, Matter, PhraseReport, Played, Result, TakeReport
from notcher.core.score import Score, snapped_bend
from notcher.core.words.bends import bend_size
from notcher.core.words.counts import bar_words
from notcher.core.words.findings import verdict_words
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import figure, many
from notcher.core.words.pitches import place_name
from notcher.core.words.times import late_words, seconds

TOLD_NOTES = 3  # more is a list, not advice
SAME_SIZE, OTHER_SIZE = 0.1, 0.3  # semitones


def advice_words(advice: Advice, score: Score, aligned: Score, naming: Naming = USUAL) -> str:
    """Return one thing to tell the student. score: the tab. aligned: the practised notes, which the findings are of."""
    matter, amount = advice.matter, advice.amount
    if matter is Matter.MISSING:
        return (
            f"{many(len(advice.notes), 'note')} missing: {_listed(advice.notes, score, naming)}. "
            f"Loop that spot alone at {amount * 100:.0f} %."
        )
    if matter is Matter.WRONG:
        verdict = verdict_words(advice.notes[0].finding, aligned, naming)
        return (
            f"{len(advice.notes)} wrong: {_listed(advice.notes, score, naming)}, which {verdict}. "
            "Say the fret aloud before you play it."
        )
    if matter in (Matter.BEND, Matter.BENDS):
        return _bend_words(advice, score, naming)
    if matter is Matter.HELD:
        off = _each(advice.notes, score, naming, lambda played: played.held_cents or 0.0)
        return f"Held off pitch: {off}. Press straight down, and let the string rest."
    if matter is Matter.HESITATION:
        return f"{_hesitations(advice.notes, score, naming)} Loop the way there, with the note before it."
    if matter is Matter.ADDED_VIBRATO:
        return f"Vibrato where the recording has none, at {_listed(advice.notes, score, naming)}: hold the note still."
    if matter is Matter.DRIFT:
        return _drift_words(advice, score, naming)
    if matter is Matter.NO_VIBRATO:
        return f"No vibrato at {_listed(advice.notes, score, naming)}: let the note settle, then rock the finger."
    return {
        Matter.NOTHING_HEARD: "Nothing of this phrase was heard.",
        Matter.EXTRA: f"{many(round(amount), 'note')} too many. Rest the picking hand's edge on the strings that "
        "should be silent.",
        Matter.BIAS: f"Notes come {late_words(amount / 1000)}: "
        + ("wait for the beat." if amount < 0 else "prepare each note before its beat."),
        Matter.SCATTER: f"Notes scatter by ±{amount:.0f} ms around your own flow: count aloud, slower.",
        Matter.NARROW_VIBRATO: f"Vibrato is {amount:.0%} of the recording's width: turn the whole wrist.",
        Matter.UNEVEN_VIBRATO: f"Vibrato swings differ by {amount:.0%} in length: practise it in time, four to a slow "
        "beat.",
        Matter.CLEAN: "Clean: every note there, in time and in tune.",
    }[matter]


def headline(report: TakeReport) -> str:
    """Return the take in one line."""
    notes = [played for phrase_report in report.phrases for played in phrase_report.notes]
    right = sum(played.right for played in notes)
    counts = {result: sum(phrase_report.verdict is result for phrase_report in report.phrases) for result in Result}
    phrases = ", ".join(f"{count} {result}" for result, count in counts.items() if count)
    return f"{right} of {many(len(notes), 'note')} played at {report.pace * 100:.0f} %; phrases: {phrases}."


def phrase_figures(phrase_report: PhraseReport, naming: Naming = USUAL) -> str:
    """Return the numbers of a phrase in one line."""
    right = sum(played.right for played in phrase_report.notes)
    parts = [f"{right} of {many(len(phrase_report.notes), 'note')}"]
    if phrase_report.bias_ms is not None:
        parts.append(f"{late_words(phrase_report.bias_ms / 1000)} on the beat")
    else:
        parts.append("on or off the beat: not known")
    if phrase_report.spread_ms is not None:
        parts.append(f"timing varies by ±{phrase_report.spread_ms:.0f} ms")
    rates = sorted(played.wave.rate_hz for played in phrase_report.notes if played.wave is not None)
    if rates:
        parts.append(f"vibrato {figure(rates[len(rates) // 2], 1, naming=naming)} Hz")
    return "; ".join(parts) + "."


def _bend_words(advice: Advice, score: Score, naming: Naming) -> str:
    example, middle = advice.notes[0], advice.amount
    note, size = score.notes[example.index], abs(example.bend)
    target = round(note.fret + example.bend)
    goal = f"fret {target}" if target >= 0 else "the note you aim for"
    reached = max(0.0, size + middle / 100)
    played = abs(snapped_bend(reached, between=False))
    flat, alone = "flat" if middle < 0 else "sharp", advice.matter is Matter.BEND and len(advice.notes) == 1
    landed = f"{'lands' if alone else 'land'} {abs(middle):.0f} cents {flat}"
    if advice.matter is Matter.BEND and not alone:  # each told with what it is off
        off = ", ".join(f"{abs(bend.landed_cents or 0.0):.0f}" for bend in advice.notes[:TOLD_NOTES])
        landed = f"land {flat} at {_listed(advice.notes, score, naming)}, by {off} cents"
    if abs(played - size) > SAME_SIZE and abs(reached - played) < OTHER_SIZE:  # another bend, not this one out of tune
        way = "only" if played < size else "as far as"
        landed = f"{'was' if alone else 'were'} bent {way} {bend_size(played, naming)}, {abs(middle):.0f} cents off"
    place = place_name(score.tuning, note.string, note.fret, naming)
    what = f"The bend of {bend_size(example.bend, naming)} on {place}" if alone else (
        f"Bends of {bend_size(example.bend, naming)}"
    )  # fmt: skip
    return f"{what} {landed}: play {goal} first, then bend fret {note.fret} to that sound."


def _drift_words(advice: Advice, score: Score, naming: Naming) -> str:
    drift, change = advice.drift, advice.amount
    where = ""
    if drift is not None:
        where = f"from {seconds(drift.start_s, 1, naming)} to {seconds(drift.end_s, 1, naming)} of the recording"
        if score.beat_map.known:
            first, last = (_bar(score, time_s) for time_s in (drift.start_s, drift.end_s))
            where = f"in {bar_words(first, last)}"
    way = "drag" if change < 0 else "rush"
    return f"You {way} by {abs(change) * 100:.0f} % {where}: play that spot with the click."


def _bar(score: Score, time_s: float) -> int:
    return score.beat_map.bar_at(score.beat_map.quarter(time_s))


def _where(played: Played, score: Score, naming: Naming) -> str:
    note, beat_map = score.notes[played.index], score.beat_map
    place = place_name(score.tuning, note.string, note.fret, naming)
    if not beat_map.known:
        return f"{place} at {seconds(note.onset_s, 1, naming)}"
    bar, beat = beat_map.bar_and_beat(math.floor(beat_map.felt(beat_map.quarter(note.onset_s)) + 0.05))
    return f"{bar_words(bar)} beat {beat} ({place})"


def _listed(notes: Sequence[Played], score: Score, naming: Naming) -> str:
    words = [_where(played, score, naming) for played in notes[:TOLD_NOTES]]
    more = len(notes) - len(words)
    return ", ".join(words) + (f" and {more} more" if more else "")


def _each(notes: Sequence[Played], score: Score, naming: Naming, cents_of: Callable[[Played], float]) -> str:
    """Each note with how far off it is: "string 2, fret 12, 40 cents flat"."""
    texts = []
    for played in notes[:TOLD_NOTES]:
        note, cents = score.notes[played.index], cents_of(played)
        place = place_name(score.tuning, note.string, note.fret, naming)
        texts.append(f"{place}, {abs(cents):.0f} cents {'flat' if cents < 0 else 'sharp'}")
    return "; ".join(texts)


def _hesitations(notes: Sequence[Played], score: Score, naming: Naming) -> str:
    """Where a note comes late or early by itself: "60 ms late into string 2, fret 12 (bar 3)."."""
    texts = []
    for played in notes[:TOLD_NOTES]:
        note, late_ms = score.notes[played.index], played.hesitates_ms or 0.0
        place = place_name(score.tuning, note.string, note.fret, naming)
        bar = f" (bar {_bar(score, note.onset_s)})" if score.beat_map.known else ""
        texts.append(f"{abs(late_ms):.0f} ms {'late' if late_ms > 0 else 'early'} into {place}{bar}")
    return f"{'; '.join(texts)}."
