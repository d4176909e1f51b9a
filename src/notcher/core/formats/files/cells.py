"""Cells of a CSV that a table program might run as a formula, made harmless, and back.

Source: OWASP, "CSV Injection": a cell may not begin with =, +, -, @, a tab or a carriage return; an apostrophe before
it keeps it a text.
"""

import re

RUNS = re.compile(r"'*[=+\-@\t\r]")
"""How a cell begins that is run, or that was kept from it."""


def guarded(text: str) -> str:
    """Return a text as a cell that no table program runs."""
    return f"'{text}" if RUNS.match(text) else text


def unguarded(cell: str) -> str:
    """Return the text of a cell as `guarded` made it."""
    return cell[1:] if cell.startswith("'") and RUNS.match(cell) else cell
