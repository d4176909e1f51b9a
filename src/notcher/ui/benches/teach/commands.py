"""The commands of the Teach bench: takes from anywhere, the marks on the practice board, the planned lesson."""

from notcher.core.proving import Result
from notcher.ui.benches.teach.lesson_controller import LessonController
from notcher.ui.benches.teach.lesson_runner import LessonRunner
from notcher.ui.benches.teach.mirror_controller import MirrorController
from notcher.ui.benches.teach.take_controller import TakeController
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.benches.teach.walk_controller import WalkController
from notcher.ui.commands.command import Command, Scope

MARKS = ((Result.CLEAN, "C"), (Result.SHAKY, "S"), (Result.MISSED, "M"))


def teach_commands(
    teach: TeachBench,
    desk: TakeController,
    lesson: LessonController,
    runner: LessonRunner,
    walk: WalkController,
    mirror: MirrorController,
) -> list[Command]:
    """Return what is recorded and marked."""
    cell, take = (teach.cell_need,), (teach.takes.take_need,)
    commands = [
        Command("take.record", desk.record_take, "F8", hands_free=True),
        Command("take.file", desk.ask_take_file, preconditions=cell),
        Command("delay.cable", lambda: desk.measure_delay(claps=False)),
        Command("delay.claps", lambda: desk.measure_delay(claps=True)),
        Command("board.play", teach.play_cell, "Return", Scope.BOARD, cell),
    ]  # fmt: skip
    for result, keys in MARKS:
        commands.append(
            Command(f"board.{result}", lambda r=result: teach.mark(r), keys, Scope.BOARD, cell, hands_free=True)  # type: ignore[misc]
        )  # fmt: skip
    clear = Command("board.clear", lambda: teach.mark(None), "Backspace", Scope.BOARD, cell)  # fmt: skip
    step, chosen = (lesson.step_need,), (lesson.chosen_need,)
    steps = [
        Command("lesson.plan", lesson.make, "P", Scope.BOARD, (lesson.need,)),
        Command("lesson.run", runner.toggle, "Shift+Return", Scope.BOARD, (lesson.need,), hands_free=True),
        Command("lesson.again", runner.again, "R", Scope.BOARD, (runner.need,), hands_free=True),
        Command("lesson.extend", runner.extend, "E", Scope.BOARD, (runner.need,), hands_free=True),
        Command("lesson.next", lambda: runner.step(1), "N", Scope.BOARD, step, hands_free=True),
        Command("lesson.previous", lambda: runner.step(-1), "Shift+N", Scope.BOARD, step, hands_free=True),
        Command("lesson.skip", lesson.skip, "X", Scope.BOARD, (lesson.skip_need,)),
        Command("lesson.more_rounds", lambda: lesson.change_rounds(1), "+", Scope.BOARD, chosen),
        Command("lesson.fewer_rounds", lambda: lesson.change_rounds(-1), "-", Scope.BOARD, chosen),
        Command("lesson.lock", lesson.lock, "K", Scope.BOARD, chosen),
        Command("lesson.earlier", lambda: lesson.move(-1), "Alt+Up", Scope.BOARD, chosen),
        Command("lesson.later", lambda: lesson.move(1), "Alt+Down", Scope.BOARD, chosen),
        Command("lesson.as_proposed", lesson.as_proposed, "Shift+P", Scope.BOARD, step),
    ]  # fmt: skip
    lessons = [
        Command("take.show", lambda: teach.show_takes(True), preconditions=(teach.takes_need,)),
        Command("take.play", lambda: teach.takes.play(beside_tab=False), "Return", Scope.TAKES, take),
        Command("take.both", lambda: teach.takes.play(beside_tab=True), "B", Scope.TAKES, take),
        Command("take.delete", teach.takes.remove, "Del", Scope.TAKES, take),
        Command("take.verdict", teach.takes.put_verdict, "V", Scope.TAKES, (teach.takes.verdict_need,)),
        Command("lesson.keep", lesson.keep, "G", Scope.BOARD, step),
        Command("lesson.held", lesson.held, "Shift+G", Scope.BOARD, (lesson.need,)),
        Command("lesson.why", lesson.why, "W", Scope.BOARD, cell),
        Command("lesson.understood", lesson.understood, "U", Scope.BOARD, (lesson.caution_need,)),
        Command("lesson.cautions", lesson.read_cautions),
    ]  # fmt: skip
    walked = (walk.need,)
    in_words = [
        Command("walk_words.next", lambda: walk.step(1), "T", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.previous", lambda: walk.step(-1), "Shift+T", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.again", walk.say_again, "A", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.phrase", walk.say_phrase, "Y", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.script", walk.script, "Shift+Y", Scope.BOARD, walked),
    ]  # fmt: skip
    mirrors = [
        Command("mirror.toggle", mirror.toggle, "J", Scope.BOARD, cell, checked=lambda: mirror.on, hands_free=True),
        Command("mirror.gym", mirror.toggle_gym, "Shift+J", Scope.BOARD, hands_free=True),
    ]  # fmt: skip
    return [*commands, clear, *steps, *lessons, *in_words, *mirrors]
