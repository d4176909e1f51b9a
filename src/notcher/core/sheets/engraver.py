"""What every part of a page needs to know: the solo, what is wanted of the sheet, the lengths, the footnotes."""

from functools import cached_property

import numpy as np

from notcher.core.score import Key, Note, Score, techniques
from notcher.core.score.notation import Bar, written_bars
from notcher.core.score.rhythm import TICKS, WrittenTime, written_times
from notcher.core.sheets.again import Printed, printed_bars
from notcher.core.sheets.choices import Names, SheetChoices
from notcher.core.sheets.heads import Head, heads_of
from notcher.core.sheets.style import Style
from notcher.core.sheets.typeface import Typeface, extent
from notcher.core.theory import moved_chord
from notcher.core.words import Naming

REACH = 12
"""How many notes away a note's neighbours may decide what it is called."""


def _timing(score: Score) -> object:
    """All that decides where notes are written."""
    notes = [(note.onset_s, note.offset_s, note.string, note.division, note.starts_at) for note in score.notes]
    return score.beat_map, notes


class Engraver:
    """One solo on its way to paper.

    line_width: of a whole line, millimetres. told, letters: the footnotes and their signs, by the index of their note.
    """

    def __init__(
        self,
        score: Score,
        choices: SheetChoices,
        style: Style,
        naming: Naming,
        line_width: float,
        before: "Engraver | None" = None,
    ) -> None:
        self.score, self.choices, self.style, self.line_width = score, choices, style, line_width
        self.naming = choices.named(naming)
        self._before = before
        self.told: dict[int, str] = {}
        self.letters: dict[int, str] = {}

    @cached_property
    def names(self) -> list[tuple[str, ...]]:
        """What each note's techniques are called."""
        count, old = len(self.score.notes), self._before
        head, tail = (0, 0) if old is None else self._unchanged(old.score)
        old_names = [] if old is None else old.names
        result = old_names[:head]
        result += [techniques(self.score, index) for index in range(head, count - tail)]
        return result + (old_names[len(old_names) - tail :] if tail else [])

    def drop_before(self) -> None:
        """Take over what is needed of the solo before, and let go of it."""
        _ = self.names, self.times
        self._before = None

    def _unchanged(self, other: Score) -> tuple[int, int]:
        """How many notes from the beginning and how many to the end are the same ones, away from what was edited."""
        mine, old = self.score.notes, other.notes
        most = min(len(mine), len(old))
        head = next((at for at in range(most) if mine[at] is not old[at]), most)
        tail = next((at for at in range(most - head) if mine[-1 - at] is not old[-1 - at]), most - head)
        return max(0, head - REACH), max(0, tail - REACH)

    @cached_property
    def times(self) -> list[WrittenTime]:
        """Where each note is written; none where no beat is known."""
        if self._before is not None and _timing(self._before.score) == _timing(self.score):
            return self._before.times
        return written_times(self.score) if self.score.beat_map.known else []

    @cached_property
    def bars(self) -> tuple[Bar, ...]:
        """The bars; none where no beat is known."""
        return written_bars(self.score, times=self.times) if self.score.beat_map.known and self.score.notes else ()

    @cached_property
    def heads(self) -> dict[int, Head]:
        """Where each note stands on a staff."""
        return heads_of(self.score, self.bars, sounding=self.choices.names is Names.SOUNDING)

    @cached_property
    def printed(self) -> list[Printed]:
        """The bars as they are printed."""
        return printed_bars(self.score, self.names, self.bars, self.choices.repeats)

    @cached_property
    def section_starts(self) -> dict[str, int]:
        """The first note of each section, by the section's id; what holds no note has none."""
        firsts: dict[str, int] = {}
        for index, note in enumerate(self.score.notes):
            for section in self.score.sections:
                if section.holds(note.onset_s):
                    firsts.setdefault(section.id, index)
        return firsts

    @property
    def staff(self) -> bool:
        """Whether there is a staff over the strings; without a beat nothing can be written on it."""
        return self.choices.staff and bool(self.bars)

    @property
    def strings(self) -> int:
        return self.score.tuning.strings

    @property
    def tab_height(self) -> float:
        return (self.strings - 1) * self.style.tab

    def note(self, index: int) -> Note:
        return self.score.notes[index]

    def string_y(self, string: int) -> float:
        """Where a string lies, from the highest one down."""
        return (string - 1) * self.style.tab

    @cached_property
    def _seconds(self) -> dict[int, float]:
        """The seconds of every place where something is written: worked out at once, which is much quicker."""
        ticks = {piece.start for bar in self.bars for voice in bar.voices for piece in voice}
        ticks |= {edge for bar in self.bars for edge in (bar.start, bar.end)}
        ordered = sorted(ticks)
        times_s = self.score.beat_map.time_at(np.array(ordered) / TICKS)
        return dict(zip(ordered, times_s.tolist(), strict=True))

    def time_of(self, ticks: int) -> float:
        """Return the recording's seconds of a place where something is written."""
        return self._seconds[ticks]

    @cached_property
    def rises(self) -> list[bool]:
        """Whether each note lies no lower than the one before it on its string; the first on one does."""
        result, last = [], dict[int, int]()
        for note in self.score.notes:
            result.append(last.get(note.string, 0) <= note.fret)
            last[note.string] = note.fret
        return result

    def on_beat(self, ticks: int) -> bool:
        """Whether a written place is a felt beat."""
        felt = self.score.beat_map.felt(ticks / TICKS)
        return abs(felt - round(felt)) < 1e-6

    def written_key(self, time_s: float) -> Key | None:
        """Return the key that pitches at a time are spelled in."""
        if self.choices.names is Names.SOUNDING:
            return self.score.sounding_key_at(time_s)
        return self.score.key_at(time_s)

    def chord_name(self, name: str, time_s: float) -> str:
        """Return a chord as it is called on the neck, or as it sounds."""
        if self.choices.names is Names.SHAPES:
            return name
        return moved_chord(name, self.score.tuning.shift, self.score.sounding_key_at(time_s))

    def folded_width(self, text: str) -> float:
        return extent(text, Typeface.TEXT_BOLD, self.style.text).advance + 2 * self.style.space
