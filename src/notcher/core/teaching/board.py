"""The rows of the practice board, in teaching order."""

from collections.abc import Iterable, Sequence

from notcher.core.score import Phrase, Score
from notcher.core.teaching.plan import LessonOrder, pieces
from notcher.core.teaching.rungs import BoardRow, Tried, Unit, units


def board_rows(
    score: Score, lesson_order: LessonOrder = LessonOrder.BUILD_UP, tried: Iterable[Tried] = ()
) -> tuple[BoardRow, ...]:
    """Return what is learned in a lesson's order: each phrase after the pieces it is cut into, and the joins.

    tried: passes; a join that was practised in another order keeps a row at the end.
    """
    taught = units(score)
    order = taught[::-1] if lesson_order is LessonOrder.FROM_THE_END else taught
    rows: list[BoardRow] = []
    for number, unit in enumerate(order):
        rows += [*(_pieces(score, unit[0]) if len(unit) == 1 else ()), BoardRow(unit)]
        if number and (lesson_order is not LessonOrder.PAIRS or number % 2):
            first = number - 1 if lesson_order is LessonOrder.PAIRS else 0
            rows.append(_join(order[first : number + 1]))
    if lesson_order is LessonOrder.PAIRS and len(order) > 2:
        rows.append(_join(order))
    there = {row.ids for row in rows}
    by_id = {phrase.id: phrase for phrase in score.phrases}
    others = dict.fromkeys(played.phrases for played in tried if played.phrases not in there)
    rows += [BoardRow(tuple(by_id[name] for name in ids)) for ids in others if all(name in by_id for name in ids)]
    return tuple(rows)


def _join(joined: Sequence[Unit]) -> BoardRow:
    return BoardRow(tuple(sorted((phrase for unit in joined for phrase in unit), key=lambda phrase: phrase.start_s)))


def _pieces(score: Score, phrase: Phrase) -> list[BoardRow]:
    rows = []
    for number, (first, last) in enumerate(pieces(score, phrase), start=1):
        a, b = score.notes[first], score.notes[last]
        piece_id = f"{phrase.id}/{a.id}-{b.id}"
        rows.append(BoardRow((phrase,), (first, last), piece_id, number, (a.onset_s, b.offset_s)))
    return rows
