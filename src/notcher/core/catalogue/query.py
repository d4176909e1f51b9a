"""What is searched for, read from a line in a guitarist's words: "A minor pentatonic bends fast around fret 12".

Words that are not understood are looked for in names; nothing that was typed is passed over silently.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from notcher.core.catalogue.features import ROOTS
from notcher.core.score import SCALES
from notcher.core.theory import ChordError, chord_tones

FAST, SLOW = 7.0, 4.0  # notes a second (common practice, no source)
AROUND = 2  # frets on each side
TECHNIQUE_WORDS: dict[str, tuple[str, ...]] = {
    "bend": ("bend", "bends", "bent", "bending"),
    "prebend": ("prebend", "prebends", "pre-bend", "pre-bends"),
    "release": ("release", "releases", "released"),
    "vibrato": ("vibrato", "vibratos"),
    "slide": ("slide", "slides", "slid", "sliding"),
    "hammer": ("hammer", "hammers", "hammer-on", "hammer-ons", "hammered"),
    "pull": ("pull", "pulls", "pull-off", "pull-offs", "pulled"),
    "tap": ("tap", "taps", "tapped", "tapping"),
    "trill": ("trill", "trills"),
    "rake": ("rake", "rakes", "raked"),
    "palm_mute": ("muted", "palm-mute", "palm-muted"),
    "natural_harmonic": ("harmonic", "harmonics"),
    "tapped_harmonic": ("harmonic", "harmonics", "tapped"),
    "squeal_harmonic": ("squeal", "squeals"),
    "double_stop": ("double-stop", "double-stops", "doublestops"),
    "unison_bend": ("unison", "unisons"),
    "curl": ("curl", "curls"),
}
LEGATO = frozenset({"hammer", "pull"})
TECHNIQUES = {word: name for name, words in TECHNIQUE_WORDS.items() for word in words}
ORDINALS = {"first": "1", "second": "2", "third": "3", "fourth": "4", "fifth": "5", "sixth": "6", "seventh": "7"}
ROMANS = {"i": "1", "ii": "2", "iii": "3", "iv": "4", "v": "5", "vi": "6", "vii": "7"}
DEGREE = re.compile(r"[b#]?(?:1[13]|[1-79])")
DEGREE_NAMES = {
    "2": "9", "b2": "b9", "4": "11", "6": "13", "b6": "b13", "#5": "b13", "#4": "b5", "#11": "b5", "#9": "b3",
    "#2": "b3", "#1": "b9", "#6": "b7",
}  # fmt: skip
"""By which name of `theory.DEGREES` a degree is kept."""
NUMBER = re.compile(r"(\d+(?:\.\d+)?)(?:st|nd|rd|th)?")
IGNORED = frozenset(
    ("a", "an", "the", "and", "with", "of", "at", "in", "on", "notes", "note", "lick", "licks", "phrase", "phrases",
     "per", "second", "than", "key")
)  # fmt: skip
NEGATIONS = frozenset({"no", "without", "not"})


@dataclass(frozen=True, slots=True)
class Query:
    """What is asked of a phrase; None and empty: nothing. fret: around which the hand sits. text: in its names.

    degrees: all of them. techniques, without: all of them, none of them. functions: roots over the tonic, any of them.
    """

    tonic: int | None = None
    scale: str = ""
    degrees: frozenset[str] = frozenset()
    techniques: frozenset[str] = frozenset()
    without: frozenset[str] = frozenset()
    legato: bool = False
    fret: int | None = None
    least_per_s: float | None = None
    most_per_s: float | None = None
    functions: frozenset[str] = frozenset()
    chord: str = ""
    text: tuple[str, ...] = ()

    @property
    def empty(self) -> bool:
        return self == Query()


@dataclass
class _Reader:
    """Reads a line word by word; `at` is the next word."""

    words: list[str]
    at: int = 0
    found: dict[str, object] = field(default_factory=dict)
    degrees: set[str] = field(default_factory=set)
    techniques: set[str] = field(default_factory=set)
    without: set[str] = field(default_factory=set)
    functions: set[str] = field(default_factory=set)
    text: list[str] = field(default_factory=list)

    def peek(self, ahead: int = 0) -> str:
        return self.words[self.at + ahead] if self.at + ahead < len(self.words) else ""

    def read(self) -> Query:
        while self.at < len(self.words):
            word_count = next((count for step in self.steps() if (count := step())), 0)
            if not word_count:
                if self.peek().lower() not in IGNORED:
                    self.text.append(self.peek().lower())
                word_count = 1
            self.at += word_count
        return Query(
            degrees=frozenset(self.degrees),
            techniques=frozenset(self.techniques),
            without=frozenset(self.without),
            functions=frozenset(self.functions),
            text=tuple(self.text),
            **self.found,  # type: ignore[arg-type]
        )

    def steps(self) -> tuple[Callable[[], int], ...]:
        """What a word may be, the most telling first; each says how many words it has taken."""
        return (self.over, self.position, self.speed, self.technique, self.scale_words, self.key, self.some_degrees)

    def over(self) -> int:
        """ "over the fourth", "over IV", "over A7", "over 8 a second"."""
        if self.peek().lower() not in ("over", "under"):
            return 0
        skip = 2 if self.peek(1).lower() == "the" else 1
        word = self.peek(skip)
        if NUMBER.fullmatch(word) and word[-1].isdigit():
            name = "least_per_s" if self.peek().lower() == "over" else "most_per_s"
            self.found[name] = float(word)
            return skip + 1 + self._unit(skip + 1)
        if self.peek().lower() == "under":
            return 0
        number = ORDINALS.get(word.lower()) or ROMANS.get(word.lower().lstrip("b#"))
        if number:
            sign = word[0] if word[0] in "b#" else ""
            if sign + number in ROOTS:
                self.functions.add(sign + number)
                return skip + 1
        try:
            chord_tones(word)
        except ChordError:
            return 0
        self.found["chord"] = word
        return skip + 1

    def _unit(self, at: int) -> int:
        """How many words say "notes a second"."""
        words = [self.peek(at + ahead).lower() for ahead in range(3)]
        units = (["notes", "a", "second"], ["notes", "per", "second"], ["a", "second"], ["per", "second"], ["notes"])
        return next((len(unit) for unit in units if words[: len(unit)] == unit), 0)

    def position(self) -> int:
        """ "fret 12", "12th fret", "position 5", "around 12"."""
        first, second = self.peek().lower(), self.peek(1).lower()
        number = NUMBER.fullmatch(second)
        if first in ("fret", "position", "around") and number:
            self.found["fret"] = int(float(number[1]))
            return 2
        if first == "around" and second in ("fret", "the") and (number := NUMBER.fullmatch(self.peek(2))):
            self.found["fret"] = int(float(number[1]))
            return 4 if self.peek(3).lower() == "fret" else 3
        number = NUMBER.fullmatch(first)
        if number and second in ("fret", "position"):
            self.found["fret"] = int(float(number[1]))
            return 2
        return 0

    def speed(self) -> int:
        word = self.peek().lower()
        if word in ("fast", "quick"):
            self.found.setdefault("least_per_s", FAST)
            return 1
        if word == "slow":
            self.found.setdefault("most_per_s", SLOW)
            return 1
        return 0

    def technique(self) -> int:
        word = self.peek().lower()
        negated = word in NEGATIONS
        if negated:
            word = self.peek(1).lower()
        if word == "legato" and not negated:
            self.found["legato"] = True
            return 1
        name = TECHNIQUES.get(word)
        if name is None:
            return 0
        (self.without if negated else self.techniques).add(name)
        return 2 if negated else 1

    def scale_words(self) -> int:
        """A scale by its name alone; "minor" and "major" as natural ones."""
        for count in (2, 1):
            text = " ".join(self.peek(ahead).lower() for ahead in range(count)).strip()
            name = {"minor": "natural minor", "pentatonic": "minor pentatonic"}.get(text, text)
            if text and name in SCALES:
                self.found["scale"] = name
                return count
        return 0

    def key(self) -> int:
        """A tonic, where a scale or the line's end follows: "A", "F# dorian"."""
        word = self.peek()
        if not re.fullmatch(r"[A-G][b#♭♯]?m?", word):
            return 0
        minor = word.endswith("m")
        tonic = word.removesuffix("m").replace("♭", "b").replace("♯", "#")
        self.found["tonic"] = chord_tones(tonic).root
        if minor:
            self.found["scale"] = "natural minor"
        return 1

    def some_degrees(self) -> int:
        """ "degrees 1 b3 5", or what can be nothing else: b3, #11."""
        if self.peek().lower() in ("degree", "degrees"):
            count = 1
            while DEGREE.fullmatch(self.peek(count)):
                self._degree(self.peek(count))
                count += 1
            return count
        if DEGREE.fullmatch(self.peek()) and (self.peek()[0] in "b#" or self._beside_degree()):
            self._degree(self.peek())
            return 1
        return 0

    def _beside_degree(self) -> bool:
        """Whether a plain number stands next to another degree."""
        before = self.words[self.at - 1] if self.at else ""
        return any(DEGREE.fullmatch(word) is not None for word in (before, self.peek(1)))

    def _degree(self, word: str) -> None:
        self.degrees.add(DEGREE_NAMES.get(word, word))


def query_from_text(line: str) -> Query:
    """Read a search line. Every word that is nothing else is looked for in the names."""
    return _Reader(line.replace(",", " ").split()).read()


def minor_or_major(scale: str) -> frozenset[str]:
    """Return the scales that a guitarist would take for one: a pentatonic is found by its whole scale, and back."""
    families = (
        {"natural minor", "minor pentatonic", "blues"},
        {"major", "major pentatonic"},
    )
    return frozenset(next((family for family in families if scale in family), {scale}))
