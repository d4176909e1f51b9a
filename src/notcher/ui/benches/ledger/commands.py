"""The commands of the lick catalogue and of the record."""

from notcher.ui.benches.ledger.catalogue_panel import CataloguePanel
from notcher.ui.benches.ledger.ledger_bench import PAGE_COMMANDS, LedgerBench
from notcher.ui.benches.ledger.ledger_controller import LedgerController
from notcher.ui.benches.ledger.student_choice import StudentChoice
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions


def catalogue_commands(panel: CataloguePanel, preconditions: Preconditions) -> list[Command]:
    """Return what is done with the catalogue: what opens it works everywhere, the rest in it."""
    needs_row = (panel.need_found,)
    return [
        Command("catalogue.show", panel.toggle, "Ctrl+Shift+F", checked=panel.isVisible),
        Command("catalogue.like", panel.like_selected, "Ctrl+Alt+K", preconditions=(preconditions.phrase,)),
        Command("catalogue.hear", panel.hear, "Return", Scope.CATALOGUE, needs_row),
        Command("catalogue.drop", panel.drop, "Ctrl+Return", Scope.CATALOGUE, needs_row),
        Command("catalogue.source", panel.open_source, "Ctrl+Shift+Return", Scope.CATALOGUE, needs_row),
        Command("catalogue.gather", panel.ask_folder, "Ctrl+G", Scope.CATALOGUE),
        Command("catalogue.words", panel.no_example, "Ctrl+Backspace", Scope.CATALOGUE),
    ]  # fmt: skip


def ledger_commands(bench: LedgerBench, desk: LedgerController, students: StudentChoice) -> list[Command]:
    """Return what is done with the record: what is noted of a lesson works everywhere, the rest on its bench."""
    row, lesson, request = (desk.row_need,), (desk.lesson_need,), (desk.request_need,)
    pages = [
        Command(name, lambda at=at: bench.show_page(at), str(at + 1),  # type: ignore[misc]
                Scope.LEDGER, checked=lambda at=at: bench.page == at)  # type: ignore[misc]
        for at, name in enumerate(PAGE_COMMANDS)
    ]  # fmt: skip
    return [
        Command("ledger.student", students.ask, "Ctrl+Alt+A"),
        Command("ledger.give_state", desk.give_state, "Ctrl+Alt+E", preconditions=(desk.open_need,)),
        *pages,
        Command("student.new", desk.new_student, "S", Scope.LEDGER),
        Command("student.change", desk.change_student, "E", Scope.LEDGER, (desk.student_need,)),
        Command("student.delete", desk.delete_student, "Shift+Del", Scope.LEDGER, (desk.student_need,)),
        Command("student.adopt", desk.adopt, "G", Scope.LEDGER, (desk.adopt_need,)),
        Command("request.new", desk.new_request, "R", Scope.LEDGER),
        Command("request.link", desk.link, "Ctrl+L", Scope.LEDGER, (*request, desk.open_need)),
        Command("request.hours", desk.add_hours, "A", Scope.LEDGER, request),
        Command("request.done", desk.done, "D", Scope.LEDGER, request),
        Command("lesson.date", desk.plan_lesson, "P", Scope.LEDGER),
        Command("lesson.was_held", desk.held, "H", Scope.LEDGER, lesson),
        Command("ledger.open", desk.open_solo, "Return", Scope.LEDGER, (desk.solo_need,)),
        Command("ledger.change", desk.change_row, "C", Scope.LEDGER, row),
        Command("ledger.take_away", desk.take_away, "Del", Scope.LEDGER, row),
        Command("ledger.why", desk.why, "W", Scope.LEDGER),
        Command("ledger.changes", desk.ask_changes, "F", Scope.LEDGER, (desk.changes_need,)),
        Command("ledger.sheet", desk.ask_sheet, "T", Scope.LEDGER),
        Command("ledger.give_out", desk.ask_give_out),
        Command("ledger.take_in", desk.ask_take_in),
        Command("ledger.restore", desk.ask_restore),
    ]  # fmt: skip
