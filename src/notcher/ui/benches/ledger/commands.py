"""The commands of the lick catalogue."""

from notcher.ui.benches.ledger.catalogue_panel import CataloguePanel
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.needs import Needs

MENU = "View/Lick catalogue"


def catalogue_commands(panel: CataloguePanel, needs: Needs) -> list[Command]:
    """Return what is done with the catalogue: what opens it works everywhere, the rest in it."""
    found = (panel.need_found,)
    return [
        Command("catalogue.show", "Open the lick catalogue", panel.toggle, MENU, "Ctrl+Shift+F",
                "find search phrase library all solos", checked=panel.isVisible),
        Command("catalogue.like", "Find licks like this phrase", panel.like_selected, MENU, "Ctrl+Alt+K",
                "search similar same catalogue example", needs=(needs.phrase,)),
        Command("catalogue.hear", "Hear the lick found", panel.hear, MENU, "Return", "play listen catalogue",
                Scope.CATALOGUE, found),
        Command("catalogue.drop", "Drop the lick found in at the playhead", panel.drop, MENU, "Ctrl+Return",
                "paste insert catalogue", Scope.CATALOGUE, found),
        Command("catalogue.source", "Open the solo the lick comes from", panel.open_source, MENU, "Ctrl+Shift+Return",
                "document where catalogue", Scope.CATALOGUE, found),
        Command("catalogue.gather", "Gather a folder into the catalogue…", panel.ask_folder, MENU, "Ctrl+G",
                "collect documents index", Scope.CATALOGUE),
        Command("catalogue.words", "Look by words alone", panel.no_example, MENU, "Ctrl+Backspace", "example forget",
                Scope.CATALOGUE),
    ]  # fmt: skip
