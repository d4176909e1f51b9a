"""How well what a person types fits a command: by words in any order, parts of words, near misses and synonyms."""

from collections.abc import Sequence

import numpy as np
from rapidfuzz import fuzz, process

LEAST = 62.0
"""Of 100; what fits less is not shown. Typed with one letter wrong a word of five still reaches 80."""
LEAST_OF_ALL = 40.0
"""The same where nothing fits better: one word of two is found, the other is nowhere."""
EXACT = 1_000.0
NEAR = 78.0
"""Of 100: a word that is another one typed with a slip of the finger."""
IN_LABEL, IN_WORDS = 1.0, 0.86
"""A word in the label counts more than the same among the other words."""
SMALL_WORDS = frozenset(
    [
        "a",
        "an",
        "the",
        "to",
        "of",
        "in",
        "on",
        "at",
        "for",
        "my",
        "me",
        "it",
        "is",
        "i",
        "as",
        "and",
        "or",
        "with",
        "from",
        "this",
        "that",
        "how",
        "do",
    ]
)
SYNONYMS = {
    "measure": "bar", "riff": "phrase", "speed": "tempo", "colour": "theme", "color": "theme", "font": "text",
    "guitarist": "student", "marker": "section", "passage": "phrase", "beginner": "easy", "song": "solo",
}  # fmt: skip
"""What some say for a word that stands in the table; tried where the word itself fits nothing."""


def ranked(typed: str, entries: Sequence[tuple[str, str]]) -> list[int]:
    """Return which entries fit, by their indices, the closest first; all, in their order, if nothing is typed.

    entries: the label and the other words of each.
    """
    wanted = _words(typed)
    if not wanted:
        return list(range(len(entries)))
    exact = " ".join(wanted)
    kept = [word for word in wanted if word not in SMALL_WORDS] or wanted
    texts = [(_words(label), _words(words)) for label, words in entries]
    fits = np.array([[_fit(word, label, others) for word in kept] for label, others in texts])
    # what fits fewer commands tells more: inverse document frequency (Sparck Jones 1972)
    weights = np.log(1.0 + len(entries) / (1.0 + (fits >= LEAST).sum(axis=0)))
    scores = fits @ weights / weights.sum()
    for at, (label, others) in enumerate(texts):
        plain = " ".join(label)
        if plain == exact:
            scores[at] = EXACT
        elif scores[at] > 0:
            scores[at] += 12.0 * plain.startswith(exact) + 6.0 * (exact in plain) + 4.0 * (exact in " ".join(others))
            scores[at] += 3.0 * len(set(kept) & set(label)) / max(1, len(label))
    least = LEAST if scores.max() >= LEAST else LEAST_OF_ALL
    return [int(at) for at in np.argsort(-scores, kind="stable") if scores[at] >= least]


def _words(text: str) -> list[str]:
    clean = "".join(char if char.isalnum() or char in "#" else " " for char in text.lower().replace("-", " "))
    return clean.split()


def _fit(word: str, in_label: list[str], others: list[str]) -> float:
    """How well one typed word fits, 0..100: whole, as the beginning of a word, inside one, or nearly."""
    best = max(IN_LABEL * _nearest(word, in_label), IN_WORDS * _nearest(word, others))
    if best < LEAST and word in SYNONYMS:
        other = SYNONYMS[word]
        best = max(best, 0.95 * IN_LABEL * _nearest(other, in_label), 0.95 * IN_WORDS * _nearest(other, others))
    return best


def _stem(word: str) -> str:
    """The word without what English hangs on it: bends, bending, bended; muting is mut, which mute begins with."""
    for ending in ("ing", "ed", "es", "s"):
        if word.endswith(ending) and len(word) - len(ending) >= 3:
            return word[: -len(ending)]
    return word


def _nearest(word: str, known: list[str]) -> float:
    if word in known:
        return 100.0
    stem = _stem(word)
    if any(other == stem or other == f"{stem}s" for other in known):
        return 97.0
    if any(other.startswith(stem) for other in known):
        return 92.0
    if len(stem) >= 4 and any(stem in other or (len(other) >= 4 and stem.startswith(other)) for other in known):
        return 84.0
    if len(word) < 3 or not known:
        return 0.0
    found = process.extractOne(word, known, scorer=fuzz.ratio)
    return found[1] * 0.95 if found is not None and found[1] >= NEAR else 0.0
