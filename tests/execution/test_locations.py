"""Locations of recordings: files, folders, nested folders; each once, in order; other files are skipped."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from avrin.errors import AvrinError
from avrin.execution.locations import Location, at_hand, locations, stamp
from avrin.execution.partitioning import in_parts


def lay(folder: Path, *names: str) -> Path:
    for name in names:
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text("t,hull\n0,1\n")
    return folder


def names(matches: list[Location]) -> list[str]:
    return [place.name for place in matches]


def test_a_folder_has_all_that_is_in_it_in_the_order_of_their_paths(tmp_path: Path) -> None:
    lay(
        tmp_path, "b/two.CSV", "b/one.csv", "a.jsonl", "b.csv", "b/deep/er/x.parquet", "notes.txt", "b/one.events.jsonl"
    )
    matches = locations([str(tmp_path)])
    assert names(matches) == ["a.jsonl", "b.csv", "b/deep/er/x.parquet", "b/one.csv", "b/two.CSV"]
    assert [place.path for place in matches] == [str(tmp_path / place.name) for place in matches]
    assert {place.size for place in matches} == {11}


def test_several_are_put_together_each_once_and_called_apart(tmp_path: Path) -> None:
    lay(tmp_path, "a/dive.csv", "b/dive.csv", "b/other.csv")
    matches = locations(
        [str(tmp_path / "a"), str(tmp_path / "b"), str(tmp_path / "b/dive.csv"), f"file://{tmp_path}/a"]
    )
    assert names(matches) == [f"{tmp_path}/b/dive.csv", "dive.csv", "other.csv"]


def test_links_in_circles_end(tmp_path: Path) -> None:
    lay(tmp_path, "a/dive.csv")
    (tmp_path / "a/up").symlink_to(tmp_path)
    (tmp_path / "a/self").symlink_to(tmp_path / "a")
    (tmp_path / "b").symlink_to(tmp_path / "a")
    assert len(locations([str(tmp_path)])) == 1


def test_what_is_no_file_is_reported_when_it_is_read_and_not_before(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "gone.csv").symlink_to("/nowhere")
    matches = locations([str(tmp_path)])
    assert names(matches) == ["gone.csv", "pipe.csv"]
    assert stamp(matches[0]) is None


def test_a_folder_nobody_may_look_into_is_a_recording_that_cannot_be_read(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    lay(tmp_path, "a/dive.csv", "shut/x.csv")
    known = os.scandir

    def scandir(path: str) -> object:
        if path.endswith("shut"):
            raise PermissionError(13, "Permission denied")
        return known(path)

    monkeypatch.setattr(os, "scandir", scandir)
    first, second = locations([str(tmp_path)])
    assert (first.name, first.why) == ("a/dive.csv", "")
    assert (second.name, second.why) == ("shut", "the folder cannot be read (permission denied)")


@pytest.mark.parametrize(
    ("wanted", "why"),
    [
        ("nowhere", "cannot be read"), ("empty", "there are no recordings in"), ("notes.txt", "is not a recording"),
        ("gopher://x/y", "cannot be read"), ("s3://bucket/x?colour=red", "'colour' is not an option of it"),
        ("s3://", "it names no bucket"),
    ],
)  # fmt: skip
def test_where_there_is_nothing_is_reported(
    tmp_path: Path, wanted: str, why: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    lay(tmp_path, "notes.txt")
    (tmp_path / "empty").mkdir()
    monkeypatch.chdir(tmp_path)
    with pytest.raises(AvrinError, match=why):
        locations([wanted])


def test_what_is_about_to_be_written_is_none_of_them(tmp_path: Path) -> None:
    lay(tmp_path, "a.csv", "out.csv")
    assert names(locations([str(tmp_path)], but=[tmp_path / "out.csv"])) == ["a.csv"]
    with pytest.raises(AvrinError, match="would be overwritten"):
        locations([str(tmp_path / "out.csv")], but=[tmp_path / "out.csv"])


def test_a_stamp_changes_with_the_file_and_with_what_lies_beside_it(tmp_path: Path) -> None:
    lay(tmp_path, "a.csv")
    (place,) = locations([str(tmp_path)])
    before = stamp(place)
    assert before == stamp(place)
    (tmp_path / "a.events.jsonl").write_text("{}\n")
    beside = stamp(place)
    assert beside != before
    (tmp_path / "a.csv").write_text("t,hull\n0,2\n")
    assert stamp(place) not in (before, beside)
    with at_hand(place) as path:
        assert path == tmp_path / "a.csv"


def test_parts_are_about_as_much_work_each_and_none_is_left_out() -> None:
    matches = [Location("/", f"{i}", 1_000_000 if i % 7 else 30_000_000) for i in range(300)]
    parts = in_parts(matches, 2)
    assert [place for part in parts for place in part] == matches
    assert 60 <= len(parts) <= 140
    costs = [sum(place.size for place in part) for part in parts if len(part) > 1]
    assert max(costs) < 64 << 20
    assert max(len(part) for part in in_parts([Location("/", "a")] * 100_000, 1)) == 64
    assert in_parts([], 2) == []
