"""What several rehearsals begin from."""

from pathlib import Path

import pytest

from hands import settled
from notcher.core.formats import Document, write_document
from notcher.core.score import Score
from notcher.core.sound import Clip
from notcher.ui.shell.program import Program


@pytest.fixture
def opened(program: Program, lick: Score, lick_clip: Clip, tmp_path: Path) -> Program:
    """The lick with its recording, reopened from a document."""
    path = tmp_path / "lick.notch"
    write_document(Document(lick, lick_clip), path)
    program.open_path(str(path))
    settled(program)
    return program
