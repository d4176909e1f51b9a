"""The program as tests and benchmarks see it: what is open, what is in view, what was said, and what can be run."""

from pathlib import Path

from notcher.core.formats import Document
from notcher.core.ledger import LoggedPass
from notcher.core.score import Score
from notcher.ui.benches.hear.hear_bench import HearBench
from notcher.ui.benches.hear.install import Hear
from notcher.ui.benches.ledger.install import LedgerParts
from notcher.ui.benches.notch.install import Notch
from notcher.ui.benches.notch.notch_bench import NotchBench
from notcher.ui.benches.prove.install import Prove
from notcher.ui.benches.prove.prove_bench import ProveBench
from notcher.ui.benches.shapes.install import Shapes
from notcher.ui.benches.shapes.shapes_bench import ShapesBench
from notcher.ui.benches.sheets.install import Sheets
from notcher.ui.benches.sheets.sheets_bench import SheetsBench
from notcher.ui.benches.teach.install import Teach
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.commands.registry import Registry
from notcher.ui.shell.opening import Opening
from notcher.ui.shell.window import Window
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.practice import Practice
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Bench


class ProgramFace:
    """Short ways to what is asked for most; everything else is reached through the part that has it."""

    window: Window
    session: Session
    jobs: Jobs
    practice: Practice
    commands: Registry
    opening: Opening
    hearing: Hear
    notching: Notch
    proving: Prove
    shaping: Shapes
    teaching: Teach
    printing: Sheets
    record: LedgerParts

    # --- what is open ---
    @property
    def document(self) -> Document:
        return self.session.document

    @property
    def score(self) -> Score:
        """The solo as it is in view."""
        return self.session.score

    def open(self, document: Document, path: Path | None = None) -> None:
        """Put a document in place, as if it had been read from a path."""
        self.session.open(document, path)

    def open_path(self, path: Path | str) -> None:
        """Open a document, a recording or somebody else's tab, as the File menu does."""
        self.opening.open_path(str(path))

    def saved(self) -> None:
        """Call what is open saved, so that nothing asks about it."""
        self.session.mark_saved(self.session.document, self.session.undo_stack.index())

    # --- what is in view ---
    @property
    def bench(self) -> Bench:
        return self.window.bench

    def show(self, bench: Bench) -> None:
        self.window.show_bench(bench)

    @property
    def said(self) -> str:
        """What the bar above the benches says."""
        return self.window.notices.label.text()

    @property
    def hear(self) -> HearBench:
        return self.hearing.bench

    @property
    def notch(self) -> NotchBench:
        return self.notching.bench

    @property
    def prove(self) -> ProveBench:
        return self.proving.bench

    @property
    def shapes(self) -> ShapesBench:
        return self.shaping.bench

    @property
    def teach(self) -> TeachBench:
        return self.teaching.bench

    @property
    def sheets(self) -> SheetsBench:
        return self.printing.bench

    # --- what is done ---
    @property
    def busy(self) -> bool:
        """Whether anything is done beside the window."""
        return self.jobs.busy

    @property
    def passes(self) -> list[LoggedPass]:
        """What the chosen student did of the open solo."""
        return self.practice.passes

    def run(self, command_id: str) -> None:
        """Run a command, as its menu entry does."""
        self.commands.run(command_id)

    def close(self) -> None:
        """Close the window, as its button does."""
        self.window.close()
