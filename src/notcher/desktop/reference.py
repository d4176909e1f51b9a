"""The man page and the shell's completion, made from the commands and options as they are.

Sources: the libraries argparse-manpage and shtab read the parser itself.
"""

import shtab
from argparse_manpage.manpage import Manpage

from notcher import __version__
from notcher.terminal import parser

FILES = r""".TP
\fI~/.local/share/notcher/ledger.sqlite\fR
Students, requests, lessons, practice."""
EXIT_STATUS = """.TP
0
done
.TP
1
our fault
.TP
2
wrong use or bad input
.TP
3
a check that was asked for did not hold"""


def man_page() -> str:
    """Return the manual page, in the man macros of roff."""
    page = Manpage(parser())
    page.source, page.manual = f"Notcher {__version__}", "User Commands"
    page.description = "hears a guitar solo, writes it as measured tablature, and teaches it"
    page.add_section("FILES", ">", FILES)
    page.add_section("EXIT STATUS", ">", EXIT_STATUS)
    return f"{page}\n"


def bash_completion() -> str:
    """Return what bash completes: commands, their options, the values of those that have some, else files."""
    return f"{shtab.complete(parser(), shell='bash')}\n"
