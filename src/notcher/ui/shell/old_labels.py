"""How commands were called when their keys were stored by label; kept so that those keys are not lost."""

RENAMED = {
    "Find an action…": "edit.finder",
    "Onset to the strike heard before": "onset.attack_before",
    "Onset to the strike heard next": "onset.attack_next",
    "End at the strike heard before": "end.attack_before",
    "End at the strike heard next": "end.attack_next",
    "Tap the pulse": "beat.tap",
    "Hear the selected notes": "play.selection",
    "Hear the recording": "source.recording",
    "Hear the tab": "source.tab",
    "Hear the recording left, the tab right": "source.both",
}
"""Labels that have changed since, and the ids of their commands; all others are still the labels of today."""
