"""What proving found, in sentences."""

from notcher.core.proving import Finding, ListedDoubt, Mention, MissedNote, Status
from notcher.core.score import (
    CARELESS_SEMITONES,
    LEGATO_ATTACKS,
    Aside,
    Excluded,
    Note,
    Score,
    Vibrato,
    between_sizes,
    snapped_bend,
)
from notcher.core.words.bends import bend_goal, bend_name, sounding_fret
from notcher.core.words.doubts import doubt_words
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import figure
from notcher.core.words.pitches import note_name, place_name
from notcher.core.words.techniques import ATTACKS
from notcher.core.words.times import clock, late_words


def verdict_words(finding: Finding, score: Score, naming: Naming = USUAL) -> str:
    """Return what a finding says of its note. score: the one that was proved."""
    note = score.notes[finding.index]
    besides = [mention for mention in finding.mentions if mention not in (Mention.RELEASED, Mention.HELD)]
    texts = [_status_words(finding, note, score, naming)]
    return "; ".join([*texts, *(_mention_words(mention, finding, note, naming) for mention in besides)])


def _status_words(finding: Finding, note: Note, score: Score, naming: Naming) -> str:
    if finding.status is Status.PITCH:
        return _pitch_words(finding, note, score, naming)
    if finding.status is Status.BEND:
        return _bend_words(finding, note, naming)
    if finding.status is Status.ONSET:
        return _onset_words(finding)
    if finding.status is Status.ATTACK:
        return _attack_words(finding, note)
    return "agrees" if finding.status is Status.AGREES else "was not heard"


def _pitch_words(finding: Finding, note: Note, score: Score, naming: Naming) -> str:
    frets = round(((finding.measured_cents or 0.0) - finding.claimed_cents) / 100)
    sounds = note_name(score.sounding_midi(note) + frets, naming, score.sounding_key_at(note.onset_s))
    return f"sounds like fret {note.fret + frets} ({sounds}); the tab says {note.fret}"


def _bend_words(finding: Finding, note: Note, naming: Naming) -> str:
    aim, top = finding.claimed_cents / 100, (finding.measured_cents or 0.0) / 100
    if abs(aim) < CARELESS_SEMITONES:
        size = "" if between_sizes(top) else f" ({bend_name(top, naming)})"
        return f"is bent by {top * 100:.0f} cents{size}; the tab says no bend"
    if Mention.RELEASED in finding.mentions:
        return "is released; the tab has no release"
    if Mention.HELD in finding.mentions:
        return "stays bent; the tab has a release"
    short = abs(aim) - abs(top)
    way, beyond = ("stops", "short of") if short > 0 else ("goes", "beyond")
    sounding, claim = sounding_fret(note.fret + top), sounding_fret(note.fret + snapped_bend(aim))
    text = f"{way} {abs(short) * 100:.0f} cents {beyond} {bend_goal(aim, naming)}"
    if sounding == claim:  # so little apart that no fret tells them from each other
        return text
    like = "like " if sounding.startswith("fret") else ""
    return f"{text}: {like}{sounding}; the tab says {claim}"


def _onset_words(finding: Finding) -> str:
    late_ms = finding.onset_error_ms or 0.0
    return f"begins {abs(late_ms):.0f} ms {'later' if late_ms > 0 else 'earlier'} than written"


def _attack_words(finding: Finding, note: Note) -> str:
    if finding.heard_attack is None:
        return "was not picked here: its pitch was sounding already"
    verb = "was picked" if note.attack in LEGATO_ATTACKS else "was slurred"
    return f"{verb}; the tab says {ATTACKS[note.attack]}"


def _mention_words(mention: Mention, finding: Finding, note: Note, naming: Naming) -> str:
    if mention is Mention.STARTS_OFF:
        above = finding.reached[0].measured_cents - finding.reached[0].claimed_cents
        return f"starts {abs(above):.0f} cents {'above' if above > 0 else 'below'} the written pitch"
    if mention is Mention.VIBRATO_UNCLAIMED and finding.vibrato is not None:
        return f"a vibrato of {vibrato_words(finding.vibrato, naming)} was heard; the tab has none"
    return {
        Mention.SOFT: "soft under the band",
        Mention.NO_OWN_ATTACK: "no attack of its own was heard through the band",
        Mention.MAYBE_ATTACK: f"maybe {_attack_words(finding, note)}",
    }.get(mention, "no vibrato was heard")


def vibrato_words(wave: Vibrato, naming: Naming = USUAL) -> str:
    """Return a vibrato's rate and width."""
    return f"{figure(wave.rate_hz, 1, naming=naming)} Hz, ±{wave.extent_cents:.0f} cents"


def unwritten_words(unwritten: MissedNote, score: Score, naming: Naming = USUAL) -> str:
    """Return what is to be said of a note that is not in the tab."""
    key = score.sounding_key_at(unwritten.onset_s)
    return f"{note_name(unwritten.fretted_midi, naming, key)} was played but is not in the tab"


EXCLUDED = {
    Aside.SAID: "was heard and is not the solo's",
    Aside.RINGS_ON: "is taken for an echo or a string that rings on",
    Aside.OFF_NECK: "lies off this neck",
    Aside.BAND: "is taken for the band",
}


def excluded_words(excluded: Excluded, score: Score, naming: Naming = USUAL) -> str:
    """Return what is to be said of something that is not held to be the solo's."""
    key = score.sounding_key_at(excluded.onset_s)
    return f"{note_name(excluded.midi, naming, key)} {EXCLUDED[excluded.why]}"


def row_place(row: ListedDoubt, score: Score, naming: Naming = USUAL) -> str:
    """Return where a row of the list of doubts is written."""
    if row.finding is None:
        return "not written"
    note = score.notes[row.finding.index]
    return place_name(score.tuning, note.string, note.fret, naming)


def row_words(row: ListedDoubt, score: Score, naming: Naming = USUAL) -> str:
    """Return what a row of the list of doubts says."""
    if row.unwritten is not None:
        return unwritten_words(row.unwritten, score, naming)
    if row.excluded is not None:
        return excluded_words(row.excluded, score, naming)
    if row.finding is None:
        return ""
    texts = [] if row.finding.status is Status.AGREES and row.doubt else [verdict_words(row.finding, score, naming)]
    texts += [doubt_words(row.doubt, score.tuning, naming)] if row.doubt is not None else []
    return "; ".join(texts)


def finding_facts(finding: Finding, score: Score, naming: Naming = USUAL) -> str:
    """Return claimed and measured side by side, a line each: the pitch, the onset, the vibrato, the phrase."""
    note = score.notes[finding.index]
    lines = []
    if finding.reached:
        parts = [f"{r.where} {r.claimed_cents:.0f} → {r.measured_cents:.0f}" for r in finding.reached]
        lines.append("Written → measured, in cents: " + ", ".join(parts))
    if finding.onset_error_ms is not None:
        lines.append(f"Onset: {late_words(finding.onset_error_ms / 1000)}")
    if note.vibrato is not None or finding.vibrato is not None:
        claim, measured = (
            vibrato_words(wave, naming) if wave is not None else "none" for wave in (note.vibrato, finding.vibrato)
        )
        lines.append(f"Vibrato: claimed {claim}; heard {measured}")
    phrase = score.phrase_at(note.onset_s)
    if phrase is not None:
        lines.append(f"In “{phrase.name}”, {clock(phrase.start_s, naming)} to {clock(phrase.end_s, naming)}")
    return "\n".join(lines)
