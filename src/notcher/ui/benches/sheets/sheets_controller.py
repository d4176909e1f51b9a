"""Lays the sheet out beside the window, keeps each student's choices, writes and prints the pages."""

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from threading import Lock

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtGui import QPainter
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, NotcherError, Progress
from notcher.core.formats import FileError
from notcher.core.ledger import NOBODY_ID
from notcher.core.sheets import Page, PageMaker, SheetChoices, kept_choices, told_choices
from notcher.core.words import USUAL, Naming, many
from notcher.painting.sheet_picture import MM_PER_INCH, page_layout, paint_page, write_sheet
from notcher.ui.benches.sheets.sheets_bench import SheetsBench
from notcher.ui.state.jobs import Jobs, Work
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_file_to_write

WAIT_MS = 60
"""An edit that is being typed or dragged is laid out once it rests so long."""


class SheetsController(QObject):
    """Follows the solo, the student and the choices while the bench is in view."""

    def __init__(
        self,
        session: Session,
        ledger: LedgerState,
        bench: SheetsBench,
        jobs: Jobs,
        shell: Shell,
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self._session, self._ledger, self._bench, self._jobs = session, ledger, bench, jobs
        self._shell, self._parent = shell, parent
        self._naming, self._student_id = USUAL, ""
        self._maker, self._one_at_a_time = PageMaker(), Lock()
        self._stale = True
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(WAIT_MS)
        self._wait.timeout.connect(self._lay_out)
        session.opened.connect(self.refresh)
        session.score_changed.connect(self.refresh)
        ledger.changed.connect(self._on_ledger_changed)
        bench.panel.changed.connect(self._on_chosen)
        bench.print_button.clicked.connect(self.ask_print)
        bench.write_button.clicked.connect(lambda: self.ask_write(".pdf"))

    # --- what is wanted ---
    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.refresh()

    def _on_ledger_changed(self) -> None:
        """Show the choices of who is taught now."""
        student = self._ledger.student
        text = "Sheets for nobody in particular" if student.id == NOBODY_ID else f"Sheets for {student.name}"
        self._bench.panel.show_student(text)
        choices = kept_choices(student.sheets)
        if choices != self._bench.panel.choices or student.id != self._student_id:
            self._student_id = student.id
            self._bench.panel.show_choices(choices)
            self.refresh()

    def _on_chosen(self, choices: SheetChoices) -> None:
        """Keep what was chosen for who is taught."""
        stored = json.dumps(told_choices(choices)) if choices != SheetChoices() else ""
        self._ledger.note(replace(self._ledger.student, sheets=stored))
        self.refresh()

    @property
    def _student_name(self) -> str:
        student = self._ledger.student
        return "" if student.id == NOBODY_ID else student.name

    # --- laying out ---
    def refresh(self) -> None:
        """Lay the sheet out anew, at once if it is looked at, else when it will be."""
        self._stale = True
        if self._bench.isVisible():
            self._wait.start()

    def show(self) -> None:
        """The bench came into view."""
        self._on_ledger_changed()
        if self._stale:
            self._wait.start()  # once the bench itself is painted: beside the work each of its events waits

    def _work(self) -> Work:
        """What lays out the sheet as it is wanted now, for a job."""
        score, choices = self._session.document.score, self._bench.panel.choices
        naming, name = self._naming, self._student_name

        def work(progress: Progress, cancelled: CancelCheck) -> tuple[Page, ...]:
            with self._one_at_a_time:
                return self._maker.pages(score, choices, naming, student=name, progress=progress, cancelled=cancelled)

        return work

    def _lay_out(self) -> None:
        self._stale = False

        def done(pages: tuple[Page, ...]) -> None:
            self._bench.view.show_pages(pages)
            shown = len({index for page in pages for index in page.indices})
            self._bench.show_made(many(shown, "note"))

        def failed(problem: Exception) -> None:
            if not isinstance(problem, NotcherError):
                self._shell.tell_failure(problem)
            self._bench.view.say(str(problem) if isinstance(problem, NotcherError) else "There is no sheet.")
            self._bench.show_made("")

        document = self._session.document.id
        self._jobs.start("sheets", self._work(), finished=done, failed=failed, document_id=document)

    def _with_pages(self, then: Callable[[tuple[Page, ...]], None]) -> None:
        """Go on with the sheet as it is now: what is shown, if that is it, else once it is laid out."""
        shown = self._bench.view.pages
        if shown and not self._stale and not self._jobs.runs("sheets"):
            then(shown)
        else:
            self._shell.run_job("Laying out the sheet", self._work(), then, document_id=self._session.document.id)

    # --- giving out ---
    def ask_write(self, ending: str) -> None:
        """Ask where to write the sheet."""
        name = self._session.score.title or "untitled"
        name = f"{name[:80]} for {self._student_name}" if self._student_name else name[:80]

        def chosen(path: str) -> None:
            whole = path if path.lower().endswith(ending) else f"{path}{ending}"
            self._with_pages(lambda pages: self._write(pages, whole))

        ask_file_to_write(self._parent, "Write the sheet", f"{name.replace('/', ' ')}{ending}", f"*{ending}", chosen)

    def _write(self, pages: tuple[Page, ...], path: str) -> None:
        try:
            files = write_sheet(pages, path, self._session.score.title)
        except FileError as problem:
            self._shell.notice(str(problem))
            return
        first = Path(files[0])
        more = f" and {many(len(files) - 1, 'file')} more" if len(files) > 1 else ""
        self._shell.notice(f"{many(len(pages), 'page')} written: “{first.name}”{more} in {first.parent}.")

    def ask_print(self) -> None:
        """Ask which printer takes the sheet."""
        self._with_pages(self._ask_printer)

    def _ask_printer(self, pages: tuple[Page, ...]) -> None:
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setDocName(self._session.score.title[:100] or "Notcher")
        printer.setPageLayout(page_layout(pages[0]))
        dialog = QPrintDialog(printer, self._parent)
        dialog.setWindowTitle("Print the sheet")
        dialog.accepted.connect(lambda: self._print(printer, pages))
        dialog.open()

    def _print(self, printer: QPrinter, pages: tuple[Page, ...]) -> None:
        painter = QPainter()
        if not painter.begin(printer):
            self._shell.notice("The printer does not answer. Choose another one, or write the sheet as PDF.")
            return
        scale = printer.resolution() / MM_PER_INCH
        for number, page in enumerate(pages):
            if number:
                printer.newPage()
            painter.resetTransform()
            painter.scale(scale, scale)
            paint_page(painter, page)
        painter.end()
        self._shell.notice(f"{many(len(pages), 'page')} went to the printer.")
