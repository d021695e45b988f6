"""The same recording as CSV, Parquet and change log is understood alike; what was rounded or is -0 as well."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
import pytest

from avrin.errors import AvrinError
from avrin.onboarding.recordings import begun
from avrin.project.project import Project, Recording
from avrin.trace.clock import NoTimeError
from avrin.trace.frames import Column, Trace
from avrin.trace.store import open_trace, save_trace
from strategies import identical


def games(folder: Path, rate: float, *, digits: int, key: str = "episode") -> list[Path]:
    """Three lives at a rate, the time rounded when it was written, in three formats."""
    rng, life, hp, rows = np.random.default_rng(5), 1, 100, []
    for frame in range(700):
        hp -= int(rng.integers(0, 30)) if rng.random() < 0.05 else 0
        if hp <= 0:
            life, hp = life + 1, 100
        rows.append({"t": round(frame / rate, digits), key: life, "hp": hp, "score": frame // 9})
    names = list(rows[0])
    (folder / "g.csv").write_text("\n".join([",".join(names), *(",".join(str(row[n]) for n in names) for row in rows)]))
    pq.write_table(pa.table({name: [row[name] for row in rows] for name in names}), folder / "g.parquet")
    last: dict[str, Any] = {}
    with (folder / "g.jsonl").open("w") as file:
        for row in rows:
            new = {name: value for name, value in row.items() if name != "t" and last.get(name) != value}
            last.update(new)
            if new or row is rows[-1]:
                file.write(json.dumps({"t": row["t"], "set": new}) + "\n")
    return [folder / "g.csv", folder / "g.parquet", folder / "g.jsonl"]


@pytest.mark.parametrize(("rate", "digits"), [(15.0, 6), (15.0, 3), (60.0, 4), (29.97, 5), (8.0, 2)])
def test_runs_rate_and_values_are_the_same_in_all_formats(tmp_path: Path, rate: float, digits: int) -> None:
    first, *others = (open_trace(path) for path in games(tmp_path, rate, digits=digits))
    assert 1 / others[-1].frame_time == pytest.approx(rate, rel=0.001), "that of a log is taken from all of its times"
    assert len(first.run_starts) > 3
    for other in others:
        assert other.run.tolist() == first.run.tolist()
        assert other.clock is not None
        assert (other.clock.run, other.clock.guessed) == ("episode", True)
        for name in ("hp", "score"):
            assert other.columns[name].data.tolist() == first.columns[name].data.tolist()


def test_a_log_whose_times_keep_to_no_rate_has_the_usual_one(tmp_path: Path) -> None:
    at = np.cumsum(np.random.default_rng(1).exponential(0.3, 60))
    lines = [json.dumps({"t": float(t), "set": {"hp": k}}) for k, t in enumerate(at)]
    (tmp_path / "g.jsonl").write_text("\n".join(lines))
    assert 1 / open_trace(tmp_path / "g.jsonl").frame_time == pytest.approx(60)


@pytest.mark.parametrize("values", [[0.0, -0.0, 1.0, -0.0], [0.0, -0.0, 1.5, -0.0], [-0.0] * 4, [-0.0, 2.0, 0.0, 0.0]])
@pytest.mark.parametrize("ending", [".csv", ".parquet", ".jsonl"])
def test_a_negative_zero_survives_a_round_trip(tmp_path: Path, values: list[float], ending: str) -> None:
    data = np.array(values)
    trace = Trace.make("z", [0.0, 0.1, 0.2, 0.3], {"a": Column("number", data), "b": Column("number", np.arange(4.0))})
    save_trace(trace, tmp_path / f"z{ending}")
    again = open_trace(tmp_path / f"z{ending}")
    assert identical(again.columns["a"].data, data)
    assert identical(again.columns["b"].data, np.arange(4.0))


def test_decimal_commas_beside_a_decimal_point_are_numbers(tmp_path: Path) -> None:
    (tmp_path / "g.csv").write_text("t;hull;air;who\n0,0;100;1,5;a\n0,1;99.5;1,4;b,c\n0,2;98;1,3;d\n")
    trace = open_trace(tmp_path / "g.csv")
    assert trace.t.tolist() == [0.0, 0.1, 0.2]
    assert trace.columns["hull"].data.tolist() == [100.0, 99.5, 98.0]
    assert trace.columns["air"].data.tolist() == [1.5, 1.4, 1.3]
    assert trace.columns["who"].words == ("a", "b,c", "d")


def test_flags_in_words_and_figures_are_flags(tmp_path: Path) -> None:
    from avrin.project.project import Variable

    (tmp_path / "g.csv").write_text("t,leak\n0,true\n1,0\n2,\n3,1\n4,False\n")
    trace = open_trace(tmp_path / "g.csv", {"leak": Variable(name="leak", type="bool")})
    column = trace.columns["leak"]
    assert [column[i] for i in range(5)] == [True, False, None, True, False]


@pytest.mark.parametrize(
    ("name", "unit"),
    [
        ("Match Clock (ms)", "ms"), ("matchTimeMs", "ms"), ("elapsed_millis", "ms"), ("time [s]", "s"), ("Time(us)", "us"),
 ("Frame Number", "frames"), ("tick", "frames"), ("frame_no", "frames"), ("timestampMs", "ms"), ("clock seconds", "s"),
    ],
)  # fmt: skip
def test_a_time_is_known_in_any_spelling(tmp_path: Path, name: str, unit: str) -> None:
    rows = "\n".join(f"{100 - k % 7},{k * (1 if unit == 'frames' else 100)}" for k in range(50))
    (tmp_path / "g.csv").write_text(f"hp,{name}\n{rows}\n")
    clock = open_trace(tmp_path / "g.csv").clock
    assert clock is not None
    assert (clock.time, clock.unit) == (name, unit)


def test_what_is_called_like_a_time_and_falls_again_and_again_is_none(tmp_path: Path) -> None:
    rows = "\n".join(f"{40 + k % 9},{60 - k}" for k in range(50))
    (tmp_path / "g.csv").write_text(f"ping_ms,time_left_s\n{rows}\n")
    with pytest.raises(NoTimeError) as raised:
        open_trace(tmp_path / "g.csv")
    assert [clock.time for clock in raised.value.choices] == ["none"]
    assert "--" not in str(raised.value)
    assert "--time COL" in raised.value.on_command_line()
    assert isinstance(raised.value, AvrinError)


def test_declared_ranges_cover_every_slot_and_every_recording() -> None:
    def recorded(name: str, *columns: tuple[str, list[float]]) -> tuple[Recording, Trace]:
        made = {title: Column("number", np.array(values)) for title, values in columns}
        return Recording(path=f"traces/{name}.csv"), Trace.make(name, [0.0, 1.0, 2.0], made)

    project, _ = begun(
        [
            recorded("a", ("p1_hp", [3.0, 2.0, 1.0]), ("p2_hp", [90.0, 80.0, 0.5]), ("score", [0.0, 1.0, 2.0])),
            recorded("b", ("p1_hp", [1.0, 1.0, 1.0]), ("p2_hp", [-40.0, 0.0, 0.0]), ("score", [0.0, 700.0, 900.0])),
        ]
    )
    assert isinstance(project, Project)
    (hp,) = project.rosters[0].fields
    (score,) = project.variables
    assert (hp.type, hp.low, hp.high) == ("float", -50.0, 100.0)
    assert (score.type, score.low, score.high) == ("int", 0.0, 1000.0)


def test_any_flipped_bit_of_a_copy_is_noticed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "cache"))
    columns = {"hull": Column("number", np.arange(6.0)), "who": Column.of(["a", "b", "c", "a", "b", None])}
    save_trace(Trace.make("g", np.arange(6) / 10, columns), tmp_path / "g.csv")
    known = open_trace(tmp_path / "g.csv")
    (copy,) = (tmp_path / "cache/traces").glob("*.bin")
    content = copy.read_bytes()
    for at in range(min(len(content), 800)):  # one bit of each byte, each time another one
        spoilt = bytearray(content)
        spoilt[at] ^= 1 << at % 8
        copy.write_bytes(spoilt)
        again = open_trace(tmp_path / "g.csv")
        assert again.t.tolist() == known.t.tolist()
        assert {name: (c.kind, c.words, c.data.tolist()[:5]) for name, c in again.columns.items()} == {
            name: (c.kind, c.words, c.data.tolist()[:5]) for name, c in known.columns.items()
        }
