"""A sweep's table as people look at it, against its rows one by one."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.project.project import Band, Project, Variable, Widget
from avrin.sweep.parts import STATES
from avrin.sweep.state_table import Shown, outline
from avrin.trace.frames import Column, Trace

BAR = Widget(
    id="bar", kind="bar", inputs={"value": "hull", "full": "100", "visible": "hull < 95"},
    bands=(Band(name="critical", below="10%"), Band(name="low", below="50%")),
)  # fmt: skip
PROJECT = Project(variables=(Variable(name="hull", type="float"),), widgets=(BAR,))
NAMES = ("low", "", "hidden", "gone")
ROWS = st.lists(
    st.tuples(
        st.sampled_from(["a", "b", "c"]), st.integers(1, 3), st.sampled_from(["bar", "air[1]"]), st.sampled_from(NAMES),
        st.integers(1, 9), st.floats(0.5, 9), st.integers(1, 4), st.floats(0, 99), st.floats(0, 9),
    ),
    min_size=1, max_size=24, unique_by=lambda row: row[:4],
)  # fmt: skip


def table(rows: list[Any]) -> pa.Table:
    return pa.table({n: [r[i] for r in rows] for i, n in enumerate(STATES.names)}, schema=STATES)


@given(ROWS)
def test_of_a_widget_each_recording_has_the_sums_of_its_runs(rows: list[Any]) -> None:
    rows = sorted(rows, key=lambda row: (row[0], row[1]))
    shown = Shown(table(rows))
    assert shown.recordings == tuple(dict.fromkeys(str(row[0]) for row in rows))
    found = shown.of("bar", NAMES[:3])
    assert (found.states, found.recordings) == (NAMES[:3], shown.recordings)
    for i, recording in enumerate(found.recordings):
        every = [row for row in rows if row[0] == recording and row[2] == "bar"]
        whole = sum(float(row[5]) for row in every)
        for k, state in enumerate(found.states):
            mine = [row for row in every if row[3] == state]
            seconds = sum(float(row[5]) for row in mine)
            assert found.seconds[i, k] == pytest.approx(seconds)
            assert found.share[i, k] == pytest.approx(seconds / whole if whole else 0.0)
            assert found.entries[i, k] == sum(row[6] for row in mine)
            assert found.longest[i, k] == max((row[8] for row in mine), default=0.0)
            first = mine[0] if mine else None
            assert found.run[i, k] == (first[1] if first else 0)
            assert np.isnan(found.first[i, k]) if first is None else found.first[i, k] == first[7]


def test_bands_that_never_came_are_named_by_whose_they_are() -> None:
    bound = bind(PROJECT)
    rows = [("a", 1, "bar", "low", 1, 1.0, 1, 0.0, 1.0)]
    assert Shown(table(rows)).never(bound) == [("bar", "critical")]
    assert Shown(table(rows)).states(bound.widgets["bar"]) == ("critical", "low", "", "hidden")
    rows.append(("b", 1, "bar", "missing", 1, 1.0, 1, 0.0, 1.0))
    assert Shown(table(rows)).states(bound.widgets["bar"]) == ("critical", "low", "", "hidden", "missing")


def test_what_is_no_table_is_reported(tmp_path: Path) -> None:
    import pyarrow.parquet as pq

    (tmp_path / "torn.parquet").write_bytes(b"PAR1")
    pq.write_table(pa.table({"a": [1]}), tmp_path / "other.parquet")
    for name in ("torn", "other", "gone"):
        with pytest.raises(AvrinError, match="Sweep again"):
            Shown.read(tmp_path / f"{name}.parquet")


@given(st.lists(st.none() | st.sampled_from([5.0, 30.0, 80.0, 99.0]), min_size=1, max_size=40), st.integers(1, 50))
def test_from_afar_every_value_lies_in_some_column_and_every_frame_in_one_stretch(
    hull: list[float | None], columns: int
) -> None:
    trace = Trace.make("r", np.arange(len(hull)) / 4, {"hull": Column.of([*hull])})
    tracks = Tracks(bind(PROJECT), trace)
    found = outline(tracks, tracks.bound.widgets["bar"], columns)
    known = {value / 100 for value in hull if value is not None}
    shown = {value for value in [*found.low.tolist(), *found.high.tolist()] if not np.isnan(value)}
    assert shown <= known
    assert (min(shown), max(shown)) == (min(known), max(known)) if known else not shown
    ends = [edge for start, end, _ in found.stretches for edge in (start, end)]
    assert ends[0] == 0
    assert ends[-1] == 1
    assert ends[1:-1:2] == ends[2::2], "each begins where the one before it ends"
    states = {"critical" if v < 10 else "low" if v < 50 else "" if v < 95 else "hidden" for v in hull if v is not None}
    assert {state for *_, state in found.stretches} - {"", "hidden"} == states - {"", "hidden"}
