"""Notcher away from its checkout: what a wheel holds that was built from the source archive, and where it keeps what.

Places are those of the XDG Base Directory Specification 0.8 (specifications.freedesktop.org/basedir-spec).
"""

import os
import subprocess
import sys
import tarfile
import zipfile
from pathlib import Path

import pytest

HERE = Path(__file__).parents[1]
SITTING = """
import sys
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
sys.path.insert(0, {tests!r})
import hands
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from notcher.devices import SimulatedLoudspeaker, SimulatedGuitarist
app = QApplication([])
program = Program(Settings(), SimulatedLoudspeaker(), guitar=SimulatedGuitarist())
program.window.show()
QTest.qWaitForWindowActive(program.window)
program.open_path({solo!r})
while not program.score.notes:
    QTest.qWait(10)
hands.press("Ctrl+5")
hands.press("C")
hands.press("Ctrl+T")
hands.press("Ctrl+2")
hands.press("S")
while program.busy or not program.autosave.store.begun:
    QTest.qWait(20)
print("sat", flush=True)
program.settings._store.sync()
"""


@pytest.mark.slow
def test_a_wheel_made_from_the_source_archive_holds_every_file_of_the_package(tmp_path: Path) -> None:
    for made, of in (("sdist", HERE), ("wheel", tmp_path / "source")):
        command = [sys.executable, "-m", "hatchling", "build", "-t", made, "-d", str(tmp_path / "made")]
        subprocess.run(command, cwd=of, check=True, capture_output=True)
        if made == "sdist":
            archive = next((tmp_path / "made").glob("*.tar.gz"))
            with tarfile.open(archive) as source:
                source.extractall(tmp_path / "unpacked", filter="data")
            next((tmp_path / "unpacked").iterdir()).rename(tmp_path / "source")
    with zipfile.ZipFile(next((tmp_path / "made").glob("*.whl"))) as wheel:
        held = {name for name in wheel.namelist() if name.startswith("notcher/")}
        wheel.extractall(tmp_path / "site")
    package = HERE / "src" / "notcher"
    files = (path for path in package.rglob("*") if path.is_file() and "__pycache__" not in path.parts)
    assert held == {f"notcher/{path.relative_to(package)}" for path in files}
    # it hears, away from the checkout
    program = (
        f"import sys; sys.path.insert(0, {str(tmp_path / 'site')!r}); from notcher.cli import main; sys.exit(main())"
    )
    home = {**os.environ, "HOME": str(tmp_path)}
    doctor = subprocess.run(
        [sys.executable, "-c", program, "doctor"], cwd=tmp_path, env=home, capture_output=True, text=True, check=True
    )
    assert "hearing      ok" in doctor.stdout


@pytest.mark.outside(
    what="where settings, data and state are kept",
    source="XDG Base Directory Specification 0.8",
    tolerance="exact",
    why="paths",
    kind="standard",
)
@pytest.mark.slow
def test_everything_is_kept_in_its_place(tmp_path: Path) -> None:
    from notcher.core.formats import Document, write_document
    from notcher.core.score import Note, Phrase, Score

    write_document(Document(Score((Note(0.5, 1.0, 2, 10),), phrases=(Phrase(0, 2, "a"),))), tmp_path / "a.notch")
    places = {f"XDG_{kind}_HOME": str(tmp_path / kind.lower()) for kind in ("CONFIG", "DATA", "STATE", "CACHE")}
    script = SITTING.format(tests=str(HERE / "tests"), solo=str(tmp_path / "a.notch"))
    home = {**os.environ, **places, "HOME": str(tmp_path / "home")}
    (tmp_path / "home").mkdir()
    done = subprocess.run([sys.executable, "-c", script], env=home, capture_output=True, text=True, check=False)
    assert "sat" in done.stdout, done.stderr
    kept = {str(path.relative_to(tmp_path)) for path in tmp_path.rglob("*") if path.is_file()} - {"a.notch"}
    assert "config/notcher/notcher.ini" in kept
    assert "data/notcher/ledger.sqlite" in kept
    assert any(path.startswith("state/notcher/unsaved/") and path.endswith("journal.jsonl") for path in kept)
    strange = [path for path in kept if not path.startswith(("config/notcher/", "data/notcher/", "state/notcher/"))]
    assert strange == []
