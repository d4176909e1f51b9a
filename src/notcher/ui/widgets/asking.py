"""Small questions over a window; none of them holds anything up: the answer is a call."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMessageBox,
    QWidget,
)

from notcher.core.formats.files.atomic import proposed_name
from notcher.core.score.limits import NAME_CHARS
from notcher.ui.widgets.limited import limit_line
from notcher.ui.widgets.plain import show_plainly


class LastFolder:
    """Where the last file was opened or written: the next is asked for there."""

    path = ""


def _select_nothing(dialog: QFileDialog) -> None:
    """A folder on the way to a typed path would else be opened instead of it."""
    for view in dialog.findChildren(QAbstractItemView):
        names = view.selectionModel()
        if names is not None and view.objectName() in ("listView", "treeView"):
            names.clearSelection()


class _ReturnTakesWhatIsTyped(QObject):
    """Lets Return open the path that was typed, though names that begin so are listed; a chosen one is taken first."""

    def __init__(self, names: QAbstractItemView, line: QLineEdit) -> None:
        super().__init__(names)
        self._names, self._line = names, line

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not (isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress):
            return False
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter) or self._names.currentIndex().isValid():
            return False
        self._names.hide()
        QApplication.sendEvent(self._line, event)
        return True


def _as_typed(label: str) -> str:
    """A label of a field in which "&" is no access key."""
    return label.replace("&", "&&")


def _shown(dialog: QDialog) -> None:
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    show_plainly(dialog)
    dialog.open()


def _file_dialog(parent: QWidget, title: str, filters: str, then: Callable[[str], None]) -> QFileDialog:
    def chosen(path: str) -> None:
        LastFolder.path = path if Path(path).is_dir() else str(Path(path).parent)
        then(path)

    dialog = QFileDialog(parent, title, LastFolder.path, filters)
    dialog.fileSelected.connect(chosen)
    for line in dialog.findChildren(QLineEdit):
        line.textChanged.connect(lambda typed: _select_nothing(dialog) if "/" in typed else None)
        completer = line.completer()
        popup = completer.popup() if completer is not None else None
        if popup is not None:
            popup.installEventFilter(_ReturnTakesWhatIsTyped(popup, line))
    return dialog


def ask_text(
    parent: QWidget, title: str, label: str, text: str, then: Callable[[str], None], *, most: int = NAME_CHARS
) -> None:
    """Ask for a line of text. then: called with it, unless it was given up. most: characters that it may have."""
    dialog = QInputDialog(parent)
    dialog.setWindowTitle(title)
    dialog.setLabelText(_as_typed(label))
    dialog.setTextValue(text)
    dialog.textValueSelected.connect(then)
    line = dialog.findChild(QLineEdit)
    if line is not None:
        limit_line(line, most, lambda words: dialog.setLabelText(_as_typed(f"{label}\n{words}" if words else label)))
    _shown(dialog)


def ask_number(
    parent: QWidget, title: str, label: str, value: int, low: int, high: int, then: Callable[[int], None]
) -> None:
    """Ask for a whole number between two."""
    dialog = QInputDialog(parent)
    dialog.setInputMode(QInputDialog.InputMode.IntInput)
    dialog.setWindowTitle(title)
    dialog.setLabelText(_as_typed(label))
    dialog.setIntRange(low, high)
    dialog.setIntValue(value)
    dialog.intValueSelected.connect(then)
    _shown(dialog)


def ask_choice(
    parent: QWidget, title: str, label: str, choices: Sequence[str], chosen: str, then: Callable[[str], None]
) -> None:
    """Ask for one of several."""
    dialog = QInputDialog(parent)
    dialog.setWindowTitle(title)
    dialog.setLabelText(_as_typed(label))
    dialog.setComboBoxItems(choices)
    dialog.setTextValue(chosen)
    dialog.textValueSelected.connect(then)
    _shown(dialog)


def ask_file_to_open(parent: QWidget, title: str, filters: str, then: Callable[[str], None]) -> None:
    """Ask for a file that is there."""
    dialog = _file_dialog(parent, title, filters, then)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
    _shown(dialog)


def ask_folder(parent: QWidget, title: str, then: Callable[[str], None]) -> None:
    """Ask for a folder that is there."""
    dialog = _file_dialog(parent, title, "", then)
    dialog.setFileMode(QFileDialog.FileMode.Directory)
    dialog.setOption(QFileDialog.Option.ShowDirsOnly)
    _shown(dialog)


def ask_file_to_write(parent: QWidget, title: str, name: str, filters: str, then: Callable[[str], None]) -> None:
    """Ask where to write; before a file that is there is replaced the dialog asks by itself. name: what is proposed."""
    dialog = _file_dialog(parent, title, filters, then)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    stem, dot, ending = name.rpartition(".")
    dialog.selectFile(proposed_name(stem) + dot + ending)
    _shown(dialog)


def ask_what_to_do(
    parent: QWidget, title: str, sentence: str, answers: Sequence[tuple[str, Callable[[], None]]]
) -> None:
    """Ask for one of several acts; Enter takes the first, which takes nothing away; Escape takes none."""
    box = QMessageBox(QMessageBox.Icon.Question, title, sentence, QMessageBox.StandardButton.Cancel, parent)
    acts: dict[object, Callable[[], None]] = {}
    for words, act in answers:
        button = box.addButton(words, QMessageBox.ButtonRole.ActionRole)
        acts[button] = act
        if len(acts) == 1:
            box.setDefaultButton(button)

    def answered() -> None:
        act = acts.get(box.clickedButton())
        if act is not None:
            act()

    box.finished.connect(lambda _result: answered())
    _shown(box)


def tell(parent: QWidget, title: str, sentence: str) -> None:
    """Show some words until they are closed."""
    _shown(QMessageBox(QMessageBox.Icon.NoIcon, title, sentence, QMessageBox.StandardButton.Ok, parent))
