"""The Notch bench: the measured tab, the note's card and the neck, and all edits of notes."""
