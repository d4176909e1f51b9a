"""Reading tab as plain text, as people write it: strings in any order and with any letters, bar lines, wrapped lines.

Each group of four to eight lines of one string each is a system. In it what stands in one column sounds together, and
columns follow each other in time; how far they lie apart tells their order and hardly more. Letters between the figures
say how a note is played, by the habits of plain-text tab (common practice, no source). Our own tab, with its words
under the notes, is read as well. Whatever is not understood is told with its line and column.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from notcher.core.formats.files.atomic import FileError
from notcher.core.formats.import_result import (
    LAST_FRET,
    MOST_UNREAD,
    ImportResult,
    Unread,
    check_note_count,
    without_overlaps,
)
from notcher.core.score import (
    HARMONIC_TONES,
    NO_BEAT_MAP,
    STANDARD,
    Attack,
    Doubt,
    DoubtKind,
    End,
    Note,
    Phrase,
    Score,
    Tone,
    Tuning,
    TuningError,
    Vibrato,
    bent_curve,
    new_id,
    tuning_from_text,
)
from notcher.core.score.limits import NAME_CHARS, fitting
from notcher.core.words.bends import IN_STEPS

LABEL = re.compile(
    r"^\s*(?:(\d)(?=[\s:|A-Ha-h])\s*)?([A-Ga-gHh][#b♯♭]?)?(?:\d(?=\s*[|:]))?\s*[|:\]}]?\s*"
    r"(?=[-–—·.~=|\d(<xXhpbrts/\\^*\[ ]|$)"
)
FILL = "-–—·_=."
BODY = re.compile(r"^[-–—·_=.|:\d hHpPbBrRsStTvVxX/\\~^()<>\[\]{}*'\"+wW,½¼¾fullFUL]*$")
LEAST_FILL = 3  # dashes of a line of tab without a bar line
DIGITS = frozenset("0123456789")
RUN = re.compile(r"[-–—·_=.]{2}")
MOST_SYSTEM, LEAST_SYSTEM = 8, 4  # strings
STEP_S, LEAST_STEP_S = 0.11, 0.12  # seconds a column, and from one moment to the next
HELD_SHARE, LONGEST_S = 0.92, 2.0  # of the time to the next note; no note longer
WHOLE_STEP = 2.0  # semitones, of a bend without a size (common practice, no source)
OWN_WORDS = {
    "ham": "hammer", "pull": "pull", "tap": "tap", "slide": "slide", "from": "from", "away": "away", "swell": "swell",
    "curl": "curl", "wave": "vibrato", "dip": "dip", "dive": "dive", "palm": "palm", "dead": "dead", "choke": "choke",
    "short": "short", "bell": "harmonic", "tapbell": "tapped", "squeal": "squeal", "rake": "rake", "trill": "trill",
    "let": "release", "again": "again",
}  # fmt: skip
TONE_WORDS = {
    "palm": Tone.PALM_MUTE, "dead": Tone.DEAD, "harmonic": Tone.NATURAL_HARMONIC, "squeal": Tone.SQUEAL_HARMONIC,
    "tapped": Tone.TAPPED_HARMONIC,
}  # fmt: skip
SIZES = {name: semitones for semitones, name in IN_STEPS.items()}
TIMES = re.compile(r"\s+\d+:\d\d(?:\.\d+)?\s+to\s+\d+:\d\d(?:\.\d+)?\s*$")
OPEN_STRINGS = re.compile(r"strings from the highest:\s*([^;]+)", re.IGNORECASE)
TUNING_LINE = re.compile(r"^\s*tuning\s*[:=]?\s*(.+?)\s*$", re.IGNORECASE)
CAPO = re.compile(r"capo\D{0,12}(\d+)", re.IGNORECASE)
"""Frets are counted from it (common practice, no source) where the text does not say otherwise."""
FROM_NUT = "from the nut"
"""What a text says above its tab where frets below a capo are counted as well."""
LETTERS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11, "H": 11}


@dataclass(frozen=True, slots=True)
class _TabLine:
    """One string's line. line: its number. at: where its body begins. label: as written, if any."""

    line: int
    at: int
    body: str
    label: str


@dataclass(slots=True)
class _Token:
    """One figure. begin, end: columns. marks: what stood before and behind it."""

    begin: int
    end: int
    fret: int
    string: int
    line: int
    dead: bool = False
    before: str = ""
    behind: str = ""
    bracket: str = ""


def read_text_tab(text: str, *, title: str = "") -> ImportResult:
    """Read tab out of a text. Raises: FileError when there is no line of tab in it."""
    lines = text.replace("\t", "    ").splitlines()
    systems = _systems(lines)
    if not systems:
        raise FileError("There is no tab in this text.", "A tab has a line of dashes and fret numbers for each string.")
    unread: list[Unread] = []
    tuning = _tuning(lines, systems, unread)
    notes: list[Note] = []
    phrases: list[Phrase] = []
    now_s, last_name = 0.5, ""
    in_tab = {row.line for system in systems for row in system}
    for system in systems:
        tokens = _tokens(system, unread)
        words = _own_words(lines, system, in_tab)
        check_note_count(len(notes))
        new_notes, until_s = _notes(tokens, words, now_s, notes)
        name = _name_above(lines, system[0].line, in_tab)
        if new_notes:
            if name and name != last_name:
                phrases.append(Phrase(new_notes[0].onset_s - 0.01, until_s, fitting(name, NAME_CHARS), id=new_id()))
            elif phrases and last_name:
                phrases[-1] = replace(phrases[-1], end_s=until_s)
            last_name = name or last_name
        notes += new_notes
        now_s = until_s
    if not notes:
        raise FileError("There are no notes in this tab.", "Its lines hold no fret numbers.")
    first = _title(lines, min(in_tab)) or title
    named = [phrase for phrase in phrases if phrase.name != first]
    if tuning.capo and not any(FROM_NUT in line for line in lines[: min(in_tab) - 1]):
        notes = [_above_capo(note, tuning.capo, min(in_tab), unread) for note in notes]
    score = Score((), tuning, NO_BEAT_MAP, phrases=tuple(named), title=fitting(first, NAME_CHARS)).with_notes(
        without_overlaps(notes)
    )
    return ImportResult(score, tuple(sorted(unread, key=lambda one: (one.line, one.column))[:MOST_UNREAD]))


def _above_capo(note: Note, capo: int, line: int, unread: list[Unread]) -> Note:
    """The note where the neck has the fret that was counted from the capo."""
    if note.fret + capo > LAST_FRET:
        unread.append(Unread(line, 1, f"fret {note.fret} above a capo at fret {capo}"))
    return replace(note, fret=min(note.fret + capo, LAST_FRET))


def has_tab(text: str) -> bool:
    """Return whether there are lines of tab in a text."""
    return bool(_systems(text.replace("\t", "    ").splitlines()))


# --- lines ---
def _row(line: int, text: str) -> _TabLine | None:
    """A line of tab, or None."""
    stripped = text.rstrip()
    if sum(char in FILL for char in stripped) < LEAST_FILL and "|" not in stripped:
        return None
    match = LABEL.match(stripped)
    at = match.end() if match else 0
    label = "".join(part or "" for part in (match.group(1), match.group(2))) if match else ""
    body = stripped[at:]
    fill = sum(char in FILL for char in body)
    digits = sum(char in DIGITS for char in body)
    letters = sum(char.isalpha() for char in body.replace("full", ""))
    if (
        fill + digits < 3
        or fill + digits + body.count("|") < 2 * letters
        or re.search(r"[A-Za-z]{5,}", body.replace("full", ""))
    ):
        return None
    if not (RUN.search(body) or ("|" in stripped and fill >= 2)):
        return None  # counts with a dot between them are no string
    return _TabLine(line, at, body, label)


def _systems(lines: Sequence[str]) -> list[list[_TabLine]]:
    """Rows that follow each other, one a string."""
    systems: list[list[_TabLine]] = []
    group: list[_TabLine] = []
    for number, text in enumerate([*lines, ""], start=1):
        row = _row(number, text)
        if row is not None:
            group.append(row)
            continue
        if len(group) >= LEAST_SYSTEM:
            systems += _split(group)
        group = []
    return systems


def _split(group: list[_TabLine]) -> list[list[_TabLine]]:
    """Systems that stand without a line between them, told by their labels or by their number."""
    if len(group) <= MOST_SYSTEM:
        return [group]
    first = group[0].label
    again = [at for at, row in enumerate(group) if first and at and row.label == first]
    size = again[0] if again and LEAST_SYSTEM <= again[0] <= MOST_SYSTEM else 6
    if first in ("e", "E") and size == 5:
        size = 6
    return [group[at : at + size] for at in range(0, len(group), size) if len(group[at : at + size]) >= LEAST_SYSTEM]


def _highest_first(system: Sequence[_TabLine]) -> bool:
    """Whether the highest string stands first; it mostly does."""
    labels = [row.label for row in system]
    numbers = [int(label[0]) for label in labels if label[:1] in DIGITS]
    if len(numbers) == len(system):
        return numbers[0] < numbers[-1]
    letters = [label.lstrip("0123456789") for label in labels]
    if not all(letters):
        return True
    classes = [_pitch_class(letter) for letter in letters]
    standard = [round(midi) % 12 for midi in STANDARD.open_midi[: len(system)]]
    if len(system) != 6:
        return letters[0] != letters[0].upper() or letters[0] != "E"
    return _unlike(classes, standard) <= _unlike(classes[::-1], standard)


def _unlike(classes: Sequence[int], standard: Sequence[int]) -> int:
    return sum(min((a - b) % 12, (b - a) % 12) for a, b in zip(classes, standard, strict=True))


def _pitch_class(letter: str) -> int:
    sign = {"#": 1, "♯": 1, "b": -1, "♭": -1}.get(letter[1:2], 0)
    return (LETTERS[letter[0].upper()] + sign) % 12


def _tuning(lines: Sequence[str], systems: Sequence[Sequence[_TabLine]], unread: list[Unread]) -> Tuning:
    """The tuning that is said above, else that of the letters before the lines, else the standard one."""
    strings = max(len(system) for system in systems)
    capo = 0
    tuning: Tuning | None = None
    first = min(row.line for row in systems[0])
    for number, text in enumerate(lines[: first - 1], start=1):
        if match := CAPO.search(text):
            capo = min(12, int(match[1]))
        for pattern, highest_first in ((OPEN_STRINGS, True), (TUNING_LINE, False)):
            if (match := pattern.search(text)) and tuning is None:
                tuning = _said_tuning(match[1], highest_first=highest_first)
                if tuning is None and pattern is TUNING_LINE:
                    unread.append(Unread(number, match.start(1) + 1, f"the tuning {match[1]!r}"))
    if tuning is not None and tuning.strings >= strings:
        return replace(tuning, capo=capo)
    system = next(system for system in systems if len(system) == strings)
    letters = [row.label.lstrip("0123456789") for row in system]
    opens = list(STANDARD.open_midi) if strings == 6 else _opens(strings)
    if all(letters):
        ordered = letters if _highest_first(system) else letters[::-1]
        opens = [_nearest(usual, _pitch_class(letter)) for usual, letter in zip(opens, ordered, strict=True)]
    return Tuning(tuple(opens), capo)


def _said_tuning(text: str, *, highest_first: bool) -> Tuning | None:
    """A tuning in words or letters, with octaves or without; None where it is none."""
    text = text.strip().rstrip(".")
    try:
        return tuning_from_text(text)
    except TuningError:
        pass
    letters = re.findall(r"[A-Ha-h][#b♯♭]?(?![a-z])", text)
    if not 4 <= len(letters) <= 8 or len(letters) != 6:
        return {"standard": STANDARD}.get(text.lower())
    ordered = letters if highest_first else letters[::-1]
    pairs = zip(STANDARD.open_midi, ordered, strict=True)
    return Tuning(tuple(_nearest(usual, _pitch_class(letter)) for usual, letter in pairs))


def _nearest(usual: float, pitch_class: int) -> float:
    up = (pitch_class - round(usual)) % 12
    return usual + (up if up <= 4 else up - 12)


def _opens(strings: int) -> list[float]:
    """Usual open strings of a neck with more or fewer of them."""
    usual = list(STANDARD.open_midi)
    if strings < 6:
        return [43.0, 38.0, 33.0, 28.0] if strings == 4 else usual[:strings]
    return [*usual, *([35.0] if strings == 7 else [35.0, 30.0])]


def _title(lines: Sequence[str], first: int) -> str:
    """The first line of words above all tab."""
    for text in lines[: first - 1]:
        words = text.strip()
        if words and not TIMES.search(words) and re.search(r"[A-Za-z]{2}", words):
            if OPEN_STRINGS.search(words) or TUNING_LINE.search(words) or CAPO.match(words):
                continue
            return words[:200]
    return ""


def _name_above(lines: Sequence[str], first: int, in_tab: set[int]) -> str:
    """What a system is called by the line of words above it."""
    for number in range(first - 1, max(0, first - 5), -1):
        if number in in_tab:
            return ""
        words = lines[number - 1].strip()
        if not words:
            continue
        named = TIMES.sub("", words).strip(" []:")
        counts = re.fullmatch(r"[\d&\s+.·aeint|trplu]+", words)
        ours = all(_own_word(word) for word in words.split())
        if counts or ours or OPEN_STRINGS.search(words) or TUNING_LINE.search(words):
            continue
        return named[:100] if re.search(r"[A-Za-z]{2}", named) else ""
    return ""


# --- figures ---
def _tokens(system: Sequence[_TabLine], unread: list[Unread]) -> list[_Token]:
    ordered = list(system) if _highest_first(system) else list(system)[::-1]
    tokens: list[_Token] = []
    for string, row in enumerate(ordered, start=1):
        tokens += _figures(row, string, unread)
    return tokens


TWO_FIGURES = re.compile("[0-9]{2}")
SIGNS, BARS, NOTHING = "hHpPsS/\\tT^bBrR~vVwW*½¼¾", "|:", FILL + " ()<>[]{}'\"+,"


@dataclass(slots=True)
class _Line:
    """One line while it is read. pending: signs that belong to the figure that comes next."""

    row: _TabLine
    string: int
    found: list[_Token] = field(default_factory=list)
    pending: str = ""

    def figure(self, at: int) -> int:
        """Read the figure at a place; return how many characters it has."""
        body, column = self.row.body, self.row.at + at
        size = 2 if TWO_FIGURES.match(body, at) and int(body[at : at + 2]) <= LAST_FRET else 1
        fret = int(body[at : at + size])
        if _bend_target(self.found, self.pending, column):  # 7b9: bent to what fret 9 sounds like; 7b9r7: and back
            self.found[-1].behind += str(fret) + " "
        else:
            if self.found and self.pending.endswith(("/", "\\")):
                self.found[-1].behind = self.found[-1].behind.rstrip("/\\")  # it leads here, not away
            bracket = body[at - 1] if at and body[at - 1] in "(<[" else ""
            self._add(column, size, fret, bracket=bracket)
        self.pending = ""
        return size

    def dead(self, at: int) -> None:
        self._add(self.row.at + at, 1, 0, dead=True)
        self.pending = ""

    def sign(self, at: int) -> None:
        char = self.row.body[at]
        if self.found and (char not in "tT" or not _digit_follows(self.row.body, at)):
            self.found[-1].behind += char.lower()
        self.pending += char.lower()

    def bar(self, char: str) -> None:
        if char == "|" and not self.pending.strip("hps/\\"):
            self.pending = ""

    def fill(self) -> None:
        self.pending = self.pending.rstrip("tbr^")  # what they lead to follows at once

    def full(self) -> None:
        if self.found:
            self.found[-1].behind += "b"

    def _add(self, column: int, size: int, fret: int, *, dead: bool = False, bracket: str = "") -> None:
        self.found.append(
            _Token(column, column + size, fret, self.string, self.row.line, dead=dead, before=self.pending,
                   bracket=bracket)
        )  # fmt: skip


def _figures(row: _TabLine, string: int, unread: list[Unread]) -> list[_Token]:
    """The figures of one line with the letters around them."""
    line, at, body = _Line(row, string), 0, row.body
    while at < len(body):
        char, size = body[at], 1
        if char in DIGITS:
            size = line.figure(at)
        elif char in "xX":
            line.dead(at)
        elif char in SIGNS:
            line.sign(at)
        elif char in BARS:
            line.bar(char)
        elif char in FILL:
            line.fill()
        elif body[at : at + 4].lower() == "full":
            line.full()
            size = 4
        elif char not in NOTHING:
            unread.append(Unread(row.line, row.at + at + 1, f"the sign {char!r}"))
        at += size
    return line.found


def _digit_follows(body: str, at: int) -> bool:
    return body[at + 1 : at + 2] in DIGITS


def _bend_target(tokens: Sequence[_Token], pending: str, column: int) -> bool:
    """Whether a figure says how far the one before it is bent, or where it is let down to."""
    if not tokens or not pending:
        return False
    close = column - tokens[-1].end <= len(tokens[-1].behind) + 4
    return close and pending[-1:] in ("b", "r", "^") and set(pending) <= set("br^ 0123456789")


# --- words under our own tab ---
def _own_words(lines: Sequence[str], system: Sequence[_TabLine], in_tab: set[int]) -> list[tuple[int, str]]:
    """(column, word) of the words under a system of our own tab."""
    result: list[tuple[int, str]] = []
    number = max(row.line for row in system) + 1
    while number <= len(lines) and number not in in_tab and lines[number - 1].strip():
        words = [(match.start(), match.group()) for match in re.finditer(r"\S+", lines[number - 1])]
        if not all(_own_word(word) for _, word in words):
            break
        result += words
        number += 1
    return result


def _own_word(word: str) -> str:
    """What one of our words means; empty for none of ours."""
    if word in OWN_WORDS:
        return OWN_WORDS[word]
    if re.fullmatch(r"bell[2-9]", word):
        return f"harmonic {word[-1]}"
    size = re.fullmatch(r"(up|pre)(−?)(?:([¼½¾]|[1-3][¼½¾]?)|(\d{2,3})¢)", word)
    if not size or (size[3] and size[3] not in SIZES):
        return ""
    return f"{size[1]}{size[2]}{SIZES[size[3]] if size[3] else int(size[4]) / 100}"


# --- notes ---
def _notes(
    tokens: list[_Token], words: list[tuple[int, str]], begin_s: float, before: Sequence[Note]
) -> tuple[list[Note], float]:
    """The notes of a system from a moment on, and when it is over."""
    moments = _moments(tokens)
    last: dict[int, Note] = {note.string: note for note in before}
    notes: list[Note] = []
    now_s = begin_s
    for number, moment in enumerate(moments):
        end = moments[number + 1][0].begin if number + 1 < len(moments) else moment[0].begin + 6
        step_s = max(LEAST_STEP_S, STEP_S * (end - moment[0].begin))
        length_s = min(LONGEST_S, HELD_SHARE * step_s)
        for token in moment:
            texts = [_own_word(word) for column, word in words if column == min(other.begin for other in moment)]
            note = _note(token, now_s, length_s, last.get(token.string), texts)
            notes.append(note)
            last[token.string] = note
        now_s += step_s
    return notes, now_s


def _moments(tokens: Sequence[_Token]) -> list[list[_Token]]:
    """Figures that overlap in their columns, on strings of their own, sound together."""
    moments: list[list[_Token]] = []
    for token in sorted(tokens, key=lambda token: (token.begin, token.string)):
        if moments:
            here = moments[-1]
            overlaps = token.begin < max(other.end for other in here) and token.begin - here[0].begin < 2
            if overlaps and all(other.string != token.string for other in here):
                here.append(token)
                continue
        moments.append([token])
    return moments


def _note(token: _Token, onset_s: float, length_s: float, before: Note | None, words: Sequence[str]) -> Note:
    marks, behind = token.before, token.behind
    sounding = before is not None and onset_s - before.offset_s < 0.5
    attack = Attack.PICK
    for letter, kind in (("h", Attack.HAMMER), ("p", Attack.PULL), ("t", Attack.TAP), ("s", Attack.SLIDE)):
        if marks.endswith(letter) and (sounding or letter == "t"):
            attack = kind
    slides = marks.endswith(("/", "\\"))
    if slides and sounding and before is not None and before.fret != token.fret:
        attack = Attack.SLIDE
    note = Note(
        onset_s,
        onset_s + length_s,
        token.string,
        token.fret,
        attack,
        vibrato=Vibrato(0.3 * length_s, 5.5, 25.0) if set(behind) & set("~vw") else None,
        tone=Tone.DEAD if token.dead else Tone.NATURAL_HARMONIC if token.bracket == "<" else Tone.NORMAL,
        end=End.SLIDES_AWAY if behind.endswith(("/", "\\")) and not words else End.STOPS,
        slid_in=slides and attack is not Attack.SLIDE,
        doubt=Doubt(DoubtKind.OTHER, text="in brackets in the tab") if token.bracket == "(" else None,
        id=new_id(),
    )
    note = _bent(note, behind)
    return _as_said(note, words)


def _bent(note: Note, behind: str) -> Note:
    """A note bent as the letters behind it say: b9, b, ^, r7."""
    match = re.search(r"[b^]\s*(½|¼|\d+)?", behind)
    if match is None or note.tone is Tone.DEAD:
        return note
    to = match[1]
    size = SIZES[to] if to in ("½", "¼") else float(int(to) - note.fret) if to and int(to) > note.fret else WHOLE_STEP
    size = min(size, 6.0)
    return replace(note, curve=bent_curve(size, note.duration_s, released="r" in behind))


def _as_said(note: Note, words: Sequence[str]) -> Note:
    """A note of our own tab as its words say."""
    size = next((word for word in words if word.startswith(("up", "pre"))), "")
    if size:
        amount = float(size.lstrip("uper").replace("−", "-"))
        curve = bent_curve(amount, note.duration_s, prebent=size.startswith("pre"), released="release" in words)
        note = replace(note, curve=curve)
    attacks = {
        "hammer": Attack.HAMMER, "pull": Attack.PULL, "tap": Attack.TAP, "slide": Attack.SLIDE, "swell": Attack.SWELL,
        "again": Attack.REPICK,
    }  # fmt: skip
    for word in words:
        if word in attacks:
            note = replace(note, attack=attacks[word])
        elif word == "vibrato":
            note = replace(note, vibrato=Vibrato(0.3 * note.duration_s, 5.5, 25.0))
        elif word == "palm" and note.tone in HARMONIC_TONES:
            note = replace(note, muted=True)
        elif word.startswith("harmonic "):
            note = replace(note, tone=Tone.NATURAL_HARMONIC, partial=int(word[-1]))
        elif word in TONE_WORDS:
            note = replace(note, tone=TONE_WORDS[word])
        elif word in ("away", "choke"):
            note = replace(note, end=End.SLIDES_AWAY if word == "away" else End.CHOKED)
        elif word == "from":
            note = replace(note, slid_in=True)
        elif word == "rake":
            note = replace(note, raked=True)
    return note
