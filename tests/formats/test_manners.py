"""How a file is replaced: its permissions, its links, its owner, what a killed writer left, and long or odd names.

POSIX.1-2017: open (umask), rename, symbolic links; the limit of a name is NAME_MAX, 255 bytes on Linux.
"""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from notcher.core.formats import FileError
from notcher.core.formats.files.atomic import atomic_write, link_words, proposed_name


def write(path: Path, content: bytes = b"new") -> None:
    with atomic_write(path) as stream:
        stream.write(content)


@pytest.mark.parametrize(("umask", "mode"), [(0o022, 0o644), (0o077, 0o600), (0o002, 0o664)])
def test_a_new_file_obeys_the_umask(tmp_path: Path, umask: int, mode: int) -> None:
    before = os.umask(umask)
    try:
        write(tmp_path / "a")
    finally:
        os.umask(before)
    assert (tmp_path / "a").stat().st_mode & 0o777 == mode


@pytest.mark.parametrize("mode", [0o600, 0o640, 0o664])
def test_a_file_that_is_there_keeps_its_permissions(tmp_path: Path, mode: int) -> None:
    (tmp_path / "a").write_bytes(b"old")
    (tmp_path / "a").chmod(mode)
    write(tmp_path / "a")
    assert (tmp_path / "a").stat().st_mode & 0o777 == mode
    assert (tmp_path / "a").read_bytes() == b"new"


def test_a_symbolic_link_stays_one_and_its_target_is_written(tmp_path: Path) -> None:
    (tmp_path / "elsewhere").mkdir()
    target, link = tmp_path / "elsewhere" / "real", tmp_path / "link"
    target.write_bytes(b"old")
    link.symlink_to(target)
    write(link)
    assert link.is_symlink()
    assert target.read_bytes() == b"new"
    assert len(list(tmp_path.rglob("*"))) == 3, "and nothing beside them"


def test_a_hard_link_that_stays_behind_is_said(tmp_path: Path) -> None:
    (tmp_path / "a").write_bytes(b"old")
    assert link_words(tmp_path / "a") == ""
    (tmp_path / "b").hardlink_to(tmp_path / "a")
    assert "1 other hard link: these keep" in link_words(tmp_path / "a")
    assert link_words(tmp_path / "missing") == ""


@pytest.mark.skipif(os.geteuid() != 0, reason="only root gives a file to somebody else")
def test_the_owner_is_kept_where_that_is_allowed(tmp_path: Path) -> None:
    (tmp_path / "a").write_bytes(b"old")
    os.chown(tmp_path / "a", 1234, 1235)
    write(tmp_path / "a")
    status = (tmp_path / "a").stat()
    assert (status.st_uid, status.st_gid) == (1234, 1235)


KILLED = """
import os, signal, sys
from notcher.core.formats.files.atomic import atomic_write
with atomic_write(sys.argv[1]) as stream:
    stream.write(b"half")
    stream.flush()
    os.kill(os.getpid(), signal.SIGKILL)
"""


def test_what_a_killed_writer_left_is_swept_by_the_next(tmp_path: Path) -> None:
    path, other = tmp_path / "a.notch", tmp_path / "b.notch"
    for killed in (path, path, other):
        subprocess.run([sys.executable, "-c", KILLED, str(killed)], check=False)
    assert len(list(tmp_path.glob(".*.part"))) == 2, "the second has swept what the first left"
    with atomic_write(path) as stream:
        stream.write(b"whole")
        with atomic_write(path) as second:
            second.write(b"at once")  # who still writes is no leftover
    assert path.read_bytes() == b"whole"
    assert len(list(tmp_path.glob(".*.part"))) == 1, "that of the other file waits for its own next save"


@pytest.mark.parametrize("name", ["x" * 249 + ".notch", "ä" * 124 + ".txt", "a?b", "a%20b", "#a;b", "a\nb"])
def test_every_name_that_a_system_takes_can_be_written(tmp_path: Path, name: str) -> None:
    folder = tmp_path / "a?b" / "c%20d"
    folder.mkdir(parents=True)
    write(folder / name)
    assert (folder / name).read_bytes() == b"new"


def test_a_name_that_is_too_long_is_refused_in_a_sentence(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="could not be written"):
        write(tmp_path / ("x" * 256))


@pytest.mark.parametrize(
    ("title", "name"),
    [("Kelp line", "Kelp line"), ("a/b\\c", "a b c"), ("", "untitled"), ("..", "untitled"), ("  \n\t", "untitled"),
     ("x" * 500, "x" * 200), ("é" * 300, "é" * 100), ('<a:"b">|?*', "a b"), ("half \ud83d", "half")],
)  # fmt: skip
def test_a_title_makes_a_name_that_leads_nowhere_else(title: str, name: str) -> None:
    assert proposed_name(title) == name
