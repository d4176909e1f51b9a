"""The rows of the practice board, in teaching order."""

from collections.abc import Iterable

from notcher.core.score import Phrase, Score
from notcher.core.teaching.plan import LessonOrder, pieces
from notcher.core.teaching.rungs import BoardRow, Tried, units


def board_rows(
    score: Score, lesson_order: LessonOrder = LessonOrder.BUILD_UP, tried: Iterable[Tried] = ()
) -> tuple[BoardRow, ...]:
    """Return what is learned in a lesson's order: each phrase after the pieces it is cut into, and the joins.

    tried: passes; a join that was practised in another order keeps a row at the end.
    """
    taught = [phrase for phrase in score.phrases if score.notes_of(phrase)]
    order = taught[::-1] if lesson_order is LessonOrder.FROM_THE_END else taught
    as_one = {unit[-1].id: unit for unit in units(score) if len(unit) > 1}
    rows: list[BoardRow] = []
    for number, phrase in enumerate(order):
        rows += [*_pieces(score, phrase), BoardRow((phrase,))]
        if phrase.id in as_one:  # too short to be taught alone
            rows.append(BoardRow(as_one[phrase.id]))
        if number and (lesson_order is not LessonOrder.PAIRS or number % 2):
            first = number - 1 if lesson_order is LessonOrder.PAIRS else 0
            rows.append(BoardRow(tuple(sorted(order[first : number + 1], key=lambda one: one.start_s))))
    if lesson_order is LessonOrder.PAIRS and len(order) > 2:
        rows.append(BoardRow(tuple(sorted(order, key=lambda one: one.start_s))))
    rows = list({row.ids: row for row in rows}.values())
    there = {row.ids for row in rows}
    by_id = {phrase.id: phrase for phrase in score.phrases}
    others = dict.fromkeys(played.phrases for played in tried if played.phrases not in there)
    rows += [BoardRow(tuple(by_id[name] for name in ids)) for ids in others if all(name in by_id for name in ids)]
    return tuple(rows)


def _pieces(score: Score, phrase: Phrase) -> list[BoardRow]:
    rows = []
    for number, (first, last) in enumerate(pieces(score, phrase), start=1):
        a, b = score.notes[first], score.notes[last]
        piece_id = f"{phrase.id}/{a.id}-{b.id}"
        rows.append(BoardRow((phrase,), (first, last), piece_id, number, (a.onset_s, b.offset_s)))
    return rows
