"""Files written whole or not at all; caches that are sealed; what is never written over."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

import avrin
from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_file, atomic_write, clear_leftovers, protecting
from avrin.storage.cache import cache_evict, cache_get, cache_put, cache_read_into, code_stamp
from avrin.storage.files import dumps, loads


def test_what_was_there_stays_when_writing_ends_otherwise(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    atomic_write(path, b"old")

    def half() -> None:
        with atomic_file(path) as file:
            file.write(b"half of what")
            raise RuntimeError

    with pytest.raises(RuntimeError):
        half()
    assert path.read_bytes() == b"old"
    assert [one.name for one in tmp_path.iterdir()] == ["a.txt"]


def test_a_link_stays_one_and_what_it_leads_to_is_written(tmp_path: Path) -> None:
    (tmp_path / "real").mkdir()
    real, link = tmp_path / "real" / "a.txt", tmp_path / "a.txt"
    real.write_bytes(b"old")
    real.chmod(0o640)
    link.symlink_to(real)
    atomic_write(link, b"new")
    assert link.is_symlink()
    assert (real.read_bytes(), real.stat().st_mode & 0o777) == (b"new", 0o640)
    gone = tmp_path / "gone.txt"
    gone.symlink_to(tmp_path / "real" / "b.txt")
    atomic_write(gone, b"there")
    assert (tmp_path / "real" / "b.txt").read_bytes() == b"there"


def test_what_is_read_only_is_said_and_kept(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_bytes(b"old")
    path.chmod(0o444)
    with pytest.raises(AvrinError, match="is read-only"):
        atomic_write(path, b"new")
    assert path.read_bytes() == b"old"


def test_nothing_is_written_over_what_is_read(tmp_path: Path) -> None:
    path, other = tmp_path / "a.txt", tmp_path / "b.txt"
    path.write_bytes(b"old")
    os.link(path, other)
    for name in (path, other, tmp_path / "." / "a.txt"):
        with protecting([path]), pytest.raises(AvrinError, match="overwritten"):
            atomic_write(name, b"new")
    with protecting([path]):
        atomic_write(tmp_path / "c.txt", b"new")
    atomic_write(path, b"new")
    assert (path.read_bytes(), other.read_bytes()) == (b"new", b"old")


def test_what_killed_programs_began_is_cleared_and_what_others_write_is_not(tmp_path: Path) -> None:
    script = (
        "import os, sys; from pathlib import Path; from avrin.storage.atomic import atomic_file\n"
        "with atomic_file(Path(sys.argv[1])) as file:\n    file.write(b'half'); file.flush(); os._exit(9)"
    )
    subprocess.run([sys.executable, "-c", script, str(tmp_path / "a.txt")], check=False)
    (left,) = tmp_path.iterdir()
    theirs = tmp_path / ".somebody.part"
    theirs.write_text("not ours")
    with atomic_file(tmp_path / "b.txt") as file:
        file.write(b"in time")
        assert clear_leftovers(tmp_path) == 1
    assert not left.exists()
    assert sorted(one.name for one in tmp_path.iterdir()) == [".somebody.part", "b.txt"]


@given(st.binary(max_size=200), st.data())
def test_what_is_cut_or_spoilt_anywhere_is_not_taken_for_good(data: bytes, draw: st.DataObject) -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "deep" / "kept"
        assert cache_get(path) is None
        assert cache_put(path, data)
        assert cache_get(path) == data
        whole = bytearray(path.read_bytes())
        at = draw.draw(st.integers(0, len(whole) - 1))
        path.write_bytes(whole[:at])
        assert cache_get(path) is None
        whole[at] ^= draw.draw(st.integers(1, 255))
        path.write_bytes(whole)
        assert cache_get(path) is None


@given(st.binary(min_size=1, max_size=200), st.integers(0, 9), st.data())
def test_what_is_read_where_it_is_wanted_is_what_is_read_otherwise(data: bytes, head: int, draw: st.DataObject) -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        path, room, told = Path(folder) / "kept", bytearray(300), [0]

        def place(first: bytes, size: int) -> memoryview:
            assert first == data[:head]
            told[0] = size
            return memoryview(room)[:size]

        assert not cache_read_into(path, head, place)
        cache_put(path, data)
        assert cache_read_into(path, head, place) == (head < len(data)), "something must follow the head"
        if head < len(data):
            assert told[0] == len(data) - head
            assert room[: told[0]] == data[head:]
            assert not cache_read_into(path, head, lambda *_: None)
            assert not cache_read_into(path, head, lambda *_: memoryview(room)), "of another size than announced"
        whole = bytearray(path.read_bytes())
        at = draw.draw(st.integers(0, len(whole) - 1))
        path.write_bytes(whole[:at])
        assert not cache_read_into(path, head, lambda _, size: memoryview(room)[:size])
        whole[at] ^= draw.draw(st.integers(1, 255))
        path.write_bytes(whole)
        assert not cache_read_into(path, head, lambda _, size: memoryview(room)[:size])


def test_what_earlier_versions_kept_is_taken_away_after_a_while(tmp_path: Path) -> None:
    for name, days in (("rules-1", 14.1), ("rules-2", 13.9), ("rulers-1", 40), ("rules-3", 40)):
        cache_put(tmp_path / name, b"x")
        os.utime(tmp_path / name, (time.time() - days * 86400,) * 2)
    cache_put(tmp_path / "rules-3", b"y", outdated="rules-?")
    assert sorted(path.name for path in tmp_path.iterdir()) == ["rulers-1", "rules-2", "rules-3"]
    assert cache_get(tmp_path / "rules-3") == b"y"
    cache_put(tmp_path / "rulers-2", b"z")
    assert (tmp_path / "rulers-1").exists(), "only if its meaning is recorded"


@pytest.mark.parametrize(
    ("limits", "left"),
    [
        ({}, "abcde"), ({"max_files": 5}, "abcde"), ({"max_files": 2}, "de"), ({"max_files": 2, "spare": "a"}, "ae"),
        ({"max_bytes": 30}, "cde"), ({"max_bytes": 29}, "de"), ({"max_bytes": 9, "spare": "b"}, "b"),
        ({"max_age_s": 250}, "de"), ({"max_age_s": 250, "spare": "a"}, "ade"), ({"max_files": 0}, ""),
    ],
)  # fmt: skip
def test_the_oldest_entries_of_a_cache_are_deleted_first(tmp_path: Path, limits: dict[str, Any], left: str) -> None:
    """Five entries of 10 bytes, written 100 s apart, one of them a folder; and one of another name."""
    for age, name in enumerate("edcba", 1):
        if name == "c":
            (tmp_path / name).mkdir()
            size = (tmp_path / name).stat().st_size
        else:
            (tmp_path / name).write_bytes(bytes(10))
        os.utime(tmp_path / name, (time.time() - 100 * age,) * 2)
    (tmp_path / "other").write_text("x")
    if "max_bytes" in limits:  # the size of an empty folder is the file system's
        limits = {**limits, "max_bytes": limits["max_bytes"] + (size - 10 if limits["max_bytes"] == 30 else 0)}
    if "spare" in limits:
        limits = {**limits, "spare": tmp_path / limits["spare"]}
    cache_evict(tmp_path, "?", **limits)
    assert "".join(sorted(path.name for path in tmp_path.iterdir())) == "".join(sorted([*left, "other"]))
    cache_evict(tmp_path / "missing", max_files=0)  # nothing to delete, and no error


def test_a_cache_that_cannot_be_written_costs_nothing_but_time(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    assert not cache_put(tmp_path / "file" / "kept", b"x")
    assert cache_get(tmp_path / "file" / "kept") is None


def test_the_stamp_changes_with_the_programs_files(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from avrin.storage import cache

    (tmp_path / "model").mkdir()
    (tmp_path / "part").mkdir()
    (tmp_path / "model" / "cache.py").write_text("")
    module = tmp_path / "part" / "a.py"
    module.write_text("x = 1")
    monkeypatch.setattr(cache, "__file__", str(tmp_path / "model" / "cache.py"))
    stamps: list[str] = []
    for content in ("x = 1", "x = 12", "x = 13"):
        module.write_text(content)
        os.utime(module, ns=(0, len(stamps)))
        code_stamp.cache_clear()
        stamps.append(code_stamp("part"))
    assert len(set(stamps)) == 3
    code_stamp.cache_clear()
    assert code_stamp("part") == stamps[-1]
    code_stamp.cache_clear()
    assert code_stamp("gone.py") != code_stamp("part"), "what cannot be looked at answers nothing"
    code_stamp.cache_clear()


@pytest.mark.parametrize("deep", [50, 99, 100, 400, 5000])
def test_what_opens_can_be_saved_however_deep_it_is(deep: int) -> None:
    text = '{"format": "avrin/1", "odd": ' + '{"a": ' * (deep - 1) + "1" + "}" * deep
    try:
        project, _ = loads(text.encode())
    except AvrinError as error:
        assert "nested too deeply" in str(error)
        assert deep > 99
    else:
        assert loads(dumps(project).encode())[0] == project
        assert deep < 101


def test_every_stamp_names_files_of_the_program() -> None:
    source = Path(avrin.__file__).parent
    for file in source.rglob("*.py"):
        for call in re.findall(r"code_stamp\((['\"][^)]*)\)", file.read_text("utf-8")):
            for part in re.findall(r"['\"]([^'\"]+)['\"]", call):
                assert (source / part).exists(), f"{file.name}: {part}"
