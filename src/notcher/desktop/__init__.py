"""Notcher among a user's other programs: menu entry, icon, file type, AppStream data, man page, shell completion.

Places are those of the XDG base directories and of the freedesktop.org icon, menu and MIME specifications.
"""

import shutil
import subprocess
import sys
from importlib.resources import files
from pathlib import Path

from platformdirs import user_data_dir

from notcher.desktop.reference import bash_completion, man_page

ICON_SIZES = (16, 24, 32, 48, 64, 128, 256)  # px; what the freedesktop icon theme's folders are named for
REFRESHERS = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))
"""What has to be told of new files, and of which folder; without them the desktop finds them at the next login."""


def _shipped(name: str) -> str:
    return (files("notcher.desktop") / "files" / name).read_text("utf-8")


def texts(program: str) -> dict[str, str]:
    """Return the text files that make Notcher a program of a user, by their places below the data folder.

    program: what starts it, as the menu entry says.
    """
    return {
        "applications/notcher.desktop": _shipped("notcher.desktop").replace("@notcher@", program),
        "icons/hicolor/scalable/apps/notcher.svg": _shipped("notcher.svg"),
        "icons/hicolor/scalable/mimetypes/application-x-notcher.svg": _shipped("notcher.svg"),
        "mime/packages/notcher.xml": _shipped("notcher.xml"),
        "metainfo/org.notcher.Notcher.metainfo.xml": _shipped("org.notcher.Notcher.metainfo.xml"),
        "man/man1/notcher.1": man_page(),
        "bash-completion/completions/notcher": bash_completion(),
    }


def _icon_places() -> dict[int, str]:
    return {size: f"icons/hicolor/{size}x{size}/apps/notcher.png" for size in ICON_SIZES}


def install(program: str, data: Path) -> list[Path]:
    """Put everything in its place; return what was written. data: the user's data folder, as XDG has it."""
    from PyQt6.QtCore import QByteArray
    from PyQt6.QtGui import QImage, QPainter
    from PyQt6.QtSvg import QSvgRenderer

    written = []
    for place, text in texts(program).items():
        path = data / place
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, "utf-8")
        written.append(path)
    drawn = QSvgRenderer(QByteArray(_shipped("notcher.svg").encode("utf-8")))
    for size, place in _icon_places().items():
        image = QImage(size, size, QImage.Format.Format_ARGB32)
        image.fill(0)
        painter = QPainter(image)
        drawn.render(painter)
        painter.end()
        path = data / place
        path.parent.mkdir(parents=True, exist_ok=True)
        image.save(str(path))
        written.append(path)
    _refresh(data)
    return written


def uninstall(data: Path) -> list[Path]:
    """Take everything away that `install` put there; return what was. Documents and the ledger stay."""
    paths = [path for place in (*texts("notcher"), *_icon_places().values()) if (path := data / place).exists()]
    for path in paths:
        path.unlink()
    _refresh(data)
    return paths


def _refresh(data: Path) -> None:
    for command, folder in REFRESHERS:
        if shutil.which(command) and (data / folder).is_dir():
            subprocess.run([command, str(data / folder)], check=False, capture_output=True, timeout=60)


def main() -> int:
    """`python -m notcher.desktop install PROGRAM` or `uninstall`; what `./dev install` calls."""
    words = sys.argv[1:]
    data = Path(user_data_dir())
    if len(words) == 2 and words[0] == "install":
        print(f"{len(install(words[1], data))} files below {data}")
        return 0
    if words == ["uninstall"]:
        print(f"{len(uninstall(data))} files taken away below {data}")
        return 0
    print("notcher.desktop: say install PROGRAM, or uninstall.", file=sys.stderr)
    return 2
