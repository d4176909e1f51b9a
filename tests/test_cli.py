"""The command line is a contract: exit codes, one line for a failure, never half a file."""

import json
import os
import subprocess
import sys
from pathlib import Path

import jsonschema
import numpy as np
import pytest
import soundfile

from notcher import __version__
from notcher.cli import COMMANDS, main
from notcher.core.formats import Document, read_document, write_document
from notcher.core.formats.files.atomic import schema
from notcher.core.hearing import SURE_OF_TUNING
from notcher.core.ledger import LoggedPass, Student
from notcher.core.ledger.record import Record
from notcher.core.ledger.store import Ledger
from notcher.core.proving import Result
from notcher.core.score import BeatMap, Chord, Note, Score
from notcher.demo import demo_score


def run(*words: str, **environment: str) -> subprocess.CompletedProcess[str]:
    clean = {key: value for key, value in os.environ.items() if key not in ("DISPLAY", "WAYLAND_DISPLAY")}
    command = [sys.executable, "-m", "notcher", *words]
    return subprocess.run(
        command, capture_output=True, text=True, timeout=120, env={**clean, **environment}, check=False
    )


@pytest.mark.slow
def test_a_recording_is_drafted_to_events_document_and_pitch(lick_file: Path, tmp_path: Path) -> None:
    events, score, pitch = (str(tmp_path / name) for name in ("a.events.json", "a.notch", "a.csv"))
    done = run("draft", str(lick_file), "-o", events, "--score", score, "--f0", pitch, "--tuning", "standard")
    assert (done.returncode, done.stdout) == (0, "")
    data = json.loads(Path(events).read_text("utf-8"))
    jsonschema.validate(data, schema("events"))
    assert [note["fretted_midi"] for note in data["notes"]] == [67, 69, 71, 74, 64, 67]
    assert data["recording"]["duration_s"] == pytest.approx(6.0)
    for ending in ("txt", "musicxml"):
        assert main(["export", score, str(tmp_path / f"a.{ending}")]) == 0
    assert main(["place", events, "-o", str(tmp_path / "b.json"), "--school", "easy"]) == 0
    assert main(["import", events, "-o", str(tmp_path / "b.notch")]) == 0


def test_tabs_of_others_are_imported_and_what_is_not_understood_is_told(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    tab = tmp_path / "lamp.txt"
    tab.write_text("e|--5--$---|\nB|--7------|\nG|---------|\nD|---------|\nA|---------|\nE|---------|\n")
    out = tmp_path / "lamp.notch"
    assert main(["import", str(tab), "-o", str(out)]) == 0
    assert capsys.readouterr().err == "line 1, column 8: the sign '$'\n"
    assert [(note.string, note.fret) for note in read_document(out).score.notes] == [(1, 5), (2, 7)]
    assert main(["export", str(out), str(tmp_path / "again.musicxml")]) == 0
    assert main(["import", str(tmp_path / "again.musicxml"), "-o", str(out)]) == 0
    assert [(note.string, note.fret) for note in read_document(out).score.notes] == [(1, 5), (2, 7)]
    capsys.readouterr()
    (tmp_path / "letter.txt").write_text("Dear keeper,\n")
    assert main(["import", str(tmp_path / "letter.txt"), "-o", str(tmp_path / "no.notch")]) == 2
    assert "There is no tab in this text" in capsys.readouterr().err
    assert not (tmp_path / "no.notch").exists()


def test_a_part_keeps_the_recordings_time(lick_file: Path, tmp_path: Path) -> None:
    out = tmp_path / "a.json"
    assert main(["draft", str(lick_file), "-o", str(out), "--from", "3.2", "--to", "5.5", "--quiet"]) == 0
    onsets = [note["onset_s"] for note in json.loads(out.read_text())["notes"]]
    assert onsets == pytest.approx([3.5, 4.0], abs=0.03)


def test_a_tuning_that_nothing_tells_is_a_guess(
    lick_file: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "a.json"
    assert main(["draft", str(lick_file), "-o", str(out)]) == 0
    said = capsys.readouterr().err
    data = json.loads(out.read_text())
    jsonschema.validate(data, schema("events"))
    shares = [ranked["p"] for ranked in data["tunings"]]
    assert shares == sorted(shares, reverse=True)
    assert sum(shares) == pytest.approx(1, abs=1e-3)
    assert data["tunings"][0]["open_midi"] == data["tuning"]["open_midi"]
    assert ("The tuning is a guess" in said) == (shares[0] < SURE_OF_TUNING)


def silence(path: Path, seconds: float) -> str:
    soundfile.write(path, np.zeros(round(44_100 * seconds)), 44_100)
    return str(path)


def test_bad_input_is_one_clear_sentence(tmp_path: Path, lick_file: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = str(tmp_path / "out.json")
    text = tmp_path / "text.wav"
    text.write_text("not a sound")
    damaged = tmp_path / "bad.notch"
    damaged.write_bytes(b"PK\x03\x04 rubbish")
    liar = tmp_path / "lies.flac"  # the header promises three seconds, the file breaks off
    soundfile.write(liar, 0.1 * np.random.default_rng(0).standard_normal(3 * 44_100), 44_100)
    liar.write_bytes(liar.read_bytes()[:60_000])
    (tmp_path / "empty.wav").write_bytes(b"")
    cases = (
        (["draft", str(liar), "-o", out], "cannot be read as sound"),
        (["draft", str(tmp_path / "empty.wav"), "-o", out], "cannot be read as sound"),
        (["draft", str(tmp_path / "none.wav"), "-o", out], "There is no file 'none.wav'"),
        (["draft", str(text), "-o", out], "cannot be read as sound"),
        (["draft", silence(tmp_path / "s.wav", 2.0), "-o", out], "digital silence"),
        (["draft", silence(tmp_path / "t.wav", 0.05), "-o", out], "lasts only 50 ms"),
        (["draft", str(lick_file), "-o", out, "--tuning", "banjo"], "is no tuning"),
        (["draft", str(lick_file), "-o", out, "--from", "99"], "Nothing lies between"),
        (["draft", str(lick_file), "-o", "/nowhere/a.json"], "There is no folder"),
        (["draft", str(lick_file), "-o", "/proc/a.json", "--quiet"], "could not be written"),
        (["draft"], "arguments are required"),
        (["draft", str(lick_file), "-o", out, "--focus", "above"], "invalid choice"),
        (["export", str(damaged), str(tmp_path / "a.txt")], "damaged or no Notcher document"),
        (["place", str(text), "-o", out], "damaged or no JSON"),
    )
    for words, said in cases:
        assert main(words) == 2, words
        captured = capsys.readouterr()
        assert said in captured.err, words
        assert captured.err.count("\n") == 1, captured.err
        assert captured.out == ""
    assert not Path(out).exists()


def test_version_and_help() -> None:
    assert run("--version").stdout == f"Notcher {__version__}\n"
    assert "draft" in run("--help").stdout


def test_without_a_screen_it_says_so() -> None:
    done = run("demo", QT_QPA_PLATFORM="")
    assert done.returncode == 2
    assert "There is no screen here" in done.stderr
    assert "Traceback" not in done.stderr


def test_a_window_is_not_opened_for_a_file_that_is_not_there() -> None:
    done = run("no such recording.wav", QT_QPA_PLATFORM="offscreen")
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "There is no file 'no such recording.wav'" in done.stderr


@pytest.mark.slow
def test_the_toolkit_is_silent_on_the_terminal() -> None:
    """What Qt and its sound backends say of themselves does not reach whoever typed `notcher`."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    window = subprocess.Popen(
        [sys.executable, "-m", "notcher", "demo"], stderr=subprocess.PIPE, stdout=subprocess.PIPE, env=environment
    )
    try:
        said = window.communicate(timeout=8)
    except subprocess.TimeoutExpired:
        window.terminate()
        said = window.communicate()
    assert said == (b"", b"")


def test_our_own_fault_is_exit_1(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr("notcher.cli._run", lambda words: 1 / 0)
    assert main(["draft"]) == 1
    assert "Please report it" in capsys.readouterr().err


@pytest.mark.parametrize("words", [["-h"], ["--help"]])
def test_the_help_names_every_command(words: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert main(words) == 0
    said = capsys.readouterr().out
    assert max(len(line) for line in said.splitlines()) <= 120
    for name, purpose in COMMANDS.items():
        assert purpose in said
        with pytest.raises(SystemExit, match="0"):
            main([name, "--help"])
        assert f"usage: notcher {name}" in capsys.readouterr().out


@pytest.mark.slow
def test_patterns_are_told_in_words_and_as_json(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, score = tmp_path / "demo.notch", demo_score()
    write_document(Document(score), path)
    assert main(["patterns", str(path)]) == 0
    assert capsys.readouterr().out.startswith("Learn ")
    assert main(["patterns", str(path), "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    jsonschema.Draft7Validator.check_schema(schema("patterns"))
    jsonschema.validate(data, schema("patterns"))
    assert data["notes"] == len(score.notes)
    explained = {
        at
        for shape in data["shapes"]
        if shape["kind"] != "rhythm"
        for told in shape["occurrences"][1:]
        for at in range(told["first"], told["last"] + 1)
        if at not in told.get("but", [])
    }
    assert data["to_learn"] == data["notes"] - len(explained), "it follows from the shapes"
    turned = {at for group in data["groups"] for at in range(group["first"] + group["size"], group["last"] + 1)}
    assert len(turned - explained) <= 2 * len(data["groups"])
    assert [target["index"] for target in data["targets"]] == list(range(len(score.notes)))
    assert [phrase["id"] for phrase in data["phrases"]] == [phrase.id for phrase in read_document(path).score.phrases]
    assert main(["patterns", str(path), "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == data, "the same at every run"


@pytest.mark.parametrize("beats", [True, False])
def test_patterns_of_what_is_hardly_a_solo(beats: bool, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "a.notch"
    beat_map = BeatMap.steady(120, 0.0) if beats else BeatMap()
    write_document(Document(Score((Note(0.5, 1.0, 2, 5),), beat_map=beat_map, chords=(Chord(0.0, "Hmm"),))), path)
    assert main(["patterns", str(path), "--json"]) == 0
    told = capsys.readouterr()
    jsonschema.validate(json.loads(told.out), schema("patterns"))
    assert "'Hmm' at 0.00 s means nothing" in told.err
    assert all(phrase["id"] for phrase in json.loads(told.out)["phrases"])
    assert main(["patterns", str(path), "--json"]) == 0
    assert capsys.readouterr().out == told.out, "the same at every run"
    write_document(Document(Score()), path)
    assert main(["patterns", str(path)]) == 2
    assert "holds no notes" in capsys.readouterr().err


@pytest.mark.slow
def test_a_reader_who_has_seen_enough_is_no_failure(tmp_path: Path) -> None:
    write_document(Document(demo_score()), path := tmp_path / "solo.notch")
    plan = subprocess.Popen(
        [sys.executable, "-m", "notcher", "plan", str(path), "--minutes", "60"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    assert plan.stdout is not None
    plan.stdout.close()
    _, said = plan.communicate(timeout=120)
    assert (plan.returncode, said) == (0, "")


@pytest.mark.slow
def test_a_lesson_for_a_student_of_the_ledger(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """What the ledger tells of a student makes another plan than nothing known; names that are not there are told."""
    score = demo_score()
    document = Document(score)
    write_document(document, path := tmp_path / "solo.notch")
    solo, data = read_document(path).id, tmp_path / "notcher" / "ledger.sqlite"
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))

    def asked(*words: str) -> tuple[int, str, str]:
        code = main(["plan", str(path), *words])
        printed = capsys.readouterr()
        return code, printed.out, printed.err

    assert asked("--student", "Marit") == (
        2, "", "notcher: There is no ledger yet. Note the student on the Students bench first.\n"
    )  # fmt: skip
    assert not data.exists(), "to ask makes nothing"
    ledger = Ledger(data)
    student = Student("Marit", lesson_order="from-the-end")
    first = score.phrases[-1].id
    Record(ledger).put(
        student, Student("Bo", id="a"), Student("bo", id="b"),
        *(LoggedPass(student.id, solo, (first,), 0.8, Result.CLEAN, f"2026-03-01T18:0{at}:00") for at in range(5)),
    )  # fmt: skip
    ledger.close()
    code, printed, problem = asked("--student", "marit", "--minutes", "25", "--json")
    assert code == 0, problem
    plan = json.loads(printed)
    jsonschema.validate(plan, schema("plan"))
    assert plan["school"] == "from-the-end", "the student's own"
    steps = [step for step in plan["steps"] if not step.get("listen")]
    assert (steps[0]["kind"], steps[0]["phrases"], steps[0]["pace"]) == ("warm-up", [first], 0.7)
    assert (steps[1]["kind"], steps[1]["phrases"], steps[1]["pace"]) == ("review", [first], 0.8)
    assert "is due again" in steps[1]["why"]
    assert plan["planned_minutes"] == pytest.approx(25, rel=0.05)
    _, other, _ = asked("--student", "Marit", "--school", "pairs", "--json")
    assert json.loads(other)["school"] == "pairs", "unless another is asked for"
    for name, said in (("Olly", "There is Bo, bo, Marit."), ("BO", "There are 2 students called 'BO'.")):
        code, _, problem = asked("--student", name)
        assert code == 2
        assert said in problem
    data.write_bytes(b"no ledger" * 500)
    code, _, problem = asked("--student", "Marit")
    assert code == 2
    assert "damaged or no ledger" in problem
