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
from notcher.core.sheets.typeface import Face, extent
from notcher.core.theory import moved_chord
from notcher.core.words import Naming


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
    ) -> None:
        self.score, self.choices, self.style, self.line_width = score, choices, style, line_width
        self.naming = choices.named(naming)
        self.told: dict[int, str] = {}
        self.letters: dict[int, str] = {}

    @cached_property
    def names(self) -> list[tuple[str, ...]]:
        """What each note's techniques are called."""
        return [techniques(self.score, index) for index in range(len(self.score.notes))]

    @cached_property
    def times(self) -> list[WrittenTime]:
        """Where each note is written; none where no beat is known."""
        return written_times(self.score) if self.score.beat_map.known else []

    @cached_property
    def bars(self) -> tuple[Bar, ...]:
        """The bars; none where no beat is known."""
        return written_bars(self.score) if self.score.beat_map.known and self.score.notes else ()

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

    def time_of(self, ticks: float) -> float:
        """Return the recording's seconds of a written place."""
        return float(self.score.beat_map.time_at(np.array([ticks / TICKS]))[0])

    def on_beat(self, ticks: int) -> bool:
        """Whether a written place is a felt beat."""
        felt = float(self.score.beat_map.felt_at(np.array([ticks / TICKS]))[0])
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
        return extent(text, Face.TEXT_BOLD, self.style.text).advance + 2 * self.style.space
