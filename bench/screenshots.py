"""Takes docs/screenshots/ from the demo: `./dev screenshots [--theme stage] [--scale 1.6] [--size 1920x1080]`."""

import argparse
import os
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication, QWidget

from notcher.core.formats import Document, write_document
from notcher.core.proving import Status
from notcher.demo import demo_audio
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker
from notcher.painting.sheet_picture import png_bytes
from notcher.painting.theme import THEMES, load_fonts
from notcher.ui.shell.guide import FOLDER, KEYS, keys_page
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench
from sample_record import sample_rows
from second_composer import second_case
from version_pairs import version_pair

TODAY = date(2026, 3, 12)  # so that every picture tells the same days
SPEED = 8.0  # of the simulated devices


def wait_until(app: QApplication, done: Callable[[], bool], *, seconds: float = 60) -> None:
    """Let the application work until something holds."""
    until = time.monotonic() + seconds
    while not done():
        app.processEvents()
        time.sleep(0.01)
        if time.monotonic() > until:
            sys.exit("the window took too long")
    for _ in range(5):
        app.processEvents()


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--theme", choices=tuple(THEMES), default="paper")
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--size", default="1280x800")
    parser.add_argument("--to", default=str(Path(__file__).parents[1] / "docs" / "screenshots"))
    options = parser.parse_args()
    folder = Path(options.to)
    folder.mkdir(parents=True, exist_ok=True)
    app = QApplication(sys.argv[:1])
    load_fonts()
    with tempfile.TemporaryDirectory() as scratch:
        settings = Settings(QSettings(str(Path(scratch) / "settings.ini"), QSettings.Format.IniFormat))
        settings.set("theme", options.theme)
        settings.set("text_scale", options.scale)
        settings.set("guitarist", "short of the top")
        settings.set("latency_ms", 120.0)
        program = Program(
            settings,
            SimulatedLoudspeaker(speed=SPEED),
            guitar=SimulatedGuitarist(speed=SPEED),
            footswitch=KeyFootswitch(),
            state=Path(scratch) / "state",
            now=lambda: datetime.combine(TODAY, datetime.now().time()),
        )
        program.window.resize(*(int(part) for part in options.size.split("x")))
        program.window.show()
        saved(app, program.window, folder / f"start{'' if options.theme == 'paper' else '-' + options.theme}.png")
        program.opening.open_demo()
        wait_until(app, lambda: program.score.notes != () and not program.busy)
        take_pictures(app, program, folder, options.theme)
        keys = ((str(command.scope), command.label, command.keys) for command in program.commands)
        (FOLDER / f"{KEYS}.md").write_text(keys_page(keys), "utf-8")
        picture_of_a_take(app, program, folder, options.theme)
        picture_of_the_mirror(app, program, folder, options.theme)
        picture_of_doubts(app, program, folder, options.theme)
        picture_of_sheets(app, program, folder, options.theme)
        picture_of_another_version(app, program, folder, options.theme, Path(scratch))
        picture_of_the_catalogue(app, program, folder, options.theme, Path(scratch))
        program.saved()
        program.open_path(str(demo_audio("mix")))
        wait_until(app, lambda: program.session.analysis is not None and not program.busy)
        picture_of_shapes(app, program, folder, options.theme)
        program.saved()
        program.close()


def saved(app: QApplication, widget: QWidget, path: Path) -> None:
    """Draw a widget into a file; tiles are sharpened one by one, so let them."""
    for _ in range(30):
        app.processEvents()
        time.sleep(0.005)
    widget.grab().save(str(path))


def picture_of_sheets(app: QApplication, program: Program, folder: Path, theme: str) -> None:
    """The Sheets bench, and the first page as it is printed."""
    suffix = "" if theme == "paper" else f"-{theme}"
    program.show(Bench.SHEETS)
    program.window.notices.quiet()
    wait_until(app, lambda: bool(program.sheets.view.pages) and not program.busy)
    program.sheets.view.fit("page")
    saved(app, program.window, folder / f"sheets{suffix}.png")
    if theme == "paper":  # a page is white on every bench
        (folder / "sheet.png").write_bytes(png_bytes(program.sheets.view.pages[0], 100))


def picture_of_another_version(app: QApplication, program: Program, folder: Path, theme: str, scratch: Path) -> None:
    """The demo against a version of it with another tempo, key and some other notes."""
    suffix = "" if theme == "paper" else f"-{theme}"
    path = scratch / "Lantern Watch, second night.notch"
    write_document(Document(version_pair(program.document.score, 5).second), path)
    program.shaping.comparing.compare(str(path))
    wait_until(app, lambda: program.bench is Bench.SHAPES and not program.busy)
    program.shapes.versions.step(1)
    saved(app, program.window, folder / f"versions{suffix}.png")


def picture_of_the_catalogue(app: QApplication, program: Program, folder: Path, theme: str, scratch: Path) -> None:
    """Phrases of invented solos, looked for in words."""
    suffix = "" if theme == "paper" else f"-{theme}"
    solos = scratch / "solos"
    solos.mkdir()
    for seed, title in enumerate(("Fog signal", "Dog watch", "Lamp room", "Slack water", "Riding light")):
        write_document(Document(replace(second_case(seed).score, title=title)), solos / f"{title}.notch")
    write_document(Document(program.document.score), solos / "Lantern Watch.notch")
    program.show(Bench.NOTCH)
    program.run("catalogue.show")
    wait_until(app, lambda: program.record.catalogue.view is not None and not program.busy)
    program.record.catalogue.gather(str(solos))
    wait_until(app, lambda: not program.busy)
    program.record.catalogue.line.setText("minor bends")
    program.record.catalogue.search()
    wait_until(app, lambda: not program.busy)
    program.window.notices.quiet()
    saved(app, program.window, folder / f"catalogue{suffix}.png")
    program.record.catalogue.hide()


def picture_of_shapes(app: QApplication, program: Program, folder: Path, theme: str) -> None:
    """What comes again in the solo, with one playing chosen; then degrees and licks over the tab."""
    suffix = "" if theme == "paper" else f"-{theme}"
    program.run("chords.propose")
    wait_until(app, lambda: program.meaning.score is program.score and not program.busy)
    program.show(Bench.SHAPES)
    program.shapes.view._go(2, 1)
    program.window.notices.quiet()
    saved(app, program.window, folder / f"shapes{suffix}.png")
    program.show(Bench.NOTCH)
    for command in ("view.degrees", "view.licks"):
        program.run(command)
    program.session.select(program.score.notes[22].id)
    program.notch.tab.show_span(10.6, 18.0)
    program.window.notices.quiet()
    saved(app, program.window, folder / f"notch-meaning{suffix}.png")
    for command in ("view.degrees", "view.licks"):
        program.run(command)


def picture_of_a_take(app: QApplication, program: Program, folder: Path, theme: str) -> None:
    """A simulated guitarist whose bends stay short, recorded along with the band."""
    program.show(Bench.TEACH)
    board = program.teach.board
    board.go(2, 4)
    program.teach.set_along("band")
    program.teaching.takes.record_take()
    wait_until(app, lambda: bool(program.teach.takes.takes) and program.teaching.recorder.state == "idle")
    program.window.notices.quiet()
    saved(app, program.window, folder / f"take{'' if theme == 'paper' else f'-{theme}'}.png")
    program.teach.show_takes(False)
    board.go(0, 1)


def picture_of_the_mirror(app: QApplication, program: Program, folder: Path, theme: str) -> None:
    """A simulated guitarist whose bends stay short, seen while he plays."""
    guitar = program.guitar
    guitar._speed = 1.0  # type: ignore[attr-defined]  # pitch is heard in real time
    guitar.latency_s = 0.0  # type: ignore[attr-defined]
    program.show(Bench.TEACH)
    program.teach.board.go(0, 6)
    program.player.set_pace(1.0)
    program.teaching.mirror.toggle()
    wait_until(app, lambda: guitar.recording)
    until = time.monotonic() + 3.2
    wait_until(app, lambda: time.monotonic() > until)
    program.window.notices.quiet()
    saved(app, program.window, folder / f"mirror{'' if theme == 'paper' else f'-{theme}'}.png")
    program.teaching.mirror.stop()
    guitar._speed, guitar.latency_s = SPEED, 0.12  # type: ignore[attr-defined]
    program.player.set_pace(0.5)


def picture_of_doubts(app: QApplication, program: Program, folder: Path, theme: str) -> None:
    """A tab with wrong claims, held against the recording; the shortest bend is chosen."""
    session, run = program.session, program.commands.run
    bent = [i for i, note in enumerate(session.score.notes) if note.reading.bend_semitones > 1.8]
    plain = [i for i, note in enumerate(session.score.notes) if note.reading.bend_semitones == 0 and i > 20]
    session.select(session.score.notes[bent[0]].id)
    run("bend.less")
    session.select(session.score.notes[bent[2]].id)
    run("bend.further")
    session.select(session.score.notes[plain[0]].id)
    program.notch.editor.type_fret(session.score.notes[plain[0]].fret + 1)
    session.select(session.score.notes[plain[30]].id)
    run("note.delete")
    program.show(Bench.PROVE)
    wait_until(app, lambda: program.prove.proof is not None and not program.busy)
    session.select(session.score.notes[bent[0]].id)

    def row_of_the_bend() -> int | None:
        rows = program.prove.model.rows
        findings = [row.finding for row in rows]
        return next((i for i, f in enumerate(findings) if f and f.index == bent[0] and f.status == Status.BEND), None)

    wait_until(app, lambda: row_of_the_bend() is not None and not program.busy)
    program.prove.list.selectRow(row_of_the_bend() or 0)
    saved(app, program.window, folder / f"prove{'' if theme == 'paper' else f'-{theme}'}.png")
    program.saved()


def take_pictures(app: QApplication, program: Program, folder: Path, theme: str) -> None:
    """Save one picture of each bench, the tab from near and the legend."""

    def save(name: str) -> None:
        saved(app, program.window, folder / f"{name}.png")

    suffix = "" if theme == "paper" else f"-{theme}"
    score = program.score
    program.notch.tab.go_to(0.0)
    bent = next(i for i, note in enumerate(score.notes) if note.reading.bend_semitones > 2.5)
    program.session.select(program.score.notes[bent].id)
    program.player.seek(score.notes[bent].onset_s + 0.2)
    save(f"notch{suffix}")
    program.notch.tab.show_span(score.notes[0].onset_s, score.notes[0].onset_s + 4.2)
    program.transport.loop_phrase()
    save(f"notch-near{suffix}")
    program.notch.show_all()
    program.player.set_loop(None)
    program.show(Bench.HEAR)
    program.window.notices.quiet()
    program.notch.tab.show_span(0.0, 18.0)
    save(f"hear{suffix}")
    program.show(Bench.TEACH)
    state = program.ledger
    rows = sample_rows(score, program.document.id, TODAY)
    state.ask(lambda record: record.put(*rows), lambda _none: state.read_again())
    wait_until(app, lambda: "sample-1" in state.book.students)
    state.choose("sample-1")
    wait_until(app, lambda: "sample-1" in state.book.read_of and bool(program.passes))
    program.teaching.lesson.make()
    wait_until(app, lambda: program.teach.plan.plan is not None)
    program.teach.plan.move(1)
    save(f"teach{suffix}")
    program.whole_screen.toggle()
    program.window.showNormal()
    program.player.seek(score.notes[12].onset_s)
    save(f"stand{suffix}")
    program.show(Bench.LEDGER)
    for page, name in ((1, "queue"), (3, "progress")):
        program.record.bench.show_page(page)
        save(f"ledger-{name}{suffix}")
    program.show(Bench.NOTCH)
    legend = program.dialogs.made_legend()
    legend.show()
    for _ in range(5):
        app.processEvents()
    legend.grab().save(str(folder / f"legend{suffix}.png"))
    legend.close()


if __name__ == "__main__":
    main()
