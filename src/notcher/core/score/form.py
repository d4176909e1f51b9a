"""Edits of a solo's form: phrases, their borders, sections around them."""

from dataclasses import replace

from notcher.core.score.score import EDGE_S, Phrase, Score, Section

SHORTEST_PHRASE_S = 0.1  # shorter holds no note


def with_phrase_near(score: Score, phrase: Phrase, fret: int | None) -> Score:
    """Wish a phrase to be played around a fret, or nowhere in particular."""
    return with_phrase(score, replace(phrase, near_fret=fret))


def with_phrase(score: Score, phrase: Phrase) -> Score:
    """Return the score with a phrase added, or in place of the one with its id; others give way where they overlap.

    A phrase that would be covered whole goes; one that lies on both sides keeps its beginning.
    """
    phrases = []
    for other in score.phrases:
        if other.id == phrase.id:
            continue
        if other.end_s <= phrase.start_s + EDGE_S or other.start_s >= phrase.end_s - EDGE_S:
            phrases.append(other)
        elif other.start_s < phrase.start_s - EDGE_S:
            phrases.append(replace(other, end_s=phrase.start_s))
        elif other.end_s > phrase.end_s + EDGE_S:
            phrases.append(replace(other, start_s=phrase.end_s))
    return replace(score, phrases=tuple(sorted((*phrases, phrase), key=lambda other: other.start_s)))


def with_section(score: Score, section: Section) -> Score:
    """Return the score with a section added, or in place of the one with its id."""
    sections = [other for other in score.sections if other.id != section.id]
    return replace(score, sections=tuple(sorted((*sections, section), key=lambda other: other.start_s)))


def without_section(score: Score, section_id: str) -> Score:
    """Return the score without a section; its phrases stay, and what repeated it stands for itself."""
    sections = (section for section in score.sections if section.id != section_id)
    alone = (replace(other, repeats="") if other.repeats == section_id else other for other in sections)
    return replace(score, sections=tuple(alone))


def with_border(score: Score, phrase_id: str, *, start_s: float | None = None, end_s: float | None = None) -> Score:
    """Return the score with a phrase that begins or ends at another time; one that adjoins it there goes along.

    Raises: ValueError when the phrase is gone, or would be shorter than `SHORTEST_PHRASE_S`.
    """
    phrase = _known(score, phrase_id)
    start_s = phrase.start_s if start_s is None else max(0.0, start_s)
    end_s = phrase.end_s if end_s is None else end_s
    if end_s - start_s < SHORTEST_PHRASE_S:
        raise ValueError("a phrase ends after it begins")
    adjoining = []
    for other in score.phrases:
        if other.id == phrase_id:
            continue
        if abs(other.end_s - phrase.start_s) <= EDGE_S and start_s - other.start_s >= SHORTEST_PHRASE_S:
            other = replace(other, end_s=start_s)
        elif abs(other.start_s - phrase.end_s) <= EDGE_S and other.end_s - end_s >= SHORTEST_PHRASE_S:
            other = replace(other, start_s=end_s)
        adjoining.append(other)
    around = replace(score, phrases=(*adjoining, phrase))
    return with_phrase(around, replace(phrase, start_s=start_s, end_s=end_s))


def split_phrase(score: Score, phrase_id: str, at_s: float, name: str) -> Score:
    """Return the score with a phrase cut in two; the first part keeps the id, the second is called by a name.

    Raises: ValueError when the phrase is gone, or a part would be too short.
    """
    phrase = _known(score, phrase_id)
    if min(at_s - phrase.start_s, phrase.end_s - at_s) < SHORTEST_PHRASE_S:
        raise ValueError("select a note inside the phrase: it is cut before that note")
    first, second = replace(phrase, end_s=at_s), replace(phrase, start_s=at_s, name=name, id="")
    return with_phrase(with_phrase(score, first), second)


def joined_phrases(score: Score, phrase_id: str) -> Score:
    """Return the score with a phrase and the next one as one; it keeps the name and the id of the earlier.

    Raises: ValueError when the phrase is gone, or none follows.
    """
    phrase = _known(score, phrase_id)
    following = [other for other in score.phrases if other.start_s >= phrase.end_s - EDGE_S]
    if not following:
        raise ValueError("no phrase follows this one")
    return with_phrase(score, replace(phrase, end_s=following[0].end_s))


def without_phrase(score: Score, phrase_id: str) -> Score:
    """Return the score without a phrase and the variants of it; its notes stay."""
    return replace(
        score,
        phrases=tuple(phrase for phrase in score.phrases if phrase.id != phrase_id),
        variants=tuple(variant for variant in score.variants if variant.phrase != phrase_id),
    )


def with_phrases(score: Score, proposed: tuple[Phrase, ...]) -> Score:
    """Return the score with other phrases; one that begins and ends as before keeps its id, its name and its wishes."""
    sections = []
    for phrase in proposed:
        same = [
            other
            for other in score.phrases
            if max(abs(other.start_s - phrase.start_s), abs(other.end_s - phrase.end_s)) <= EDGE_S
        ]
        sections.append(same[0] if same else phrase)
    ids = {phrase.id for phrase in sections}
    return replace(
        score, phrases=tuple(sections), variants=tuple(variant for variant in score.variants if variant.phrase in ids)
    )


def free_name(score: Score, name: str) -> str:
    """Return a name for what is cut off a phrase: its own with the next number that no phrase has."""
    base = name.rstrip("0123456789").rstrip() or "Phrase"
    used = {phrase.name for phrase in score.phrases}
    return next(text for number in range(2, len(used) + 3) if (text := f"{base} {number}") not in used)


def _known(score: Score, phrase_id: str) -> Phrase:
    phrase = score.phrase_of(phrase_id)
    if phrase is None:
        raise ValueError("this phrase is not there any more")
    return phrase
