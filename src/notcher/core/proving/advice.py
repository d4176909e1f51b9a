"""A take in words for the student: one sentence for each thing found, with its number and what to do about it."""

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.proving.take import PhraseReport, Played, TakeReport, Thresholds
from notcher.core.score import Result, Score, bend_name

TOLD_NOTES = 3
BIAS_MS, WIDE_MS = 15.0, 25.0
LANDED_CENTS = 15.0
"""Listeners accept a bend within 10 to 15 cents (common practice, no source)."""
NARROW_SHARE, UNEVEN = 0.65, 0.12
HISTOGRAM_CENTS = 15.0


def landings(bends: Sequence[Played]) -> dict[str, tuple[float, ...]]:
    """Return by written size (½, 1, 1½ …) how far each bend landed from it, cents, flat negative; small sizes first."""
    found: dict[float, list[float]] = defaultdict(list)
    for played in bends:
        if played.landed_cents is not None:
            found[abs(played.bend)].append(played.landed_cents)
    return {bend_name(size): tuple(found[size]) for size in sorted(found)}


def histogram(cents: Sequence[float], *, reach_cents: float = 90.0) -> tuple[FloatArray, IntArray]:
    """Return the edges of bins `HISTOGRAM_CENTS` wide around 0 and how many lie in each; far ones in the outer bins.

    Returns: shape (n + 1,), cents, and shape (n,).
    """
    half = int(np.ceil(reach_cents / HISTOGRAM_CENTS - 0.5))
    edges = (np.arange(-half, half + 2) - 0.5) * HISTOGRAM_CENTS
    counts, _ = np.histogram(np.clip(cents, edges[0] + 1e-6, edges[-1] - 1e-6), edges)
    return edges, counts


def advice(
    phrase_report: PhraseReport, score: Score, *, pace: float, thresholds: Thresholds | None = None
) -> tuple[str, ...]:
    """Return what to tell the student of one phrase, the weightiest first; praise where there is nothing to mend."""
    limits = thresholds or Thresholds()
    said = [
        *_notes_words(phrase_report, score, pace),
        *_bend_words(phrase_report, score),
        *_time_words(phrase_report, score, limits),
        *_wave_words(phrase_report, score),
    ]
    return tuple(said) or ("Clean: every note there, in time and in tune.",)


def headline(report: TakeReport) -> str:
    """Return the take in one line."""
    notes = [played for phrase in report.phrases for played in phrase.notes]
    right = sum(played.right for played in notes)
    counts = {result: sum(phrase_report.verdict is result for phrase_report in report.phrases) for result in Result}
    phrases = ", ".join(f"{count} {result}" for result, count in counts.items() if count)
    return f"{right} of {len(notes)} notes played at {report.pace * 100:.0f} %; phrases: {phrases}."


def _where(played: Played, score: Score) -> str:
    note = score.notes[played.index]
    if score.beat_map.known:
        beat = int(np.floor(float(score.beat_map.beat_at(np.array([note.onset_s]))[0]) + 0.05))
        per_bar = score.beat_map.meter[0]
        return f"bar {beat // per_bar + 1} beat {beat % per_bar + 1} (string {note.string}, fret {note.fret})"
    return f"string {note.string}, fret {note.fret} at {note.onset_s:.1f} s"


def _listed(notes: Sequence[Played], score: Score) -> str:
    words = [_where(played, score) for played in notes[:TOLD_NOTES]]
    more = len(notes) - len(words)
    return ", ".join(words) + (f" and {more} more" if more else "")


def _notes_words(phrase_report: PhraseReport, score: Score, pace: float) -> list[str]:
    said = []
    slower = max(0.3, round(pace - 0.1, 2))
    if phrase_report.verdict is Result.MISSED and len(phrase_report.missed) == len(phrase_report.notes):
        return ["Nothing of this phrase was heard."]
    if phrase_report.missed:
        said.append(
            f"{len(phrase_report.missed)} of {len(phrase_report.notes)} notes are missing: {_listed(phrase_report.missed, score)}. "
            f"Loop that spot alone at {slower * 100:.0f} %."
        )
    if phrase_report.wrong:
        said.append(
            f"{len(phrase_report.wrong)} wrong: {_listed(phrase_report.wrong, score)}, which {phrase_report.wrong[0].finding.verdict}. "
            "Say the fret aloud before you play it."
        )
    if phrase_report.extra:
        many = len(phrase_report.extra)
        said.append(
            f"{many} {'note' if many == 1 else 'notes'} too many. Rest the picking hand's edge on the strings that "
            "should be silent."
        )
    return said


def _bend_words(phrase_report: PhraseReport, score: Score) -> list[str]:
    said = []
    for size, cents in landings(phrase_report.bends).items():
        middle = float(np.median(cents))
        if abs(middle) > LANDED_CENTS:
            example = next(bend for bend in phrase_report.bends if bend_name(abs(bend.bend)) == size)
            note = score.notes[example.index]
            target = round(note.fret + example.bend)
            way = "flat" if middle < 0 else "sharp"
            goal = f"fret {target}" if target >= 0 else "the note you aim for"
            steps = "steps" if abs(example.bend) > 2 else "step"
            said.append(
                f"Bends of {size} {steps} land {abs(middle):.0f} cents {way}: play {goal} first, then bend "
                f"fret {note.fret} to that sound."
            )
    return said


def _time_words(phrase_report: PhraseReport, score: Score, limits: Thresholds) -> list[str]:
    said = []
    for drift in phrase_report.drifts[:1]:
        way = "slows down" if drift.change < 0 else "runs away"
        place = f"from {drift.start_s:.1f} s to {drift.end_s:.1f} s of the recording"
        if score.beat_map.known:
            beats = score.beat_map.beat_at(np.array([drift.start_s, drift.end_s]))
            first, last = (int(beat // score.beat_map.meter[0]) + 1 for beat in beats)
            place = f"in bar {first}" if first == last else f"from bar {first} to bar {last}"
        said.append(f"The tempo {way} by {abs(drift.change) * 100:.0f} % {place}: play that spot with the click.")
    if phrase_report.bias_ms is not None and abs(phrase_report.bias_ms) > BIAS_MS and not phrase_report.drifts:
        early = phrase_report.bias_ms < 0
        said.append(
            f"Notes come {abs(phrase_report.bias_ms):.0f} ms {'early' if early else 'late'}: "
            + ("wait for the beat." if early else "prepare each note before its beat.")
        )
    if phrase_report.spread_ms is not None and phrase_report.spread_ms > min(WIDE_MS, limits.spread_ms):
        said.append(f"Notes scatter by ±{phrase_report.spread_ms:.0f} ms around your own flow: count aloud, slower.")
    return said


def _wave_words(phrase_report: PhraseReport, score: Score) -> list[str]:
    said = []
    due = [
        (played, wave) for played in phrase_report.notes if played.right and (wave := score.notes[played.index].vibrato)
    ]
    still = [played for played, _ in due if played.wave is None and played.wave_uneven is None]
    if still:
        said.append(f"No vibrato at {_listed(still, score)}: let the note settle, then rock the finger.")
    shares = [played.wave.extent_cents / wave.extent_cents for played, wave in due if played.wave is not None]
    if shares and float(np.median(shares)) < NARROW_SHARE:
        said.append(f"Vibrato is {np.median(shares):.0%} of the recording's width: turn the whole wrist.")
    uneven = [played.wave_uneven for played, _ in due if played.wave_uneven is not None]
    if uneven and float(np.median(uneven)) > UNEVEN:
        differ = float(np.median(uneven))
        said.append(f"Vibrato swings differ by {differ:.0%} in length: practise it in time, four to a slow beat.")
    return said
