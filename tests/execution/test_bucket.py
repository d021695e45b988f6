"""Recordings behind a URL, of a small stand-in for an object store on loopback; and without a server."""

from __future__ import annotations

import socket
import time
from pathlib import Path

import pytest
from bucket import bucket

from avrin.cli import main
from avrin.errors import AvrinError
from avrin.execution.locations import at_hand, locations, stamp
from avrin.project.project import Band, Project, Variable, Widget
from avrin.storage.files import save


@pytest.fixture
def store(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("AWS_ACCESS_KEY_ID", "key")
    monkeypatch.setenv("AWS_SECRET_ACCESS_KEY", "secret")
    folder = tmp_path / "store"
    for number, name in enumerate(("day 1/ä&b.csv", "day 1/c.csv", "d.csv", "notes.txt")):
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text(f"t,hull\n0,{number}\n1,90\n")
    (folder / "d.events.jsonl").write_text('{"t": 0.5, "event": "gong"}\n')
    return folder


def test_a_bucket_is_a_folder_as_any(store: Path) -> None:
    with bucket(store) as tail:
        found = locations([f"s3://play{tail}"])
        assert [(place.name, place.size) for place in found] == [
            ("d.csv", 16),
            ("day 1/c.csv", 16),
            ("day 1/ä&b.csv", 16),
        ]
        assert all(place.is_far and stamp(place) is None for place in found)
        for place in found:
            with at_hand(place) as path:
                assert path.read_bytes() == (store / place.name).read_bytes()
                assert path.with_name("d.events.jsonl").exists() == (place.name == "d.csv")
            assert not path.exists()
        (one,) = locations([f"s3://play/d.csv{tail}"])
        assert one.name == "d.csv"
        assert [place.name for place in locations([f"s3://play/day%201{tail}"])] == ["c.csv", "ä&b.csv"]


def test_a_sweep_over_a_bucket_is_that_over_a_folder(store: Path, tmp_path: Path) -> None:
    bar = Widget(id="bar", kind="bar", inputs={"value": "hull", "full": "100"}, bands=(Band(name="low", below="50%"),))
    save(Project(variables=(Variable(name="hull", type="float"),), widgets=(bar,)), tmp_path / "p.avrin")
    with bucket(store) as tail:
        for name, where in (("near", str(store)), ("far", f"s3://play{tail}")):
            assert main(["sweep", "p.avrin", "--recordings", where, "--out", f"{name}.parquet", "--jobs", "1"]) == 0
        assert main(["sweep", "p.avrin", "--recordings", f"s3://play{tail}", "--out", "far.parquet", "--resume"]) == 0
    for end in ("", ".findings", ".faults"):
        assert Path(f"near{end}.parquet").read_bytes() == Path(f"far{end}.parquet").read_bytes()


def test_nothing_there_and_nobody_there_are_reported(store: Path) -> None:
    with bucket(store) as tail, pytest.raises(AvrinError, match=r"s3://play/day9: there is nothing"):
        locations([f"s3://play/day9{tail}"])
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
    began = time.monotonic()
    with pytest.raises(AvrinError, match="cannot be read") as raised:
        locations([f"s3://key:word@play/x?endpoint_override=127.0.0.1:{port}&scheme=http"])
    assert time.monotonic() - began < 15
    assert "word" not in str(raised.value), "secrets in a URL are not reported"


def test_what_disappears_in_between_is_a_fault(store: Path) -> None:
    with bucket(store) as tail:
        (place,) = locations([f"s3://play/d.csv{tail}"])
        (store / "d.csv").unlink()
        with pytest.raises(AvrinError, match=r"s3://play/d\.csv: cannot be read"), at_hand(place):
            pass
