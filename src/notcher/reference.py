"""What the commands for a terminal are called, in a sentence each."""

ABOUT = """Measured tablature: hears a guitar solo and writes it down. Without a command the window opens, with a
recording or a .notch document in it; the word demo opens the demo."""
COMMANDS = {
    "draft": "hear a recording and write what was heard",
    "place": "give string and fret to the notes of an events.json",
    "patterns": "what comes again in a document's solo, and what its notes are to the chords",
    "plan": "a lesson on a document's solo: what, in which order, how slowly, how often",
    "prove": "hold a document's tab against a recording, worst finding first",
    "export": "write a document as MusicXML, MIDI, text tab, JAMS or CSV, or its sheet as PDF, SVG or PNG",
    "pack": "make what a student takes home: loops, band, sheet, plan, and a page that plays them",
    "commands": "what the window's finder finds for some words: every command with its menu and keys",
    "doctor": "what works on this machine, and what to install for the rest",
    "import": "make a document of a text tab, a MusicXML, a MIDI, a JAMS or an events.json",
}
