"""Which states each widget was in, against frame by frame from the words of it."""

from __future__ import annotations

import itertools
import math
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.project.project import Band, Project, Roster, Variable, Widget
from avrin.sweep.parts import STATES
from avrin.sweep.processing import states_of
from avrin.sweep.sweeping import Wanted, sweep
from avrin.trace.frames import Column, Trace
from avrin.trace.store import save_trace

CREW = Roster(name="crew", slots=2, fields=(Variable(name="air", type="float"),))
PROJECT = Project(
    variables=(Variable(name="hull", type="float"), Variable(name="diving", type="bool")),
    rosters=(CREW,),
    widgets=(
        Widget(
            id="bar", kind="bar", inputs={"value": "hull", "full": "100", "visible": "diving"},
            bands=(Band(name="critical", below="20%"), Band(name="low", below="50%")),
        ),
        Widget(id="plain", kind="counter", inputs={"value": "hull"}),
        Widget(
            id="air", kind="bar", repeat="crew", inputs={"value": "crew[slot].air", "full": "10"},
            bands=(Band(name="low", below="50%"),),
        ),
    ),
)  # fmt: skip


class Frame(NamedTuple):
    """One frame of a recording. step: seconds since the previous one. anew: another run begins."""

    step: float
    anew: bool
    hull: float | None
    diving: bool
    air: float


FRAMES = st.lists(
    st.builds(
        Frame, st.sampled_from([0.0, 0.1, 0.25, 1.0, 7.0]), st.sampled_from([False, False, False, True]),
        st.none() | st.sampled_from([10.0, 30.0, 80.0]), st.sampled_from([True, True, False]), st.sampled_from([2.0, 9.0]),
    ),
    min_size=1, max_size=30,
)  # fmt: skip


def trace_of(frames: list[Frame]) -> Trace:
    columns = {
        "hull": Column.of([item.hull for item in frames]), "diving": Column.of([item.diving for item in frames]),
        "crew[0].air": Column.of([item.air for item in frames]), "crew[1].air": Column.of([11 - item.air for item in frames]),
    }  # fmt: skip
    run = np.cumsum([item.anew for item in frames]) + 1
    return Trace.make("r", np.cumsum([item.step for item in frames]), columns, run.tolist())


def shown(item: Frame) -> dict[str, str]:
    share = None if item.hull is None else item.hull / 100
    band = "missing" if share is None else "critical" if share < 0.2 else "low" if share < 0.5 else ""
    return {
        "bar": band if item.diving else "hidden", "plain": "missing" if share is None else "",
        "air[0]": "low" if item.air < 5 else "", "air[1]": "low" if 11 - item.air < 5 else "",
    }  # fmt: skip


def reported(frames: list[Frame]) -> list[dict[str, object]]:
    """Rows as the words of them say: a frame lasts until the next of its run, a run's last one as long as the one before it."""
    t = np.cumsum([item.step for item in frames]).tolist()
    run = (np.cumsum([item.anew for item in frames]) + 1).tolist()
    if frames[0].anew:
        run = [number - 1 for number in run]
    rows: list[dict[str, object]] = []
    for number in sorted(set(run)):
        mine = [i for i in range(len(frames)) if run[i] == number]
        lasts = [t[b] - t[a] for a, b in itertools.pairwise(mine)]
        lasts.append(lasts[-1] if lasts else 0.0)
        for widget in ("bar", "plain", "air[0]", "air[1]"):
            stays: dict[str, list[list[int]]] = {}
            before = None
            for i in mine:
                state = shown(frames[i])[widget]
                if state != before:
                    stays.setdefault(state, []).append([])
                stays[state][-1].append(i)
                before = state
            for state, found in stays.items():
                seconds = [math.fsum(lasts[mine.index(i)] for i in stay) for stay in found]
                rows.append({
                    "recording": "r", "run": number, "widget": widget, "state": state,
                    "frames": sum(map(len, found)), "seconds": pytest.approx(sum(seconds)), "entries": len(found),
                    "first": t[found[0][0]], "longest": pytest.approx(max(seconds)),
                })  # fmt: skip
    return rows


@given(FRAMES)
def test_rows_are_what_each_frame_says(frames: list[Frame]) -> None:
    bound = bind(PROJECT)
    bound.raise_first()
    assert states_of("r", Tracks(bound, trace_of(frames))).to_pylist() == reported(frames)


def test_a_table_has_the_columns_and_the_order_that_are_promised(tmp_path: Path) -> None:
    frames = [Frame(1.0, i == 2, 10.0 if i < 2 else 80.0, True, 2.0) for i in range(4)]
    for name in ("b/one.csv", "a.parquet"):
        (tmp_path / "in" / name).parent.mkdir(parents=True, exist_ok=True)
        save_trace(trace_of(frames), tmp_path / "in" / name)
    sweep(PROJECT, tmp_path, Wanted((str(tmp_path / "in"),), tmp_path / "F.parquet", {}))
    found = pq.read_table(tmp_path / "F.parquet")
    assert found.schema.equals(STATES)
    keys = list(dict.fromkeys((row["recording"], row["run"], row["widget"]) for row in found.to_pylist()))
    widgets = ["bar", "plain", "air[0]", "air[1]"]
    assert keys == [(name, run, w) for name in ("a.parquet", "b/one.csv") for run in (1, 2) for w in widgets]
