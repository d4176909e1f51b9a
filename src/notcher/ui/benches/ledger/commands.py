"""The commands of the lick catalogue."""

from notcher.ui.benches.ledger.catalogue_panel import CataloguePanel
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.needs import Needs


def catalogue_commands(panel: CataloguePanel, needs: Needs) -> list[Command]:
    """Return what is done with the catalogue: what opens it works everywhere, the rest in it."""
    found = (panel.need_found,)
    return [
        Command("catalogue.show", "Lick catalogue", panel.toggle, "View", "Ctrl+Shift+F",
                "find search phrase library all solos", separated=True, checked=panel.isVisible),
        Command("catalogue.like", "Find licks like this phrase", panel.like_selected, "View", "Ctrl+Alt+K",
                "search similar same catalogue example", needs=(needs.phrase,)),
        Command("catalogue.hear", "Hear the lick found", panel.hear, "", "Return", "play listen catalogue",
                Scope.CATALOGUE, found),
        Command("catalogue.drop", "Drop the lick found in at the playhead", panel.drop, "", "Ctrl+Return",
                "paste insert catalogue", Scope.CATALOGUE, found),
        Command("catalogue.source", "Open the solo the lick comes from", panel.open_source, "", "Ctrl+Shift+Return",
                "document where catalogue", Scope.CATALOGUE, found),
        Command("catalogue.gather", "Gather a folder into the catalogue…", panel.ask_folder, "", "Ctrl+G",
                "collect documents index", Scope.CATALOGUE),
        Command("catalogue.words", "Look by words alone", panel.no_example, "", "Ctrl+Backspace", "example forget",
                Scope.CATALOGUE),
    ]  # fmt: skip
