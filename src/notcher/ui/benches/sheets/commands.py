"""The commands of the Sheets bench: what is printed, how, how it is looked at, and where it goes."""

from notcher.core.sheets import CHOICES, Sheet, SheetChoices
from notcher.ui.benches.sheets.pack_controller import PackController
from notcher.ui.benches.sheets.sheets_bench import SheetsBench
from notcher.ui.benches.sheets.sheets_controller import SheetsController
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions

USUAL_CHOICES = SheetChoices()
KEYS = {
    "size": "P", "landscape": "O", "rhythm": "R", "staff": "N", "strings": "S", "bends": "B", "repeats": "A",
    "easier": "E", "counts": "C", "legend": "G", "names": "M",
}  # fmt: skip


def sheets_commands(
    bench: SheetsBench, desk: SheetsController, packs: PackController, preconditions: Preconditions
) -> list[Command]:
    """Return what is done with a sheet; what writes and prints works everywhere, the rest on its bench."""
    view, panel = bench.view, bench.panel
    kinds = [
        Command(f"sheet.{sheet.value}", lambda sheet=sheet: panel.choose("sheet", sheet), str(number),  # type: ignore[misc]
                Scope.SHEETS, checked=lambda sheet=sheet: panel.choices.sheet is sheet)  # type: ignore[misc]
        for number, sheet in enumerate(Sheet, 1)
    ]  # fmt: skip
    choices = [
        Command(f"sheet.{choice.name}", lambda name=choice.name: panel.step(name), KEYS.get(choice.name, ""),  # type: ignore[misc]
                Scope.SHEETS,
                checked=(lambda name=choice.name: bool(getattr(panel.choices, name)))  # type: ignore[misc]
                if _switch(choice.name) else None)
        for choice in CHOICES
        if choice.name != "sheet"
    ]  # fmt: skip
    return [
        Command("sheet.print", desk.ask_print, "Ctrl+P", preconditions=(preconditions.notes,)),
        Command("sheet.pdf", lambda: desk.ask_write(".pdf"), "Ctrl+Alt+W", preconditions=(preconditions.notes,)),
        Command("sheet.svg", lambda: desk.ask_write(".svg"), preconditions=(preconditions.notes,)),
        Command("sheet.png", lambda: desk.ask_write(".png"), preconditions=(preconditions.notes,)),
        Command("pack.make", packs.ask, "Ctrl+Alt+N", preconditions=(packs.phrases_need,)),
        *kinds,
        *choices,
        Command("sheet.larger", lambda: view.zoom_by(1), "+", Scope.SHEETS, also="="),
        Command("sheet.smaller", lambda: view.zoom_by(-1), "-", Scope.SHEETS),
        Command("sheet.width", lambda: view.fit("width"), "W", Scope.SHEETS),
        Command("sheet.whole", lambda: view.fit("page"), "0", Scope.SHEETS),
        Command("sheet.next", lambda: view.turn(1), "PgDown", Scope.SHEETS),
        Command("sheet.before", lambda: view.turn(-1), "PgUp", Scope.SHEETS),
        Command("sheet.first", lambda: view.turn_to(0), "Home", Scope.SHEETS),
        Command("sheet.last", lambda: view.turn_to(len(view.pages)), "End", Scope.SHEETS),
    ]  # fmt: skip


def _switch(name: str) -> bool:
    """Whether a choice is on or off."""
    return isinstance(getattr(USUAL_CHOICES, name), bool)
