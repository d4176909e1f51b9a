"""Lines written as a page of rich text, or as plain text."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF
from PyQt6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument

from notcher.core.errors import NotcherError
from notcher.core.formats import atomic_write
from notcher.core.teaching import sheet_html, sheet_text
from notcher.ui.state.shell import Shell


def write_page(path: str, lines: Sequence[tuple[str, str]], shell: Shell) -> None:
    """Write lines, see `sheet_lines`, as PDF, or as text where the name says so; tell what came of it."""
    file = Path(path)
    try:
        if file.suffix.lower() == ".txt":
            with atomic_write(file) as stream:
                stream.write(sheet_text(lines).encode("utf-8"))
        else:
            file = file if file.suffix.lower() == ".pdf" else file.with_name(f"{file.name}.pdf")
            with atomic_write(file) as stream:
                stream.write(_pdf(sheet_html(lines)))
    except NotcherError as problem:
        shell.tell_failure(problem)
        return
    shell.notice(f"“{file.name}” was written in {file.parent}.")


def _pdf(html: str) -> bytes:
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    margins = QMarginsF(18, 18, 18, 18)
    portrait, millimetres = QPageLayout.Orientation.Portrait, QPageLayout.Unit.Millimeter
    writer.setPageLayout(QPageLayout(QPageSize(QPageSize.PageSizeId.A4), portrait, margins, millimetres))
    page = QTextDocument()
    page.setHtml(html)
    page.print(writer)
    buffer.close()
    return bytes(data.data())
