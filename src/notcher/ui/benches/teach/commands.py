"""The commands of the Teach bench: takes from anywhere, the marks on the rung board, the planned lesson."""

from notcher.core.proving import Result
from notcher.ui.benches.teach.lesson_controller import LessonController
from notcher.ui.benches.teach.lesson_runner import LessonRunner
from notcher.ui.benches.teach.mirror_controller import MirrorController
from notcher.ui.benches.teach.take_controller import TakeController
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.benches.teach.walk_controller import WalkController
from notcher.ui.commands.command import Command, Scope

MARKS = (
    (Result.CLEAN, "C", "good right pass"),
    (Result.SHAKY, "S", "almost unsure"),
    (Result.MISSED, "M", "fail wrong"),
)


def teach_commands(
    teach: TeachBench,
    desk: TakeController,
    lesson: LessonController,
    runner: LessonRunner,
    walk: WalkController,
    mirror: MirrorController,
) -> list[Command]:
    """Return what is recorded and marked."""
    cell = (teach.cell_need,)
    commands = [
        Command("take.record", "Record a take, or end it", desk.record_take, "Play", "F8", "student microphone",
                separated=True, hands_free=True),
        Command("take.file", "Take from a file…", desk.ask_take_file, "Play", "", "student open recording import",
                preconditions=cell),
        Command("delay.cable", "With a cable from output to input", lambda: desk.measure_delay(claps=False),
                "Play/Measure the delay", "", "latency calibrate loop back input"),
        Command("delay.claps", "By clapping along", lambda: desk.measure_delay(claps=True),
                "Play/Measure the delay", "", "latency calibrate input"),
        Command("board.play", "Loop this cell", teach.play_cell, "Play", "Return", "rung practice", Scope.BOARD, cell,
                separated=True),
    ]  # fmt: skip
    for result, keys, words in MARKS:
        commands.append(
            Command(f"board.{result}", f"Mark the cell {result}", lambda r=result: teach.mark(r), "Play", keys,  # type: ignore[misc]
                    f"rung result {words}", Scope.BOARD, cell, hands_free=True)
        )  # fmt: skip
    clear = Command("board.clear", "Take the cell's last mark back", lambda: teach.mark(None), "Play", "Backspace",
                    "rung erase remove", Scope.BOARD, cell)  # fmt: skip
    step, chosen = (lesson.step_need,), (lesson.chosen_need,)
    steps = [
        Command("lesson.plan", "Plan the lesson", lesson.make, "Play", "P", "minutes school order steps what first",
                Scope.BOARD, (lesson.need,), separated=True),
        Command("lesson.run", "Start the lesson, or end it", runner.toggle, "Play", "Shift+Return",
                "run begin clock by itself stop", Scope.BOARD, (lesson.need,), hands_free=True),
        Command("lesson.again", "The step once more from its beginning", runner.again, "Play", "R", "repeat redo",
                Scope.BOARD, (runner.need,), hands_free=True),
        Command("lesson.extend", "One round more of the step that runs", runner.extend, "Play", "E", "longer lengthen",
                Scope.BOARD, (runner.need,), hands_free=True),
        Command("lesson.next", "Next step of the lesson", lambda: runner.step(1), "Play", "N", "plan forward skip",
                Scope.BOARD, step, hands_free=True),
        Command("lesson.previous", "Step of the lesson before", lambda: runner.step(-1), "Play", "Shift+N", "plan back",
                Scope.BOARD, step, hands_free=True),
        Command("lesson.skip", "Skip the step, or bring it back", lesson.skip, "Play", "X", "plan leave out remove",
                Scope.BOARD, (lesson.skip_need,)),
        Command("lesson.more_rounds", "One round more of the step", lambda: lesson.change_rounds(1), "Play", "+",
                "plan lengthen longer", Scope.BOARD, chosen),
        Command("lesson.fewer_rounds", "One round less of the step", lambda: lesson.change_rounds(-1), "Play", "-",
                "plan shorten", Scope.BOARD, chosen),
        Command("lesson.lock", "Keep the step's rounds, or let them go", lesson.lock, "Play", "K", "plan lock fix",
                Scope.BOARD, chosen),
        Command("lesson.earlier", "The step earlier", lambda: lesson.move(-1), "Play", "Alt+Up", "plan order drag",
                Scope.BOARD, chosen),
        Command("lesson.later", "The step later", lambda: lesson.move(1), "Play", "Alt+Down", "plan order drag",
                Scope.BOARD, chosen),
        Command("lesson.as_proposed", "Plan the lesson as proposed", lesson.as_proposed, "Play", "Shift+P",
                "plan afresh reset undo", Scope.BOARD, step),
    ]  # fmt: skip
    lessons = [
        Command("take.verdict", "Put the take's verdict on the board", teach.takes.put_verdict, "Play", "V",
                "mark result ladder", Scope.TAKES, (teach.takes.verdict_need,)),
        Command("lesson.keep", "Keep the planned lesson in the ledger…", lesson.keep, "Play", "G", "plan date save",
                Scope.BOARD, step),
        Command("lesson.held", "The lesson was held…", lesson.held, "Play", "Shift+G", "did taught done notes",
                Scope.BOARD, (lesson.need,)),
        Command("lesson.why", "Why these figures?", lesson.why, "Play", "W",
                "reason explain difficulty ladder rule source", Scope.BOARD, cell),
        Command("lesson.understood", "Put the cautions away for today", lesson.understood, "Play", "U", "read ok seen",
                Scope.BOARD, (lesson.caution_need,)),
        Command("lesson.cautions", "Read the cautions", lesson.read_cautions, "Help", "",
                "warm up pain break noise hands strings health"),
    ]  # fmt: skip
    walked = (walk.need,)
    in_words = [
        Command("walk_words.next", "Say and sound the next note", lambda: walk.step(1), "Play/In words", "T",
                "voice speak walk through fret string", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.previous", "Say and sound the note before", lambda: walk.step(-1), "Play/In words",
                "Shift+T", "voice speak back", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.again", "Say and sound the note again", walk.say_again, "Play/In words", "A",
                "voice speak repeat", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.phrase", "Say the whole phrase", walk.say_phrase, "Play/In words", "Y",
                "voice speak all grouped", Scope.BOARD, walked, hands_free=True),
        Command("walk_words.script", "The phrase in words…", walk.script, "Play/In words", "Shift+Y",
                "voice text copy print script", Scope.BOARD, walked),
    ]  # fmt: skip
    mirrors = [
        Command("mirror.toggle", "Mirror: what is played over what is written", mirror.toggle, "Play", "J",
                "live pitch tuner cents bend input", Scope.BOARD, cell, checked=lambda: mirror.on, separated=True,
                hands_free=True),
        Command("mirror.gym", "Bend gym at the selected note's place", mirror.toggle_gym, "Play", "Shift+J",
                "train bends sizes landed exercise", Scope.BOARD, hands_free=True),
    ]  # fmt: skip
    return [*commands, clear, *steps, *lessons, *in_words, *mirrors]
