"""What the commands for a terminal are called, in a sentence each."""

ABOUT = """Measured tablature: hears a guitar solo and writes it down. Without a command the window opens, with a
recording or a .notch document in it; the word demo opens the demo."""
COMMANDS = {
    "draft": "transcribe a recording, or a folder of them",
    "place": "finger the notes of an events.json: which string, which fret",
    "patterns": "show what repeats in a solo, and what each note is to the chord",
    "plan": "plan a lesson: which phrases, in which order, at which tempo, how often",
    "prove": "compare a tab with its recording, worst finding first",
    "export": "export a solo as MusicXML, MIDI, text tab, JAMS or CSV, or its sheet as PDF, SVG or PNG",
    "pack": "make a practice pack: loops, band, sheet, plan, and a page that plays them",
    "commands": "find commands of the window by your own words, with menu and keys",
    "doctor": "check what works on this machine, and what to install for the rest",
    "import": "import a text tab, MusicXML, MIDI, JAMS or events.json as a document",
}
