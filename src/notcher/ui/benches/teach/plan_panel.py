"""The planned lesson beneath the board: its steps with their minutes and reasons, what is for later, the cautions."""

from collections.abc import Callable

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QSpinBox,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from notcher.core.teaching import (
    Caution,
    LessonOrder,
    Plan,
    Running,
    Step,
    caution_words,
    later_words,
    noise_words,
    running_words,
    step_words,
)
from notcher.core.teaching.plan import MOST_MINUTES
from notcher.core.words import USUAL, Naming, figure, many
from notcher.painting.theme import Theme
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.flow import FlowLayout
from notcher.ui.widgets.plain import Label, plain_tip

ORDER_WORDS = {
    LessonOrder.BUILD_UP: "building up: 1, 2, 1+2, 3 …",
    LessonOrder.PAIRS: "in pairs, then their joins",
    LessonOrder.FROM_THE_END: "from the end",
}
CAUTION_LINES = 4  # more are scrolled
HEADS = ("At", "What, and why", "Pace", "Tempo", "Rounds", "Minutes")
WHAT, ROUNDS, MINUTES = 1, 4, 5


class StepList(QTreeWidget):
    """The steps; one that is dragged to another place says so, and is moved when the plan is made anew."""

    dragged = pyqtSignal(int, int)  # from, to

    def __init__(self) -> None:
        super().__init__()
        self._from = self._to = -1  # rows; -1 while nothing is dragged

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        if event is not None and event.button() is Qt.MouseButton.LeftButton:
            self._from = self._to = self._row(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._from >= 0 and (row := self._row(event)) >= 0:
            self._show_target(row)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        super().mouseReleaseEvent(event)
        source, target = self._from, self._to
        self._from = -1
        self._show_target(-1)
        if source >= 0 and target not in (-1, source):
            self.dragged.emit(source, target)

    def _row(self, event: QMouseEvent) -> int:
        return self.indexAt(event.position().toPoint()).row()

    def _show_target(self, row: int) -> None:
        self._to = row
        viewport = self.viewport()
        if viewport is not None:
            moved = row not in (-1, self._from)
            viewport.setCursor(Qt.CursorShape.ClosedHandCursor if moved else Qt.CursorShape.ArrowCursor)
            viewport.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self._from >= 0 and self._to not in (-1, self._from):
            box = self.visualItemRect(self.topLevelItem(self._to))
            y = box.bottom() if self._to > self._from else box.top()
            painter = QPainter(self.viewport())
            painter.setPen(QPen(self.palette().highlight().color(), 2))
            painter.drawLine(0, y, self.width(), y)


class PlanPanel(QFrame):
    """Shows one plan; says which step was chosen, and when a plan is asked for."""

    plan_requested = pyqtSignal()
    step_chosen = pyqtSignal(object)  # Step
    understood_requested = pyqtSignal()
    cleared = pyqtSignal()  # another plan, or none

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("card", True)
        self.plan: Plan | None = None
        self._naming, self._row_height, self._level_dba = USUAL, 23, 0.0
        self.minutes, self.lesson_order, self.button = QSpinBox(), QComboBox(), QPushButton("Plan the lesson")
        self.total, self.cautions, self.steps = Label(), Label(), StepList()
        self.say = Label()  # before the step's rounds
        self.talk_of: Callable[[Step], list[str]] = lambda _step: []
        self.understood = QPushButton("Understood")
        self._untold: tuple[Caution, ...] = ()
        self._lay_out()
        self.button.clicked.connect(self.plan_requested)
        self.steps.currentItemChanged.connect(lambda *_: self._tell_step())
        self.clear("P plans the lesson.")

    def _lay_out(self) -> None:
        title = Label("The lesson")
        title.setProperty("title", True)
        self.minutes.setRange(1, round(MOST_MINUTES))
        self.minutes.setSuffix(" min")
        self.minutes.setAccessibleName("Minutes of the lesson")
        self.lesson_order.setAccessibleName("In which order phrases are taught")
        for lesson_order, words in ORDER_WORDS.items():
            self.lesson_order.addItem(words, str(lesson_order))
        self.total.setProperty("soft", True)
        self.cautions.setProperty("soft", True)
        self.cautions.setWordWrap(True)
        self.steps.setHeaderLabels(HEADS)
        self.steps.setRootIsDecorated(False)
        self.steps.setWordWrap(True)
        self.say.setWordWrap(True)
        self.say.setAccessibleName("What to say before the step")
        self.steps.setAllColumnsShowFocus(True)
        self.steps.setAccessibleName("Steps of the lesson")
        head = self.steps.header()
        if head is not None:
            head.setStretchLastSection(False)
            for column in range(len(HEADS)):
                mode = QHeaderView.ResizeMode.Stretch if column == WHAT else QHeaderView.ResizeMode.ResizeToContents
                head.setSectionResizeMode(column, mode)
        row = FlowLayout()
        for widget in (title, self.minutes, self.lesson_order, self.button, self.total):
            row.addWidget(widget)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(12, 6, 12, 8)
        whole.addLayout(row)
        whole.addWidget(self.steps, 1)
        below = QHBoxLayout()
        told = QWidget()
        lines = QVBoxLayout(told)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(2)
        lines.addWidget(self.say)
        lines.addWidget(self.cautions)
        lines.addStretch(1)
        cautions_area = scrolling(told)
        cautions_area.setMaximumHeight(self.cautions.fontMetrics().lineSpacing() * CAUTION_LINES + 8)
        below.addWidget(cautions_area, 1)
        self._told = cautions_area
        below.addWidget(self.understood, 0, Qt.AlignmentFlag.AlignBottom)
        whole.addLayout(below)
        self.understood.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.understood.setToolTip("They are not said again today; Teach, Safety notes tells them any time.")
        self.understood.clicked.connect(self.understood_requested)

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self._show_again()

    def set_level(self, level_dba: float) -> None:
        """Tell the noise dose of a lesson at a level; 0 where none was measured."""
        self._level_dba = level_dba
        self._show_again()

    def show_theme(self, _theme: Theme, scale: float) -> None:
        self._row_height = round(23 * scale)
        self.steps.setMinimumHeight(round(40 * scale))
        self.setMinimumHeight(round(136 * scale))  # its first row may take two
        self._told.setMinimumHeight(self.cautions.fontMetrics().lineSpacing() + 8)
        self._told.setMaximumHeight(self.cautions.fontMetrics().lineSpacing() * CAUTION_LINES + 8)
        self._show_again()

    # --- what is shown ---
    def _show_again(self) -> None:
        if self.plan is not None:
            self.show_plan(self.plan, self._untold)

    def clear(self, why: str) -> None:
        """Show no plan, and why."""
        self.plan = None
        self.cleared.emit()
        self.steps.clear()
        self.say.hide()
        self.total.setText(why)
        self._untold = ()
        self._show_cautions(0.0)

    def show_plan(self, plan: Plan, untold: tuple[Caution, ...]) -> None:
        """Show a plan; the step that was chosen in the one before stays chosen, else its place.

        untold: the cautions that are said beneath it.
        """
        at = max(0, self.steps.indexOfTopLevelItem(self.steps.currentItem()))
        chosen = self.step or self.skipped_step
        if plan is not self.plan:
            self.cleared.emit()
        self.plan, self._untold = plan, untold
        self.steps.clear()
        now_s = 0.0
        for step in plan.steps:
            self.steps.addTopLevelItem(self._item(step, now_s))
            now_s += step.seconds
        for step in plan.skipped:
            self.steps.addTopLevelItem(QTreeWidgetItem(["skipped", _upper(step_words(step, plan))]))
        for later in plan.later:
            item = QTreeWidgetItem([f"in {many(later.days_from_now, 'day')}", _upper(later_words(later, plan))])
            item.setFlags(Qt.ItemFlag.ItemIsEnabled)
            item.setToolTip(WHAT, plain_tip(later_words(later, plan)))
            self.steps.addTopLevelItem(item)
        minutes = figure(plan.planned_minutes, naming=self._naming)
        self.total.setText(f"{minutes} minutes in {many(len(plan.steps), 'step')}")
        self._show_cautions(plan.planned_minutes)
        keys = [step.key for step in plan.steps]
        same = chosen is not None and chosen.key in keys
        self.choose(keys.index(chosen.key) if same and chosen is not None else min(at, len(plan.steps) - 1))

    def show_running(self, running: Running, *, stopped: bool = False) -> None:
        """Show where a lesson that runs is, and of each step what was done beside what was planned."""
        words = running_words(running, self._naming)
        self.total.setText(f"{words}; stopped, Space goes on" if stopped else words)
        for at, step in enumerate(running.plan.steps):
            rounds, seconds = running.done_of(at)
            item = self.steps.topLevelItem(at)
            if item is not None and (rounds or seconds):
                item.setText(ROUNDS, f"{rounds} of {step.rounds}")
                texts = (figure(value / 60, 1, naming=self._naming) for value in (seconds, step.seconds))
                item.setText(MINUTES, " of ".join(texts))

    def _show_cautions(self, minutes: float) -> None:
        texts = [caution_words(caution, self.plan, self._naming) for caution in self._untold]
        texts += [words] if (words := noise_words(self._level_dba, minutes, self._naming)) else []
        self.cautions.setText(" ".join(texts))
        self.cautions.setVisible(bool(texts))
        self.understood.setVisible(self.has_cautions)

    @property
    def has_cautions(self) -> bool:
        """Whether a caution stands there that was not understood yet."""
        return bool(self._untold)

    def _item(self, step: Step, at_s: float) -> QTreeWidgetItem:
        assert self.plan is not None
        naming, words = self._naming, step_words(step, self.plan)
        rounds = ("once" if step.rounds == 1 else f"{step.rounds} times") + (", kept" if step.locked else "")
        cells = (
            f"{int(at_s) // 60}:{int(at_s) % 60:02d}",
            _upper(words),
            f"{figure(step.pace * 100, naming=naming)} %",
            f"{figure(step.bpm, naming=naming)} bpm",
            rounds,
            f"{figure(step.seconds / 60, 1, naming=naming)}",
        )
        item = QTreeWidgetItem(cells)
        item.setSizeHint(MINUTES, QSize(0, self._row_height))
        item.setToolTip(WHAT, plain_tip(words))
        return item

    # --- the step ---
    @property
    def step(self) -> Step | None:
        """The chosen step."""
        at = self.steps.indexOfTopLevelItem(self.steps.currentItem())
        return self.plan.steps[at] if self.plan is not None and 0 <= at < len(self.plan.steps) else None

    @property
    def skipped_step(self) -> Step | None:
        """The step that is left out, where one is chosen."""
        if self.plan is None:
            return None
        at = self.steps.indexOfTopLevelItem(self.steps.currentItem()) - len(self.plan.steps)
        return self.plan.skipped[at] if 0 <= at < len(self.plan.skipped) else None

    def choose(self, at: int) -> None:
        self.steps.setCurrentItem(self.steps.topLevelItem(at))

    def move(self, by: int) -> None:
        """Choose the step after the chosen one, or before."""
        if self.plan is not None:
            at = self.steps.indexOfTopLevelItem(self.steps.currentItem()) + by
            self.choose(max(0, min(at, len(self.plan.steps) - 1)))

    def _tell_step(self) -> None:
        step = self.step
        words = [] if step is None else self.talk_of(step)
        self.say.setText(f"To say: {' '.join(words)}" if words else "")
        self.say.setVisible(bool(words))
        if step is not None:
            self.step_chosen.emit(step)


def _upper(words: str) -> str:
    return words[:1].upper() + words[1:]
