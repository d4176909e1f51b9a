"""The commands of the Sheets bench: what is printed, how, how it is looked at, and where it goes."""

from notcher.core.sheets import CHOICES, Sheet, SheetChoices
from notcher.ui.benches.sheets.pack_controller import PackController
from notcher.ui.benches.sheets.sheets_bench import SheetsBench
from notcher.ui.benches.sheets.sheets_controller import SheetsController
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions

MENU = "View/The sheet"
USUAL_CHOICES = SheetChoices()
SHEET_WORDS = {
    Sheet.PAGES: ("The sheet: pages", "print whole solo lines"),
    Sheet.CARDS: ("The sheet: a card for each phrase", "print cut index"),
    Sheet.SHAPES: ("The sheet: one page of its shapes", "print licks again learn"),
}
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
        Command(f"sheet.{sheet.value}", words, lambda sheet=sheet: panel.choose("sheet", sheet), MENU,  # type: ignore[misc]
                str(number), f"sheet {more}", Scope.SHEETS,
                checked=lambda sheet=sheet: panel.choices.sheet is sheet)  # type: ignore[misc]
        for number, (sheet, (words, more)) in enumerate(SHEET_WORDS.items(), 1)
    ]  # fmt: skip
    choices = [
        Command(f"sheet.{choice.name}", f"{choice.words}: the next choice" if not _switch(choice.name)
                else f"{choice.words} on the sheet, or not",
                lambda name=choice.name: panel.step(name), MENU, KEYS.get(choice.name, ""),  # type: ignore[misc]
                f"sheet print {choice.name} {choice.tells.lower()}", Scope.SHEETS,
                checked=(lambda name=choice.name: bool(getattr(panel.choices, name)))  # type: ignore[misc]
                if _switch(choice.name) else None, separated=at == 0)
        for at, choice in enumerate(choice for choice in CHOICES if choice.name != "sheet")
    ]  # fmt: skip
    return [
        Command("sheet.print", "Print the sheet…", desk.ask_print, "File", "Ctrl+P", "paper printer pages",
                preconditions=(preconditions.notes,), separated=True),
        Command("sheet.pdf", "The sheet as PDF…", lambda: desk.ask_write(".pdf"), "File/Write as", "Ctrl+Alt+W",
                "export pages student print", preconditions=(preconditions.notes,)),
        Command("sheet.svg", "The sheet as SVG…", lambda: desk.ask_write(".svg"), "File/Write as", "",
                "export picture drawing", preconditions=(preconditions.notes,)),
        Command("sheet.png", "The sheet as PNG…", lambda: desk.ask_write(".png"), "File/Write as", "",
                "export picture image", preconditions=(preconditions.notes,)),
        Command("pack.make", "Hand out a practice pack…", packs.ask, "Ledger", "Ctrl+Alt+N",
                "take home loops slowed mp3 zip film student practice send export",
                preconditions=(packs.phrases_need,)),
        *kinds,
        *choices,
        Command("sheet.larger", "Look at the sheet closer", lambda: view.zoom_by(1), MENU, "+", "zoom in bigger",
                Scope.SHEETS, separated=True, also="="),
        Command("sheet.smaller", "Look at the sheet from farther off", lambda: view.zoom_by(-1), MENU, "-",
                "zoom out", Scope.SHEETS),
        Command("sheet.width", "The sheet as wide as the view", lambda: view.fit("width"), MENU, "W", "zoom fit",
                Scope.SHEETS),
        Command("sheet.whole", "The whole page in view", lambda: view.fit("page"), MENU, "0", "zoom fit all",
                Scope.SHEETS),
        Command("sheet.next", "Next page", lambda: view.turn(1), MENU, "PgDown", "sheet forward turn", Scope.SHEETS),
        Command("sheet.before", "Page before", lambda: view.turn(-1), MENU, "PgUp", "sheet back turn", Scope.SHEETS),
        Command("sheet.first", "First page", lambda: view.turn_to(0), MENU, "Home", "sheet begin", Scope.SHEETS),
        Command("sheet.last", "Last page", lambda: view.turn_to(len(view.pages)), MENU, "End", "sheet end",
                Scope.SHEETS),
    ]  # fmt: skip


def _switch(name: str) -> bool:
    """Whether a choice is on or off."""
    return isinstance(getattr(USUAL_CHOICES, name), bool)
