"""What MusicXML calls things (W3C, "MusicXML 4.0", 2021), and what we write where it has no word for one.

What a program may add of its own stands in `miscellaneous-field`, what a player does in `other-technical`.
"""

PHRASE, KEY, CENTS = "phrase", "key", "cents from A = 440 Hz"
"""Miscellaneous fields: where a phrase begins and ends, quarters from bar 1, and its name; tonic and scale."""
CHOKED, RAKE, STRUCK_AGAIN, FADED_IN, TAPPED = "choked", "rake", "struck again", "faded in", "tapped harmonic"
"""Other techniques."""

KINDS = {
    "major": "", "minor": "m", "augmented": "aug", "diminished": "dim", "dominant": "7", "major-seventh": "maj7",
    "minor-seventh": "m7", "diminished-seventh": "dim7", "half-diminished": "m7b5", "major-minor": "mmaj7",
    "major-sixth": "6", "minor-sixth": "m6", "dominant-ninth": "9", "major-ninth": "maj9", "minor-ninth": "m9",
    "dominant-11th": "11", "dominant-13th": "13", "suspended-second": "sus2", "suspended-fourth": "sus4", "power": "5",
}  # fmt: skip
"""Our symbol for a kind of MusicXML (its type kind-value)."""
