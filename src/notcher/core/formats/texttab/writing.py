"""Tab as plain text: six lines of fret numbers, counts above, and below each note in words how it is played."""

from collections.abc import Sequence

from notcher.core.formats.texttab.reading import FROM_NUT
from notcher.core.score import Attack, Note, Score, Tone, struck_together, techniques
from notcher.core.score.rhythm import written_times
from notcher.core.words import bend_name, clock, count_word, open_strings, string_letter

WIDTH = 100  # characters, what a mail or a forum does not wrap
LINE = "·"
WORDS = {
    "hammer": "ham",
    "pull": "pull",
    "tap": "tap",
    "slide": "slide",
    "slide_in": "from",
    "slide_out": "away",
    "swell": "swell",
    "curl": "curl",
    "vibrato": "wave",
    "dip": "dip",
    "dive": "dive",
    "palm_mute": "palm",
    "dead": "dead",
    "choked": "choke",
    "staccato": "short",
    "natural_harmonic": "bell",
    "squeal_harmonic": "squeal",
    "tapped_harmonic": "tapbell",
    "rake": "rake",
    "trill": "trill",
}
LEGEND = {
    "ham": "hammered: fretted without picking",
    "pull": "pulled off to this fret",
    "tap": "fretted by the picking hand",
    "slide": "slid into along the string",
    "from": "slid into from nowhere",
    "away": "slides away at the end",
    "swell": "volume swell",
    "up": "bent up by so many steps (1 = a whole step = 2 frets)",
    "pre": "bent by so many steps before it is struck",
    "let": "the bend is released",
    "again": "re-picked while bent",
    "curl": "quarter-tone bend, late and small",
    "wave": "vibrato",
    "dip": "down and back with the bar",
    "dive": "down and away with the bar",
    "palm": "muted with the heel of the hand",
    "dead": "a click without pitch",
    "choke": "stopped abruptly with the picking hand",
    "short": "cut short",
    "bell": "natural harmonic (with a figure: of which partial)",
    "tapbell": "tapped harmonic",
    "squeal": "pinch harmonic",
    "rake": "pick dragged over muted strings into the note",
    "trill": "part of a quick alternation",
}


def text_tab(score: Score) -> str:
    """Return the whole solo as text, phrase by phrase, with a legend of the words it uses."""
    blocks = [_head(score)]
    used: set[str] = set()
    times = written_times(score) if score.beat_map.known else []
    counts = [count_word(time) for time in times] or [""] * len(score.notes)
    bars = [time.bar for time in times]
    shown: set[int] = set()
    for phrase in score.phrases:
        indices = [index for index in score.notes_of(phrase) if index not in shown]
        shown.update(indices)
        blocks.append(f"{phrase.name or 'Phrase'}  {clock(phrase.start_s)} to {clock(phrase.end_s)}")
        blocks += _systems(score, indices, counts, bars, used)
    rest = [i for i in range(len(score.notes)) if i not in shown]
    if rest:
        blocks += (["Outside any phrase"] if score.phrases else []) + _systems(score, rest, counts, bars, used)
    words = [f"  {word:<7}{LEGEND[word]}" for word in LEGEND if word in used]
    if words:
        blocks.append("\n".join(["Words under the notes", *words]))
    return "\n\n".join(blocks) + "\n"


def _head(score: Score) -> str:
    tuning = score.tuning
    facts = [f"strings from the highest: {open_strings(tuning)}", f"{tuning.offset_cents:+.0f} cents from A = 440 Hz"]
    if tuning.capo:
        facts.append(f"capo at fret {tuning.capo}, frets counted {FROM_NUT}")
    if score.beat_map.tempo_bpm is not None:
        facts.append(f"{score.beat_map.tempo_bpm:.0f} beats a minute")
    return f"{score.title or 'Untitled solo'}\n" + "; ".join(facts)


def _systems(score: Score, indices: Sequence[int], counts: list[str], bars: list[int], used: set[str]) -> list[str]:
    """Break the notes of one phrase into lines of at most `WIDTH` characters."""
    groups = _strokes(score, indices)
    columns = _with_bars(score, bars, groups, [_column(score, group, counts, used) for group in groups])
    systems: list[str] = []
    while columns:
        width, columns_used = 5, 0
        while columns_used < len(columns) and (width + _width(columns[columns_used]) <= WIDTH or columns_used == 0):
            width += _width(columns[columns_used])
            columns_used += 1
        systems.append(_drawn(score, columns[:columns_used]))
        columns = columns[columns_used:]
    return systems


def _strokes(score: Score, indices: Sequence[int]) -> list[list[int]]:
    """Group notes that begin together."""
    groups: list[list[int]] = []
    for index in indices:
        together = groups and struck_together(score.notes[groups[-1][0]].onset_s, score.notes[index].onset_s)
        strings = {score.notes[other].string for other in groups[-1]} if groups else set()
        if together and score.notes[index].string not in strings:
            groups[-1].append(index)
        else:
            groups.append([index])
    return groups


_Column = tuple[str, dict[int, str], list[str]]
BAR = "|"


def _with_bars(score: Score, bars: list[int], groups: list[list[int]], columns: list[_Column]) -> list[_Column]:
    """The columns with a line before each bar that begins among them. bars: of each note; none where none is known."""
    if not bars:
        return columns
    result: list[_Column] = []
    before = None
    for group, column in zip(groups, columns, strict=True):
        bar = bars[group[0]]
        if before is not None and bar != before:
            result.append(("", dict.fromkeys(range(1, score.tuning.strings + 1), BAR), []))
        result.append(column)
        before = bar
    return result


def _column(score: Score, group: list[int], counts: list[str], used: set[str]) -> _Column:
    words: list[str] = []
    for index in group:
        words += [word for word in _words(score, index) if word not in words]
    used.update(word.rstrip("¼½¾0123456789¢−") for word in words)
    frets = {score.notes[index].string: str(score.notes[index].fret) for index in group}
    return counts[group[0]], frets, words


def _words(score: Score, index: int) -> list[str]:
    note, names = score.notes[index], techniques(score, index)
    partial = str(note.partial or "") if note.tone is Tone.NATURAL_HARMONIC else ""
    words = [WORDS[name] + (partial if name == "natural_harmonic" else "") for name in names if name in WORDS]
    return _bend_words(note, names) + words


def _bend_words(note: Note, names: tuple[str, ...]) -> list[str]:
    if note.attack is Attack.REPICK:
        words = ["again"]
    elif "prebend" in names:
        words = ["pre" + bend_name(note.curve.peak_semitones)]
    elif "bend" in names:
        words = ["up" + bend_name(note.reading.bend_semitones)]
    else:
        words = []
    return [*words, "let"] if "release" in names else words


def _width(column: _Column) -> int:
    count, frets, words = column
    return max(len(text) for text in (count, *frets.values(), *words)) + 1


def _drawn(score: Score, columns: list[_Column]) -> str:
    widths = [_width(column) for column in columns]
    count = "     " + "".join(column[0].ljust(width) for column, width in zip(columns, widths, strict=True))
    rows = [count] if count.strip() else []
    for string in range(1, score.tuning.strings + 1):
        cells = "".join(column[1].get(string, "").ljust(w, LINE) for column, w in zip(columns, widths, strict=True))
        rows.append(f"{string} {string_letter(score.tuning, string):<2} {cells}")
    for row in range(max((len(column[2]) for column in columns), default=0)):
        words = (column[2][row] if row < len(column[2]) else "" for column in columns)
        rows.append("     " + "".join(word.ljust(width) for word, width in zip(words, widths, strict=True)))
    return "\n".join(row.rstrip() for row in rows)
