"""Tempo rungs: each phrase is climbed from slow to full pace, and every try leaves a mark."""

from notcher.core.score import Mark, Phrase, Result

RUNG_PACES = (0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
"""Starting speed is often half tempo (common practice, no source); one rung below it for what is too hard."""
START = 0.5


def with_mark(marks: tuple[Mark, ...], span: Phrase, pace: float, result: Result | None) -> tuple[Mark, ...]:
    """Return the marks with one cell set, or cleared by None."""
    kept = tuple(mark for mark in marks if not (_same(mark, span) and mark.pace == pace))
    return kept if result is None else (*kept, Mark(span.start_s, span.end_s, pace, result))


def results(marks: tuple[Mark, ...], span: Phrase) -> dict[float, Result]:
    """Return how one stretch went at each pace that was tried."""
    return {mark.pace: mark.result for mark in marks if _same(mark, span)}


def _same(mark: Mark, span: Phrase) -> bool:
    return abs(mark.start_s - span.start_s) < 1e-6 and abs(mark.end_s - span.end_s) < 1e-6


def next_rung(marks: tuple[Mark, ...], span: Phrase) -> float:
    """Return the pace to practise next: above the fastest clean one, below the slowest that was missed."""
    tried = results(marks, span)
    clean = [pace for pace, result in tried.items() if result is Result.CLEAN]
    if clean:
        return min((pace for pace in RUNG_PACES if pace > max(clean)), default=RUNG_PACES[-1])
    missed = [pace for pace, result in tried.items() if result is Result.MISSED]
    if missed:
        return max((pace for pace in RUNG_PACES if pace < min(missed)), default=RUNG_PACES[0])
    return START


def board_rows(phrases: tuple[Phrase, ...]) -> tuple[Phrase, ...]:
    """Return what is learned in order: each phrase, and after each but the first its join with the one before."""
    rows: list[Phrase] = []
    plain = [phrase for phrase in phrases if not phrase.section]
    for number, phrase in enumerate(plain):
        rows.append(phrase)
        if number:
            before = plain[number - 1]
            rows.append(Phrase(before.start_s, phrase.end_s, f"{before.name} + {phrase.name}"))
    return tuple(rows)
