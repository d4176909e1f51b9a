"""The door: a window, or a command for a terminal; nothing is loaded that is not needed.

Exit 0 done, 2 wrong use or bad input, 3 a check that was asked for did not hold, 1 our fault.
"""

import os
import sys
from collections.abc import Sequence

from notcher import __version__
from notcher.core.errors import NotcherError, fault_words
from notcher.reference import ABOUT, COMMANDS

WRONG, OURS = 2, 1
HELP = f"""usage: notcher [FILE]
       notcher COMMAND ...

{ABOUT}

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
        exit_code = _run(words)
        sys.stdout.flush()
        return exit_code
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
    if words[:1] == ["commands"]:
        from notcher.terminal import parser
        from notcher.ui.shell.listing import list_commands  # what the window's own finder says

        options = parser().parse_args(words)
        return list_commands(options.words, as_json=options.json)
    from notcher.terminal import run

    return run(words)


if __name__ == "__main__":
    sys.exit(main())
