"""The Teach bench in its place: the board, lessons, the stand, takes, the mirror, and what is said aloud."""

from dataclasses import dataclass

from notcher.core.teaching import USUAL_BPM, Phase, running_words, step_words
from notcher.ui.benches.context import Context, Installed
from notcher.ui.benches.teach.commands import teach_commands
from notcher.ui.benches.teach.lesson_controller import LessonController
from notcher.ui.benches.teach.lesson_runner import LessonRunner
from notcher.ui.benches.teach.mirror_controller import MirrorController
from notcher.ui.benches.teach.stand_view import StandView
from notcher.ui.benches.teach.take_controller import TakeController
from notcher.ui.benches.teach.take_recorder import TakeRecorder
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.benches.teach.walk_controller import WalkController
from notcher.ui.commands.command import Scope


@dataclass(slots=True, kw_only=True)
class Teach(Installed):
    bench: TeachBench
    recorder: TakeRecorder
    lesson: LessonController
    runner: LessonRunner
    stand: StandView
    mirror: MirrorController
    walk: WalkController
    takes: TakeController


def install(context: Context) -> Teach:
    """Build the bench and what works for it, and connect them."""
    session, player, jobs, settings = context.session, context.player, context.jobs, context.settings
    shell, parent, devices = context.shell, context.parent, context.devices
    recorder = TakeRecorder(devices.speaker, devices.guitar, jobs, parent)
    bench = TeachBench(session, context.practice, recorder)
    lesson = LessonController(
        session, context.practice, context.meaning, jobs, settings, bench, context.today, parent
    )  # fmt: skip
    runner = LessonRunner(bench, player, settings, shell, context.clock, parent)
    mirror = MirrorController(
        session, bench, bench.mirror, devices.guitar, recorder, player, jobs, settings, shell, parent
    )  # fmt: skip
    walk = WalkController(session, bench, player, jobs, settings, shell, devices.voice, parent)
    takes = TakeController(
        session, context.practice, recorder, bench, player, context.sources, settings, shell, context.take_stream
    )  # fmt: skip
    stand = StandView()
    _connect(context, bench, recorder, lesson, runner, stand)

    def show_rungs() -> None:
        """Let a loop that goes faster by itself climb the board's rungs."""
        context.transport.rungs = settings.ladder.paces(session.score.beat_map.tempo_bpm or USUAL_BPM)

    session.score_changed.connect(show_rungs)

    def configure() -> None:
        bench.tab.show_strokes(settings.get("show_strokes"))
        bench.set_along(settings.get("along"))
        bench.set_ladder(settings.ladder)
        bench.climbs = settings.get("climbs")
        show_rungs()
        lesson.show_settings()
        lesson.find_difficulty()
        recorder.levels = settings.levels
        recorder.play_as(settings.get("guitarist"))
        bench.takes.judge_again(settings.thresholds)

    def shown() -> None:
        context.ledger.read_again()
        lesson.find_difficulty()

    def stop() -> None:
        mirror.stop()
        recorder.cancel()

    return Teach(
        bench=bench, recorder=recorder, lesson=lesson, runner=runner, stand=stand, mirror=mirror, walk=walk,
        takes=takes, widget=bench, focus=bench.board,
        commands=teach_commands(bench, takes, lesson, runner, walk, mirror),
        scopes={Scope.BOARD: bench.board_page, Scope.TAKES: bench.takes},
        themed=(bench, stand),
        named=(bench, stand),
        configure=configure,
        shown=shown,
        leave_page=lambda: mirror.leave_page() or bench.leave_page(),
        stop=stop,
    )  # fmt: skip


def _connect(
    context: Context, bench: TeachBench, recorder: TakeRecorder, lesson: LessonController, runner: LessonRunner,
    stand: StandView,
) -> None:  # fmt: skip
    session, player = context.session, context.player
    recorder.moved.connect(context.playhead.go)
    recorder.moved.connect(bench.show_time)
    player.speaker_changed.connect(recorder.use)
    bench.loop_requested.connect(context.transport.play_at)
    bench.pace_changed.connect(context.transport.climb)
    lesson.notice.connect(context.shell.notice)
    bench.why_requested.connect(lesson.why)
    runner.ended.connect(lesson.note_run)
    session.score_changed.connect(lambda: stand.show_score(session.score))

    def show_on_stand(time_s: float) -> None:
        """While a stretch is counted in it is read already, and nothing of what comes before it."""
        span = player.loop_span if player.playing else None
        stand.show_time(time_s if span is None else max(time_s, span[0]))

    context.playhead.moved.connect(show_on_stand)

    def say_lesson() -> None:
        """Let the stand tell where the lesson is."""
        running, plan = runner.running, bench.plan.plan
        if running is not None and plan is not None:
            about = f"{step_words(running.step, plan)}: " if runner.runs else ""
            talk = " ".join(lesson.talk_of(running.step)) if running.phase is Phase.TALK else ""
            stand.say(talk or f"{about}{running_words(running, context.settings.naming)}")

    runner.changed.connect(say_lesson)
