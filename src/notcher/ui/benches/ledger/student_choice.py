"""Choosing who is taught, from anywhere."""

from PyQt6.QtWidgets import QWidget

from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_choice


class StudentChoice:
    """Asks for one of the students, once the ledger is open."""

    def __init__(self, ledger: LedgerState, shell: Shell, parent: QWidget) -> None:
        self._ledger, self._shell, self._parent = ledger, shell, parent

    def ask(self) -> None:
        self._ledger.in_turn(self._ask)

    def _ask(self) -> None:
        students = self._ledger.book.present
        names = [student.name for student in students]
        if len(students) < 2:
            self._shell.notice("There is no student yet: S on the Students bench makes one.")
            return

        def chosen(name: str) -> None:
            self._ledger.choose(students[names.index(name)].id)
            self._shell.notice(f"{name} is taught now: marks and takes are theirs.")

        now = self._ledger.student.name
        ask_choice(self._parent, "Who is taught", "Marks and takes belong to", names, now, chosen)
