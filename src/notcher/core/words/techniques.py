"""What attacks, tones, ends and techniques are called."""

from notcher.core.score import Attack, End, Tone

ATTACKS = {
    Attack.PICK: "picked",
    Attack.HAMMER: "hammered",
    Attack.PULL: "pulled off",
    Attack.TAP: "tapped",
    Attack.SLIDE: "slid into",
    Attack.REPICK: "re-picked while bent",
    Attack.SWELL: "volume swell",
}
TONES = {
    Tone.NORMAL: "plain tone",
    Tone.NATURAL_HARMONIC: "natural harmonic",
    Tone.SQUEAL_HARMONIC: "pinch harmonic",
    Tone.TAPPED_HARMONIC: "tapped harmonic",
    Tone.PALM_MUTE: "palm mute",
    Tone.DEAD: "dead note",
}
ENDS = {
    End.RINGS: "let ring",
    End.STOPS: "stopped",
    End.CHOKED: "cut off",
    End.SLIDES_AWAY: "slides off",
    End.RUNS_ON: "runs on",
}
TECHNIQUES = {
    "prebend": "pre-bend",
    "slide_in": "slide in from nowhere",
    "slide_out": "slide off",
    "palm_mute": "palm mute",
    "natural_harmonic": "natural harmonic",
    "squeal_harmonic": "pinch harmonic",
    "curl": "quarter-tone bend",
    "choked": "cut off",
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
    "raked": "rake",
    "slid_in": "slides in from nowhere",
    "finger": "finger",
    "stroke": "pick stroke",
    "garnish": "optional note",
    "slip": "player's mistake",
}


def technique_name(name: str) -> str:
    """Return a technique of events.json as it is said."""
    return TECHNIQUES.get(name, name)
