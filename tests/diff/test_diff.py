"""What a change changed: every entry by its name, every frame as the two tracks have it, revisions through git itself."""

from __future__ import annotations

import json
import os
import subprocess
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.tracks import Tracks, track
from avrin.cli import main
from avrin.diff.entries import entries
from avrin.diff.revisions import revisions
from avrin.diff.stretches import Stretch, both_bound, stretches
from avrin.errors import AvrinError
from avrin.project.project import (
    Band,
    Derived,
    Group,
    Place,
    Plate,
    Project,
    Recording,
    Roster,
    Screen,
    Variable,
    Widget,
)
from avrin.storage.files import save
from avrin.trace.frames import Column, Trace, events_of
from avrin.trace.store import save_trace

HULL = Variable(name="hull", type="float")
BAR = Widget(
    id="bar", kind="bar", inputs={"value": "hull", "full": "100"}, options={"over": "clamp"},
    bands=(Band(name="low", below="50%"), Band(name="critical", below="20%")),
)  # fmt: skip
LABEL = Widget(id="said", kind="label", inputs={"text": "{hull | 0}"})
BASE = Project(variables=(HULL,), widgets=(BAR, LABEL), traces=(Recording(path="dive.csv"),))


# -- entries -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("change", "what"),
    [
        ({"inputs": {"value": "hull + 1", "full": "100"}}, ["rule value"]),
        ({"inputs": {"value": "hull"}}, ["rule full"]),
        ({"options": {"over": "spill"}}, ["option over"]),
        ({"place": Place(offset=(1.0, 0.0))}, ["place"]),
        ({"look": {"fill": "#ffffff"}}, ["look"]),
        ({"kind": "ring"}, ["kind"]),
        ({"bands": (Band(name="low", below="40%"), BAR.bands[1])}, ["band low"]),
        ({"bands": (Band(name="weak", below="50%"), BAR.bands[1])}, ["band weak", "band low"]),
        ({"bands": BAR.bands[::-1]}, ["order of bands"]),
        ({"group": "g", "note": "what for"}, ["group", "note"]),
    ],
)  # fmt: skip
def test_what_differs_of_a_widget_is_named(change: dict[str, Any], what: list[str]) -> None:
    found = entries(BASE, replace(BASE, widgets=(replace(BAR, **change), LABEL)))
    assert (found.project, found.added, found.removed) == ((), (), ())
    ((ident, reported),) = [(one.widget, sorted(one.what)) for one in found.changed]
    assert (ident, reported) == ("bar", sorted(what))


@pytest.mark.parametrize(
    ("change", "reported"),
    [
        ({"title": "Other"}, ["title"]),
        ({"derived": (Derived(name="share", rule="hull / 100"),)}, ["derived share"]),
        ({"variables": (replace(HULL, low=0.0), Variable(name="air", type="float"))}, ["variable hull", "variable air"]),
        ({"variables": ()}, ["variable hull"]),
        ({"screens": (Screen(name="handheld", size=(1280, 800)),)}, ["screen handheld"]),
        ({"plates": (Plate(name="reef", picture="r.png"),)}, ["plate reef"]),
        ({"groups": (Group(id="hud"),)}, ["group hud"]),
        ({"styles": {"plain": {"fill": "#ffffff"}}}, ["style plain"]),
        ({"traces": ()}, ["trace dive.csv"]),
        ({"rosters": (Roster(name="crew", slots=2, fields=(HULL,)),)}, ["roster crew"]),
        ({"widgets": (LABEL, BAR)}, ["order of widgets"]),
        ({"reference": (1280, 720), "placeholder": "?"}, ["reference", "placeholder"]),
    ],
)  # fmt: skip
def test_what_differs_beside_widgets_is_named(change: dict[str, Any], reported: list[str]) -> None:
    found = entries(BASE, replace(BASE, **change))
    assert sorted(found.project) == sorted(reported)
    assert sorted(entries(replace(BASE, **change), BASE).project) == sorted(reported), "and the other way round"
    assert bool(found)


def test_widgets_come_and_go() -> None:
    new = replace(BASE, widgets=(replace(LABEL, id="other"), BAR))
    found = entries(BASE, new)
    assert (found.added, found.removed, found.changed, found.project) == (("other",), ("said",), (), ())
    assert not entries(BASE, BASE)


# -- stretches ---------------------------------------------------------------------------------------------------------


def compared(old: Project, new: Project, trace: Trace) -> list[Stretch]:
    before, after = both_bound(old, new, events_of([trace]), (Path(), Path()))
    there = Tracks(before, trace)
    return list(stretches(there, Tracks(after, trace, there)))


def by_hand(old: Project, new: Project, trace: Trace) -> list[tuple[object, ...]]:
    """Frame by frame, from the two tracks as programmers are given them."""
    from avrin.binding.binding import bind

    one, other = track(bind(old), trace), track(bind(new), trace)
    found: list[tuple[object, ...]] = []
    for full in other.columns:
        if full not in one.columns:
            continue
        open_row: list[Any] | None = None
        for frame in range(len(trace)):
            before, after = one.columns[full][frame], other.columns[full][frame]
            new_run = frame > 0 and trace.run[frame] != trace.run[frame - 1]
            if open_row is not None and (before == after or new_run):
                found.append(tuple(open_row))
                open_row = None
            if before != after:
                if open_row is None:
                    widget, _, column = full.rpartition(".")
                    open_row = [widget, column, int(trace.run[frame]), float(trace.t[frame]), 0.0, 0, before, after]
                open_row[4] = float(trace.t[frame])
                open_row[5] += 1
        if open_row is not None:
            found.append(tuple(open_row))
    return found


RULES = st.sampled_from(
    [
        "hull",
        "hull + 1",
        "max(hull, 30)",
        "prev(hull) otherwise 0",
        "if hull > 50 then missing else hull",
        "ease(hull, 1s)",
    ]
)
LIMITS = st.sampled_from(["20%", "50%", "50.5%", "hull / 200"])


@st.composite
def projects(draw: st.DrawFn) -> Project:
    bar = replace(
        BAR,
        inputs={"value": draw(RULES), "full": "100"},
        bands=(Band(name=draw(st.sampled_from(["low", "weak"])), below=draw(LIMITS)),),
    )
    text = replace(LABEL, inputs={"text": "{" + draw(RULES) + " | 0}"}, repeat=draw(st.sampled_from(["", "crew"])))
    crew = Roster(name="crew", slots=2, fields=(HULL,))
    return replace(BASE, rosters=(crew,), widgets=draw(st.sampled_from([(bar, text), (text, bar), (bar,)])))


@given(
    projects(), projects(), st.lists(st.none() | st.sampled_from([0.0, 20.0, 49.0, 50.0, 51.0, 100.0]), min_size=1, max_size=16),
    st.integers(1, 16),
)  # fmt: skip
def test_stretches_are_what_each_frame_says(old: Project, new: Project, hull: list[float | None], begins: int) -> None:
    frames = len(hull)
    run = [1 if i < begins else 2 for i in range(frames)]
    trace = Trace.make("dive", [0.5 * i for i in range(frames)], {"hull": Column.of([*hull])}, run)
    reported = [
        (one.widget, one.column, one.run, one.first, one.last, one.frames, one.old, one.new)
        for one in compared(old, new, trace)
    ]
    assert reported == by_hand(old, new, trace)


def test_what_is_alike_in_both_is_not_computed_twice_and_not_looked_at() -> None:
    trace = Trace.make("dive", [0.0, 1.0], {"hull": Column.of([10.0, 90.0])})
    new = replace(BASE, widgets=(BAR, replace(LABEL, inputs={"text": "{hull + 1 | 0}"})))
    before, after = both_bound(BASE, new, events_of([trace]), (Path(), Path()))
    there = Tracks(before, trace)
    here = Tracks(after, trace, there)
    assert here.computed == 2, "the sum, and the state that follows from it"
    assert {one.widget for one in stretches(there, here)} == {"said"}


# -- the command -------------------------------------------------------------------------------------------------------


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    save(BASE, tmp_path / "old.avrin")
    save(
        replace(BASE, widgets=(replace(BAR, bands=(Band(name="low", below="70%"), BAR.bands[1])), LABEL)),
        tmp_path / "new.avrin",
    )
    hull = [100.0, 80.0, 60.0, 40.0, 10.0]
    save_trace(Trace.make("dive", [0.0, 1.0, 2.0, 3.0, 4.0], {"hull": Column.of([*hull])}), tmp_path / "dive.csv")
    return tmp_path


def test_the_exit_status_says_whether_anything_differs(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    old, new = str(folder / "old.avrin"), str(folder / "new.avrin")
    assert main(["diff", old, old]) == 0
    assert capsys.readouterr().out == "no difference\n"
    assert main(["diff", old, new]) == 1
    assert capsys.readouterr().out == (
        "changed   bar: band low\n"
        "shows     bar.band differently on 1 frame of dive, 1 stretch\n"
        "          0:02.00 to 0:02.00: “” → low\n"
    )


def test_as_json_it_is_what_the_page_about_it_says(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["diff", str(folder / "old.avrin"), str(folder / "new.avrin"), "--format", "json"]) == 1
    assert json.loads(capsys.readouterr().out) == {
        "format": "avrin-diff/1", "project": [],
        "widgets": {"added": [], "removed": [], "changed": [{"widget": "bar", "what": ["band low"]}]},
        "stretches": [{"trace": "dive", "widget": "bar", "column": "band", "run": 1, "from": 2.0, "to": 2.0, "frames": 1,
                       "old": "", "new": "low"}],
        "pictures": [{"trace": "dive", "run": 1, "from": 2.0, "to": 2.0}],
    }  # fmt: skip


def test_junit_and_the_page_are_written(folder: Path) -> None:
    for sort, holds in (("junit", '<failure message="band low'), ("html", "data:image/svg+xml;base64,")):
        out = folder / f"out.{sort}"
        assert (
            main(["diff", str(folder / "old.avrin"), str(folder / "new.avrin"), "--format", sort, "--out", str(out)])
            == 1
        )
        assert holds in out.read_text()
    page = (folder / "out.html").read_text()
    assert page.count("<img ") == 2
    assert "http" not in page.replace("http://www.w3.org/2000/svg", "")


def test_a_revision_is_read_through_git(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    git(folder, "init", "-q")
    file = folder / "hud" / "game@work.avrin"
    file.parent.mkdir()
    for version in ("old", "new"):
        file.write_bytes((folder / f"{version}.avrin").read_bytes())
        git(folder, "add", "-A")
        git(folder, "commit", "-q", "-m", version)
    trace = ["--trace", str(folder / "dive.csv")]
    assert main(["diff", f"{file}@HEAD~1", str(file), *trace]) == 1
    assert "changed   bar: band low" in capsys.readouterr().out
    assert main(["diff", f"{file}@HEAD", str(file), *trace]) == 0
    assert main(["diff", f"{file}@HEAD~7", str(file)]) == 2
    assert "git cannot read it" in capsys.readouterr().err
    assert main(["diff", f"{folder / 'nobody.avrin'}@HEAD", str(file)]) == 2
    reported = capsys.readouterr().err
    assert "nobody.avrin" in reported
    assert reported.count("\n") == 1
    assert main(["diff", f"{file}@--output=x", str(file)]) == 2
    assert "is not a revision" in capsys.readouterr().err


def git(folder: Path, *words: str) -> None:
    known = {"GIT_AUTHOR_NAME": "a", "GIT_AUTHOR_EMAIL": "a@b", "GIT_COMMITTER_NAME": "a", "GIT_COMMITTER_EMAIL": "a@b"}
    subprocess.run(["git", "-C", str(folder), *words], check=True, env={**os.environ, **known})  # noqa: S607


@pytest.mark.parametrize(
    ("old", "text"),
    [
        ("gone.avrin", "cannot be read"),
        ("gone.avrin@HEAD", "git cannot read it"),
        ("broken.avrin", "no variable `hulk`"),
        ("newer.avrin", "newer"),
    ],
)  # fmt: skip
def test_what_cannot_be_compared_is_one_line(
    folder: Path, capsys: pytest.CaptureFixture[str], old: str, text: str
) -> None:
    save(replace(BASE, widgets=(replace(BAR, inputs={"value": "hulk", "full": "1"}),)), folder / "broken.avrin")
    (folder / "newer.avrin").write_text('{"format": "avrin/99"}')
    assert main(["diff", str(folder / old), str(folder / "new.avrin")]) == 2
    reported = capsys.readouterr().err
    assert text in reported
    assert reported.count("\n") == 1


def test_the_commits_that_touched_a_file_are_listed_the_newest_first(folder: Path) -> None:
    for words in (("init", "-q"), ("add", "old.avrin"), ("commit", "-q", "-m", "First words")):
        git(folder, *words)
    (folder / "old.avrin").write_text((folder / "old.avrin").read_text() + "\n")
    git(folder, "commit", "-q", "-a", "-m", "Second words\n\nand more of them")
    (folder / "else.txt").write_text("x")
    git(folder, "add", "else.txt")
    git(folder, "commit", "-q", "-m", "Something else")
    found = revisions(folder / "old.avrin")
    assert [one.subject for one in found] == ["Second words", "First words"]
    assert all(len(one.name) == 40 for one in found)
    assert found[0].when >= found[1].when > 1_700_000_000
    with pytest.raises(AvrinError, match="has no commits"):
        revisions(folder / "new.avrin")


def test_one_project_alone_is_lines_that_say_where_they_lie(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["diff", str(folder / "new.avrin")]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert "widgets bar bands low below: 70%" in lines
    assert "widgets bar inputs value: hull" in lines
    assert not [line for line in lines if not line.split(":")[0].strip()]
    assert main(["diff", str(folder / "old.avrin"), "--out", str(folder / "old.txt")]) == 0
    changed = set(lines) ^ set((folder / "old.txt").read_text().splitlines())
    assert {line.split(":")[0] for line in changed} >= {"widgets bar bands low below"}
