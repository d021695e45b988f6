"""Cached values come back, and broken ones are rebuilt."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest

from avrin.storage.cache import cache_put
from avrin.trace.result_cache import ResultCache


@pytest.fixture(autouse=True)
def _own_cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path))


def cached(stamp: str = "1", most: int = 10) -> ResultCache[int]:
    return ResultCache("made", stamp, int, most)


def test_the_next_start_knows_the_newest(tmp_path: Path) -> None:
    first = cached(most=2)
    for i, key in enumerate("abc"):
        assert first.put(key, i) == i
    first.write()
    again = cached()
    assert [again.get(key) for key in "abc"] == [None, 1, 2]
    assert cached("2").get("c") is None  # another stamp is another file
    assert len(list(tmp_path.iterdir())) == 1


def test_a_broken_file_or_another_type_is_made_anew(tmp_path: Path) -> None:
    first = cached()
    first.put("a", 1)
    first.write()
    (file,) = tmp_path.iterdir()
    for content in (b"\xc1", b"\x81\xa1a\xa1x", b""):
        file.write_bytes(content)
        broken = cached()
        assert broken.get("a") is None
        broken.put("a", 2)
        broken.write()
        assert cached().get("a") == 2


def test_an_entry_of_another_type_spoils_only_itself(tmp_path: Path, caplog: pytest.LogCaptureFixture) -> None:
    cached().write()
    cache_put(tmp_path / "made-1.msgpack", msgspec.msgpack.encode({"a": 1, "b": "two", "c": 3}))
    again = cached()
    assert [again.get(key) for key in "abc"] == [1, None, 3]
    assert "is rebuilt" in caplog.text
    again.put("b", 2)
    again.write()
    assert [cached().get(key) for key in "abc"] == [1, 2, 3]


def test_a_folder_that_cannot_be_written_costs_only_time(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "file"))
    store = cached()
    store.put("a", 1)
    store.write()
    assert store.get("a") == 1
    store._new = False  # nothing more to say at the end
