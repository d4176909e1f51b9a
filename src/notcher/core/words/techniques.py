"""What attacks, tones, ends and techniques are called."""

from notcher.core.score import Attack, End, Tone

ATTACKS = {
    Attack.PICK: "picked",
    Attack.HAMMER: "hammered",
    Attack.PULL: "pulled off",
    Attack.TAP: "tapped",
    Attack.SLIDE: "slid into",
    Attack.REPICK: "struck again while bent",
    Attack.SWELL: "faded in",
}
TONES = {
    Tone.NORMAL: "plain tone",
    Tone.NATURAL_HARMONIC: "natural harmonic",
    Tone.SQUEAL_HARMONIC: "squeal harmonic",
    Tone.TAPPED_HARMONIC: "tapped harmonic",
    Tone.PALM_MUTE: "palm mute",
    Tone.DEAD: "dead note",
}
ENDS = {
    End.RINGS: "rings on",
    End.STOPS: "damped",
    End.CHOKED: "choked",
    End.SLIDES_AWAY: "slides away",
    End.RUNS_ON: "runs on",
}
TECHNIQUES = {
    "prebend": "pre-bend",
    "slide_in": "slid in",
    "slide_out": "slides away",
    "palm_mute": "palm mute",
    "natural_harmonic": "natural harmonic",
    "squeal_harmonic": "squeal harmonic",
    "tapped_harmonic": "tapped harmonic",
    "unison_bend": "unison bend",
    "oblique_bend": "oblique bend",
    "double_stop": "double stop",
}
"""Names of events.json that are written otherwise in a sentence."""
FIELDS = {
    "attack": "attack",
    "end": "end",
    "tone": "tone",
    "raked": "raked into",
    "slid_in": "slid in from no fret",
    "finger": "finger",
    "stroke": "pick stroke",
    "garnish": "garnish",
    "slip": "slip",
}


def technique_name(name: str) -> str:
    """Return a technique of events.json as it is said."""
    return TECHNIQUES.get(name, name)
