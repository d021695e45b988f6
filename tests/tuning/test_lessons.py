"""Prompts over recordings, against each frame looked at on its own: needed, shown, learnt, obeyed."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.errors import AvrinError
from avrin.project.project import Project, Recording, Variable, Widget
from avrin.storage.files import save
from avrin.trace.frames import Column, Trace
from avrin.trace.store import save_trace
from avrin.tuning.lessons import Lesson, lessons

VARIABLES = tuple(Variable(name=name, type="bool") for name in ("needs", "knows", "there"))


def project(until: str = "knows") -> Project:
    prompt = Widget(
        id="patch", kind="prompt", inputs={"when": "needs", "until": until, "text": "Patch", "visible": "there"},
        options={"at_least": 0},
    )  # fmt: skip
    return Project(variables=VARIABLES, widgets=(prompt, Widget(id="bar", kind="bar", inputs={"value": "1"})))


def outcome_of(
    t: list[float], run: list[int], columns: dict[str, list[bool]], until: str = "knows"
) -> tuple[list[Lesson], Tracks]:
    bound = bind(project(until))
    trace = Trace.make("t", t, {name: Column.of([*values]) for name, values in columns.items()}, run)
    tracks = Tracks(bound, trace)
    return lessons([tracks], "patch"), tracks


@st.composite
def recorded(draw: st.DrawFn) -> tuple[list[float], list[int], dict[str, list[bool]]]:
    frames = draw(st.integers(1, 20))
    t = np.cumsum(draw(st.lists(st.sampled_from([0.25, 1.0, 3.0]), min_size=frames, max_size=frames))).tolist()
    run = (np.cumsum(draw(st.lists(st.sampled_from([0, 0, 0, 1]), min_size=frames, max_size=frames))) + 1).tolist()
    flags = st.lists(st.booleans(), min_size=frames, max_size=frames)
    return t, run, {"needs": draw(flags), "knows": draw(flags), "there": draw(flags)}


@given(recorded())
def test_each_time_is_what_its_frames_say(given_: tuple[list[float], list[int], dict[str, list[bool]]]) -> None:
    t, run, columns = given_
    found, tracks = outcome_of(t, run, columns)
    seen = (tracks.column(tracks.bound.widgets["patch"].columns["visible"]).data > 0).tolist()
    needs, knows = columns["needs"], columns["knows"]
    begins = [i for i in range(len(t)) if i == 0 or run[i] != run[i - 1]]

    def rises(flags: list[bool]) -> list[int]:
        return [i for i in range(len(t)) if flags[i] and (i in begins or not flags[i - 1])]

    assert sorted(one.needed for one in found if one.needed is not None) == rises(needs), "each need is listed once"
    assert sorted(one.shown for one in found if one.shown is not None) == rises(seen), "and each showing"
    for one in found:
        if one.shown is None:
            assert one.needed is not None
            stop = next((i for i in range(one.needed, len(t)) if not needs[i] or run[i] != run[one.needed]), len(t))
            taken = [other for other in found if other.needed == one.needed and other.shown is not None]
            assert not taken
            assert not [i for i in rises(seen) if one.needed <= i < stop]
            continue
        stop = next((i for i in range(one.shown, len(t)) if not seen[i] or run[i] != run[one.shown]), len(t))
        assert one.gone == stop
        lasting = tracks.trace.lasting
        assert one.needless == pytest.approx(sum(float(lasting[i]) for i in range(one.shown, stop) if not needs[i]))
        known = [i for i in range(len(t)) if knows[i] and run[i] == run[one.shown]]
        assert one.after_learnt == any(i < one.shown for i in known)
        later = [i for i in known if i >= one.shown]
        wanted = t[later[0]] - t[one.shown] if later and not one.after_learnt else None
        assert one.obeyed == (None if wanted is None else pytest.approx(wanted))
        if one.needed is not None:
            assert one.waited == pytest.approx(t[one.shown] - t[one.needed])
            assert all(needs[i] and run[i] == run[one.shown] for i in range(one.needed, one.shown + 1))


def test_what_can_never_be_learnt_teaches_nothing() -> None:
    columns = {"needs": [False, True], "knows": [False, False], "there": [True, True]}
    (one,), _ = outcome_of([0.0, 1.0], [1, 1], columns, until="false")
    assert not one.teaches
    (other,), _ = outcome_of([0.0, 1.0], [1, 1], columns)
    assert other.teaches


def test_what_asks_for_nothing_is_reported() -> None:
    bound = bind(project())
    tracks = Tracks(bound, Trace.make("t", [0.0], {}))
    for ident in ("bar", "nobody"):
        with pytest.raises(AvrinError, match="is not a prompt"):
            lessons([tracks], ident)


def test_the_command_writes_a_line_each(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from msgspec.structs import replace

    columns = {
        "needs": Column.of([False, True, True, True, False, True]), "knows": Column.of([False] * 3 + [True] * 3),
        "there": Column.of([True, False, True, True, True, False]),
    }  # fmt: skip
    save_trace(Trace.make("dive", [0.0, 1.0, 2.0, 4.0, 5.0, 9.0], columns), tmp_path / "dive.csv")
    save(replace(project(), traces=(Recording(path="dive.csv"),)), tmp_path / "p.avrin")
    command = ["tune", str(tmp_path / "p.avrin"), "--widget", "patch", "--out", str(tmp_path / "out.csv")]
    assert main(command) == 0
    rows = list(csv.DictReader((tmp_path / "out.csv").read_text().splitlines()))
    assert [(one["needed"], one["shown"], one["waited"], one["obeyed"]) for one in rows] == [
        ("1", "2", "1", "2"), ("9", "", "", ""),
    ]  # fmt: skip
    assert main([*command, "--band", "low"]) == 2
    assert "go together" in capsys.readouterr().err
