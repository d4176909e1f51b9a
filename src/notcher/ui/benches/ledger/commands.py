"""The commands of the lick catalogue and of the record."""

from notcher.ui.benches.ledger.catalogue_panel import CataloguePanel
from notcher.ui.benches.ledger.ledger_bench import PAGES, LedgerBench
from notcher.ui.benches.ledger.ledger_controller import LedgerController
from notcher.ui.benches.ledger.student_choice import StudentChoice
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions

MENU = "View/Lick catalogue"


def catalogue_commands(panel: CataloguePanel, preconditions: Preconditions) -> list[Command]:
    """Return what is done with the catalogue: what opens it works everywhere, the rest in it."""
    needs_row = (panel.need_found,)
    return [
        Command("catalogue.show", "Open the lick catalogue", panel.toggle, MENU, "Ctrl+Shift+F",
                "find search phrase library all solos", checked=panel.isVisible),
        Command("catalogue.like", "Find licks like this phrase", panel.like_selected, MENU, "Ctrl+Alt+K",
                "search similar same catalogue example", preconditions=(preconditions.phrase,)),
        Command("catalogue.hear", "Hear the lick found", panel.hear, MENU, "Return", "play listen catalogue",
                Scope.CATALOGUE, needs_row),
        Command("catalogue.drop", "Drop the lick found in at the playhead", panel.drop, MENU, "Ctrl+Return",
                "paste insert catalogue", Scope.CATALOGUE, needs_row),
        Command("catalogue.source", "Open the solo the lick comes from", panel.open_source, MENU, "Ctrl+Shift+Return",
                "document where catalogue", Scope.CATALOGUE, needs_row),
        Command("catalogue.gather", "Gather a folder into the catalogue…", panel.ask_folder, MENU, "Ctrl+G",
                "collect documents index", Scope.CATALOGUE),
        Command("catalogue.words", "Look by words alone", panel.no_example, MENU, "Ctrl+Backspace", "example forget",
                Scope.CATALOGUE),
    ]  # fmt: skip


LEDGER_MENU = "Ledger"


def ledger_commands(bench: LedgerBench, desk: LedgerController, students: StudentChoice) -> list[Command]:
    """Return what is done with the record: what is noted of a lesson works everywhere, the rest on its bench."""
    row, lesson, request = (desk.row_need,), (desk.lesson_need,), (desk.request_need,)
    pages = [
        Command(f"ledger.{name.lower().replace(' ', '_')}", f"Show {name.lower()}", lambda at=at: bench.show_page(at),  # type: ignore[misc]
                LEDGER_MENU, str(at + 1), f"page ledger record {words}", Scope.LEDGER,
                checked=lambda at=at: bench.page == at)  # type: ignore[misc]
        for at, (name, words) in enumerate(zip(PAGES, PAGE_WORDS, strict=True))
    ]  # fmt: skip
    return [
        Command("ledger.student", "Choose who is taught…", students.ask, LEDGER_MENU, "Ctrl+Alt+A",
                "student pupil switch who"),
        Command("ledger.give_state", "Note that the solo is given to the student", desk.give_state, LEDGER_MENU,
                "Ctrl+Alt+E", "hand out sent revision sheet version", preconditions=(desk.open_need,)),
        *pages,
        Command("student.new", "New student…", desk.new_student, LEDGER_MENU, "S", "add pupil", Scope.LEDGER,
                separated=True),
        Command("student.change", "About the student…", desk.change_student, LEDGER_MENU, "E",
                "guitar strings naming school order edit", Scope.LEDGER, (desk.student_need,)),
        Command("student.delete", "Delete the student…", desk.delete_student, LEDGER_MENU, "Shift+Del", "remove",
                Scope.LEDGER, (desk.student_need,)),
        Command("student.adopt", "Give the student what nobody was named for", desk.adopt, LEDGER_MENU, "G",
                "move marks takes not said assign", Scope.LEDGER, (desk.adopt_need,)),
        Command("request.new", "Note a request…", desk.new_request, LEDGER_MENU, "R", "asked solo queue add due",
                Scope.LEDGER, separated=True),
        Command("request.link", "The request is about the open solo", desk.link, LEDGER_MENU, "Ctrl+L",
                "belongs document link", Scope.LEDGER, (*request, desk.open_need)),
        Command("request.hours", "Add hours to the request…", desk.add_hours, LEDGER_MENU, "A", "time spent worked",
                Scope.LEDGER, request),
        Command("request.done", "The request is done…", desk.done, LEDGER_MENU, "D", "finished ready hours",
                Scope.LEDGER, request),
        Command("lesson.date", "Put a lesson on a day…", desk.plan_lesson, LEDGER_MENU, "P", "plan next week date",
                Scope.LEDGER, separated=True),
        Command("lesson.was_held", "The chosen lesson was held…", desk.held, LEDGER_MENU, "H", "taught did done",
                Scope.LEDGER, lesson),
        Command("ledger.open", "Open the solo of this row", desk.open_solo, LEDGER_MENU, "Return", "go teach document",
                Scope.LEDGER, (desk.solo_need,), separated=True),
        Command("ledger.change", "Change this row…", desk.change_row, LEDGER_MENU, "C", "edit request lesson",
                Scope.LEDGER, row),
        Command("ledger.take_away", "Take this row away", desk.take_away, LEDGER_MENU, "Del",
                "remove delete request lesson", Scope.LEDGER, row),
        Command("ledger.why", "Why these figures?", desk.why, LEDGER_MENU, "W", "reason explain source", Scope.LEDGER),
        Command("ledger.changes", "Write what changed…", desk.ask_changes, LEDGER_MENU, "F",
                "revision given out since corrected page pdf text student", Scope.LEDGER, (desk.changes_need,)),
        Command("ledger.sheet", "Write what we did…", desk.ask_sheet, LEDGER_MENU, "T", "print page pdf text student",
                Scope.LEDGER, separated=True),
        Command("ledger.give_out", "Give the whole record out…", desk.ask_give_out, LEDGER_MENU, "",
                "export csv json save backup"),
        Command("ledger.take_in", "Take a record in…", desk.ask_take_in, LEDGER_MENU, "", "import csv json"),
        Command("ledger.restore", "Go back to a copy of the ledger…", desk.ask_restore, LEDGER_MENU, "",
                "backup restore damaged"),
    ]  # fmt: skip


PAGE_WORDS = ("agenda due", "requests waiting", "reviews repeat", "plots weeks curve", "sheet lessons", "estimate time",
              "sent changes revisions")  # fmt: skip
