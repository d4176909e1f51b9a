"""What the finder finds, for a terminal: the window's own registry, built where nobody sees it, nothing open."""

import json
import os
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path


def list_commands(words: Sequence[str], *, as_json: bool) -> int:
    """Print the commands that fit some words, best first, or all in the menus' order; return the exit code."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtCore import qInstallMessageHandler
    from PyQt6.QtWidgets import QApplication

    qInstallMessageHandler(lambda *_: None)
    app = QApplication.instance() or QApplication(sys.argv[:1])
    from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker, WrittenVoice
    from notcher.ui.shell.program import Program
    from notcher.ui.state.settings import Settings

    with tempfile.TemporaryDirectory() as folder:
        program = Program(
            Settings(), SimulatedLoudspeaker(), guitar=SimulatedGuitarist(), footswitch=KeyFootswitch(),
            voice=WrittenVoice(), state=Path(folder),
        )  # fmt: skip
        registry = program.commands
        found = registry.found(" ".join(words))
        keys = {each.id: [some for some in (registry.keys(each.id), each.also) if some] for each in found}
        rows = [
            {
                "id": command.id,
                "label": command.label,
                "menu": command.menu,
                "keys": keys[command.id],
                "words": command.words.split(),
                "disabled_reason": command.disabled_reason or None,
            }
            for command in found
        ]
        program.saved()
        program.close()
    del app
    if as_json:
        print(json.dumps(rows, ensure_ascii=False, indent=1))
    elif not rows:
        print(f"Nothing found for “{' '.join(words)}”. Try other words, or fewer.")
    else:
        for command in found:
            print(f"{command.label:44} {command.menu:26} {', '.join(keys[command.id])}".rstrip())
    return 0
