"""Nothing that is read is written over, no write leaves half a file, and a spoilt cache never shows something false."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import pytest

from avrin.cli import main
from avrin.trace import columnar_cache, store
from avrin.trace.store import open_trace, save_trace


@pytest.fixture
def game(brief: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The sample in a folder of its own, with a cache of its own."""
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "cache"))
    shutil.copytree(brief.parent, tmp_path / "game")
    return tmp_path / "game"


def content(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


P, T, CALM = "brinehook.avrin", "traces/leaky-dive.csv", "traces/calm-dive.csv"
OVER = [
    ["check", P, "--out", P], ["check", P, "--trace", T, "--out", T], ["check", P, "--out", CALM],
    ["check", P, "--out", "plates/shelf.svg"], ["eval", "hull", "--trace", T, "--out", T],
    ["eval", "hull", "--trace", T, "--out", "traces/leaky-dive.events.jsonl"], ["track", P, "--trace", T, "--out", T],
    ["track", P, "--trace", T, "--out", CALM], ["trace", "convert", T, T], ["trace", "make", P, "--out", T],
    ["ladder", P, "--out", "plates/wreck.svg"], ["frame", P, "--trace", T, "--at", "3", "--out", "plates/shelf.svg"],
]  # fmt: skip


@pytest.mark.parametrize("arguments", OVER)
def test_no_command_writes_over_what_it_reads(
    game: Path, arguments: list[str], monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(game)
    before = content(game)
    assert main(arguments) == 2
    assert content(game) == before
    (line,) = capsys.readouterr().err.splitlines()
    assert "overwritten" in line or "read as its events" in line


@pytest.mark.parametrize("wrong", ["an input", "read-only"])
def test_a_file_that_may_not_be_written_is_reported_before_the_work(
    game: Path, wrong: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def nobody(*_: object, **__: object) -> None:
        raise AssertionError("no work expected")

    monkeypatch.chdir(game)
    monkeypatch.setattr("avrin.findings.batch.inspect_all", nobody)
    out = game / (P if wrong == "an input" else "found.txt")
    if wrong == "read-only":
        out.write_text("theirs")
        out.chmod(0o444)
    assert main(["check", P, "--out", str(out)]) == 2
    (line,) = capsys.readouterr().err.splitlines()
    assert wrong in line


def test_what_lies_beside_a_new_table_is_neither_removed_nor_taken_for_its_events(
    game: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    theirs = game / "x.events.jsonl"
    theirs.write_text('{"avrin_log": 1}\n')
    assert main(["eval", "hull", "--trace", str(game / T), "--out", str(game / "x.csv")]) == 2
    assert "is next to it" in capsys.readouterr().err
    assert theirs.read_text() == '{"avrin_log": 1}\n'
    assert not (game / "x.csv").exists()


def test_a_recording_is_converted_beside_itself_and_keeps_its_events(game: Path) -> None:
    source = game / T
    events = game / "traces/leaky-dive.events.jsonl"
    before = events.read_bytes()
    out = source.with_suffix(".parquet")
    assert main(["trace", "convert", str(source), str(out)]) == 0
    assert events.read_bytes() == before
    assert open_trace(out).events == open_trace(source).events != ()


def test_a_failed_conversion_leaves_the_good_file(game: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    out = game / "out.parquet"
    assert main(["trace", "convert", str(game / T), str(out)]) == 0
    before = out.read_bytes()

    def fails(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("avrin.trace.parquet_file.write", fails)
    assert main(["trace", "convert", str(game / CALM), str(out)]) == 2
    assert out.read_bytes() == before
    assert not [path for path in game.iterdir() if path.name.endswith(".part")]


# -- caches -------------------------------------------------------------------------------------------------------------


def aged(path: Path) -> Path:
    """Long untouched, so that notes of it are kept."""
    os.utime(path, (1_000_000, 1_000_000))
    return path


def test_an_empty_or_foreign_note_of_a_recording_is_not_believed(game: Path) -> None:
    """An empty note made all recordings with one look alike."""
    first, second = aged(game / T), aged(game / CALM)
    good = [open_trace(path).columns["hull"].data.tolist() for path in (first, second)]
    notes = sorted((game.parent / "cache" / "traces").glob("*.is"))
    assert len(notes) >= 2
    for spoilt in (b"", b"0" * 128, notes[0].read_bytes()[:-1], notes[0].read_bytes(), notes[1].read_bytes()):
        for note in notes:
            note.write_bytes(spoilt)
        assert [open_trace(path).columns["hull"].data.tolist() for path in (first, second)] == good


@pytest.mark.parametrize("held", [0, 1 << 30])
def test_a_cut_or_spoilt_copy_is_read_anew(game: Path, held: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(columnar_cache, "MAX_IN_MEMORY", held)
    path = aged(game / T)
    good = open_trace(path).columns["hull"].data.tolist()
    (copy,) = (game.parent / "cache" / "traces").glob("*.bin")
    whole = copy.read_bytes()
    for spoilt in (b"", whole[:4], whole[: len(whole) // 2], whole[:-1], whole + b"x", b"\xff" * len(whole),
                   whole[:-900] + b"\x7f" * 900):  # fmt: skip
        copy.write_bytes(spoilt)
        assert open_trace(path).columns["hull"].data.tolist() == good
        assert copy.read_bytes() == whole, "it is rebuilt"


def test_a_copy_that_is_cut_while_it_is_looked_at_ends_nothing(game: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(columnar_cache, "MAX_IN_MEMORY", 0)
    path = aged(game / T)
    good = open_trace(path).columns["hull"].data.tolist()
    again = open_trace(path)
    (copy,) = (game.parent / "cache" / "traces").glob("*.bin")
    os.truncate(copy, 0)
    assert again.columns["hull"].data.tolist() == good


def test_what_is_kept_is_not_taken_from_other_code(game: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = aged(game / T)
    open_trace(path)
    monkeypatch.setattr(store, "code_stamp", lambda *_: "changed")
    monkeypatch.setattr("avrin.trace.csv_file.read", lambda *_: (_ for _ in ()).throw(OSError(5, "asked again")))
    with pytest.raises(Exception, match="asked again"):
        open_trace(path)


@pytest.mark.parametrize("kind", ["a file", "read-only", "full"])
def test_commands_do_without_a_cache(
    game: Path, kind: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """Of what cannot be written at all; /dev/full is a disk without room."""
    where = game.parent / "no-cache"
    if kind == "a file":
        where.write_text("")
    elif kind == "read-only":
        where = Path("/proc/avrin")
    else:
        where.symlink_to("/dev/full")
    monkeypatch.setenv("AVRIN_CACHE", str(where))
    monkeypatch.chdir(game)
    assert main(["eval", "hull", "--trace", T]) == 0
    assert main(["check", P, "--trace", T, "--fail-on", "never"]) == 0
    assert main(["frame", P, "--trace", T, "--at", "3", "--out", str(game / "now.svg")]) == 0
    capsys.readouterr()
    assert (game / "now.svg").exists()


def test_a_trace_is_saved_through_a_link(game: Path) -> None:
    trace = open_trace(game / T)
    (game / "link.csv").symlink_to(game / "real.csv")
    save_trace(trace, game / "link.csv")
    assert (game / "link.csv").is_symlink()
    assert open_trace(game / "real.csv").columns["hull"].data.tolist() == trace.columns["hull"].data.tolist()


def test_another_recordings_copy_in_its_place_is_not_shown(game: Path) -> None:
    paths = [aged(game / name) for name in (T, CALM)]
    good = [open_trace(path).columns["hull"].data.tolist() for path in paths]
    first, second = (game.parent / "cache" / "traces").glob("*.bin")
    kept = first.read_bytes()
    first.write_bytes(second.read_bytes())
    second.write_bytes(kept)
    assert [open_trace(path).columns["hull"].data.tolist() for path in paths] == good
