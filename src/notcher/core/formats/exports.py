"""What a score can be written as; the file's ending chooses."""

import os
from collections.abc import Callable
from pathlib import Path

from notcher.core.formats.atomic import FileError, atomic_write
from notcher.core.formats.musicxml import musicxml_text
from notcher.core.formats.texttab import text_tab
from notcher.core.score import Score

EXPORTS: dict[str, tuple[str, Callable[[Score], str]]] = {
    ".txt": ("Text tab", text_tab),
    ".musicxml": ("MusicXML 4.0", musicxml_text),
}


def export(score: Score, path: str | os.PathLike[str]) -> None:
    """Write a score in the format that the file's ending names.

    Raises: FileError for an unknown ending or when it cannot be written.
    """
    ending = Path(path).suffix.lower()
    if ending not in EXPORTS:
        raise FileError(
            f"Notcher cannot write {ending or 'a file without an ending'!r}.", f"Use one of {', '.join(EXPORTS)}."
        )
    text = EXPORTS[ending][1](score)
    with atomic_write(path) as stream:
        stream.write(text.encode("utf-8"))
