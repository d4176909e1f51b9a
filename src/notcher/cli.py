"""The door: a window, or a command for a terminal; nothing is loaded that is not needed.

Exit 0 done, 2 wrong use or bad input, 3 a check that was asked for did not hold, 1 our fault.
"""

import os
import sys
from collections.abc import Sequence

from notcher import __version__
from notcher.core.errors import NotcherError, fault_words

WRONG, OURS = 2, 1
COMMANDS = {
    "draft": "hear a recording and write what was heard",
    "place": "give string and fret to the notes of an events.json",
    "patterns": "what comes again in a document's solo, and what its notes are to the chords",
    "plan": "a lesson on a document's solo: what, in which order, how slowly, how often",
    "prove": "hold a document's tab against a recording, worst finding first",
    "export": "write a document as MusicXML, MIDI, text tab, JAMS or CSV, or its sheet as PDF, SVG or PNG",
    "pack": "make what a student takes home: loops, band, sheet, plan, and a page that plays them",
    "doctor": "what works on this machine, and what to install for the rest",
    "import": "make a document of a text tab, a MusicXML, a MIDI, a JAMS or an events.json",
}
HELP = f"""usage: notcher [FILE]
       notcher COMMAND ...

Measured tablature: hears a guitar solo and writes it down. Without a command the window opens, with a recording or
a .notch document in it; the word demo opens the demo.

commands:
{chr(10).join(f"  {name:8} {words}" for name, words in COMMANDS.items())}

options:
  -h, --help  show this help; "notcher COMMAND --help" tells a command's own options
  --version   show the version
"""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; every failure is one line on stderr."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    try:
        done = _run(words)
        sys.stdout.flush()
        return done
    except BrokenPipeError:  # who read along has seen enough; as Python's documentation of SIGPIPE says
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except NotcherError as problem:
        print(f"notcher: {problem}", file=sys.stderr)
        return WRONG
    except KeyboardInterrupt:
        print("notcher: Stopped; nothing was written.", file=sys.stderr)
        return WRONG
    except Exception as problem:
        print(
            f"notcher: Something went wrong inside Notcher ({fault_words(problem)}). Please report it.", file=sys.stderr
        )
        return OURS


def _run(words: list[str]) -> int:
    if words == ["--version"]:
        print(f"Notcher {__version__}")
        return 0
    if words in (["-h"], ["--help"]):
        print(HELP, end="")
        return 0
    if len(words) <= 1 and not any(word.startswith("-") or word in COMMANDS for word in words):
        from notcher.ui.shell.application import run as open_window  # the toolkit only where a window is wanted

        return open_window(words[0] if words else None)
    from notcher.terminal import run

    return run(words)


if __name__ == "__main__":
    sys.exit(main())
