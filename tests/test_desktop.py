"""Notcher among other programs, judged by the tools of freedesktop.org, by man and by bash themselves."""

import os
import shutil
import subprocess
import time
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication

from notcher.desktop import ICON_SIZES, install, texts, uninstall
from notcher.reference import COMMANDS


def verdict(*words: str) -> str:
    """What a tool says of a file; it must find nothing wrong."""
    assert shutil.which(words[0]) is not None, f"no {words[0]} here: ./dev installs it"
    done = subprocess.run(words, capture_output=True, text=True, check=False, timeout=60)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout + done.stderr


@pytest.fixture
def placed(tmp_path: Path, qapp: QApplication) -> Path:
    install("/home/somebody/.local/bin/notcher", tmp_path)
    return tmp_path


@pytest.mark.outside(
    what="the menu entry",
    source="freedesktop.org: desktop-file-validate",
    tolerance="no error",
    why="its verdict",
    kind="library",
)
def test_the_menu_entry_is_valid(placed: Path) -> None:
    entry = placed / "applications" / "notcher.desktop"
    assert "error" not in verdict("desktop-file-validate", str(entry))
    assert "Exec=/home/somebody/.local/bin/notcher %f" in entry.read_text("utf-8")


@pytest.mark.outside(
    what="the AppStream data",
    source="freedesktop.org: appstreamcli",
    tolerance="valid",
    why="its verdict",
    kind="library",
)
def test_the_appstream_data_is_valid(placed: Path) -> None:
    data = next((placed / "metainfo").glob("*.xml"))
    verdict("appstreamcli", "validate", "--no-net", str(data))


@pytest.mark.outside(
    what="the file type",
    source="freedesktop.org: update-mime-database",
    tolerance="exact",
    why="the line that it writes",
    kind="library",
)
def test_the_file_type_is_known_to_the_desktop(placed: Path) -> None:
    verdict("update-mime-database", str(placed / "mime"))
    assert "application/x-notcher:*.notch" in (placed / "mime" / "globs").read_text("utf-8")


@pytest.mark.outside(
    what="what a double click on a document starts",
    source="GLib: gio open, as a file manager asks it",
    tolerance="exact",
    why="the program and its word",
    kind="library",
)
def test_a_double_click_opens_a_document(tmp_path: Path, qapp: QApplication) -> None:
    program, document, told = tmp_path / "notcher", tmp_path / "solo.notch", tmp_path / "told"
    program.write_text(f'#!/bin/sh\necho "$1" > {told}\n', "utf-8")
    program.chmod(0o755)
    document.write_bytes(b"x")
    install(str(program), tmp_path / "home" / ".local" / "share")
    home = {**os.environ, "HOME": str(tmp_path / "home")}
    home.pop("XDG_DATA_HOME", None)
    subprocess.run(["dbus-run-session", "gio", "open", str(document)], env=home, check=True, timeout=60)
    for _ in range(100):
        if told.exists() and told.read_text("utf-8"):
            break
        time.sleep(0.05)
    assert told.read_text("utf-8").strip() == str(document)


@pytest.mark.outside(
    what="the manual page", source="man-db: man --warnings", tolerance="no warning", why="its verdict", kind="library"
)
def test_man_reads_its_page_and_every_command_stands_in_it(placed: Path) -> None:
    said = verdict("man", "--warnings", "-E", "UTF-8", "-l", "-P", "cat", str(placed / "man" / "man1" / "notcher.1"))
    assert "warning" not in said
    assert all(f"notcher {name}" in said and words[:30] in " ".join(said.split()) for name, words in COMMANDS.items())
    assert "--jobs" in said


def test_bash_completes_commands_options_and_their_values(placed: Path) -> None:
    script = placed / "bash-completion" / "completions" / "notcher"

    def completed(*words: str) -> list[str]:
        asked = " ".join(f"'{word}'" for word in words)
        line = f"source {script}; COMP_WORDS=({asked}); COMP_CWORD={len(words) - 1}; _shtab_notcher; "
        line += "printf '%s\\n' \"${COMPREPLY[@]}\""
        return verdict("bash", "-c", line).split()

    assert "draft" in completed("notcher", "dr")
    assert "--jobs" in completed("notcher", "draft", "--j")
    assert completed("notcher", "draft", "--focus", "le") == ["left"]


def test_icons_of_every_size_are_drawn_and_all_is_taken_away_again(placed: Path) -> None:
    for size in ICON_SIZES:
        image = QImage(str(placed / f"icons/hicolor/{size}x{size}/apps/notcher.png"))
        assert (image.width(), image.height()) == (size, size)
        colors = {image.pixel(x, y) for x in range(size) for y in range(size)}
        assert len(colors) > 5, "something is drawn"
    kept = placed / "notcher" / "ledger.sqlite"
    kept.parent.mkdir()
    kept.write_text("a record")
    taken = uninstall(placed)
    assert len(taken) == len(texts("notcher")) + len(ICON_SIZES)
    assert not any(path.exists() for path in taken)
    assert kept.exists(), "the ledger is no part of the program"
