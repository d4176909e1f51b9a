"""What is told at the foot of a page: the player's slips, what is doubted, remarks too long for the line."""

from collections.abc import Sequence
from string import ascii_lowercase

from notcher.core.score import Score
from notcher.core.sheets.choices import SheetChoices
from notcher.core.sheets.over_under import short_remark
from notcher.core.words import Naming, bar_words, clock, doubt_words, place_name


def footnotes(score: Score, choices: SheetChoices, naming: Naming, bars: Sequence[int]) -> dict[int, str]:
    """Return the footnotes of a solo by the index of their note. bars: of each note; () where there are none."""
    result: dict[int, str] = {}
    for index, note in enumerate(score.notes):
        parts = []
        if choices.footnotes and note.slip:
            parts.append("the player's own slip, as played")
        if choices.footnotes and note.doubt:
            parts.append(doubt_words(note.doubt, score.tuning, naming))
        if choices.remarks and note.remark and not short_remark(note.remark):
            parts.append(note.remark)
        if parts:
            at = clock(note.onset_s, naming)
            if bars:
                at = bar_words(bars[index])
            result[index] = f"{at}, {place_name(score.tuning, note.string, note.fret, naming)}: {'; '.join(parts)}"
    return result


def letter(number: int) -> str:
    """Return the sign of a footnote, 0 first: a … z, aa …"""
    signs = ""
    number += 1
    while number:
        number, at = divmod(number - 1, len(ascii_lowercase))
        signs = ascii_lowercase[at] + signs
    return signs
