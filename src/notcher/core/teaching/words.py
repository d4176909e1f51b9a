"""What the rung board is called and said, in words."""

from notcher.core.teaching.rungs import BoardRow


def row_name(row: BoardRow) -> str:
    """Return a row's name: the phrase's, or both of a join."""
    return " + ".join(phrase.name for phrase in row.phrases)
