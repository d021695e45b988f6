"""The project file: read, refused, kept and written."""

from __future__ import annotations

import json
import string
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.project.project import (
    Anchor,
    Band,
    Derived,
    Group,
    Place,
    Plate,
    Project,
    Recording,
    Screen,
    Variable,
    VariableType,
    Widget,
)
from avrin.storage.files import dumps, inside, load, loads, save

NAME = st.text(string.ascii_lowercase, min_size=3, max_size=8).map(lambda s: "v" + s)
RULE = st.sampled_from(["hull", "hull / 100", '"é"', "25%"])
ANCHORS: st.SearchStrategy[Anchor] = st.sampled_from(["top-left", "center", "bottom-right"])


@st.composite
def projects(draw: st.DrawFn) -> Project:
    names = draw(st.lists(NAME, unique=True, max_size=4))
    kinds: st.SearchStrategy[VariableType] = st.sampled_from(["int", "float", "bool", "text"])
    numbers = st.none() | st.floats(-1e6, 1e6)
    starts = {
        "int": numbers,
        "float": numbers,
        "bool": st.none() | st.booleans(),
        "text": st.none() | st.text(max_size=5),
    }
    typed = [(name, draw(kinds)) for name in names]
    variables = tuple(Variable(name=n, type=k, start=draw(starts[k]), keeps=draw(st.booleans())) for n, k in typed)
    groups = tuple(Group(id=f"g{i}", visible=draw(RULE)) for i in range(draw(st.integers(0, 2))))
    widgets = tuple(
        Widget(
            id=f"w{i}",
            kind=draw(st.sampled_from(["bar", "counter", "odd"])),
            group=draw(st.sampled_from(["", *(g.id for g in groups)])),
            inputs=draw(st.dictionaries(NAME, RULE, max_size=2)),
            place=Place(anchor=draw(ANCHORS), offset=(draw(st.integers(-99, 99)) / 2, 3.0), size=(40.0, 8.5)),
            options=draw(st.dictionaries(NAME, st.integers() | st.text(max_size=4) | st.none(), max_size=2)),
            bands=tuple(Band(name=f"b{j}", below=draw(RULE)) for j in range(draw(st.integers(0, 2)))),
        )
        for i in range(draw(st.integers(0, 3)))
    )
    return Project(
        title=draw(st.text(max_size=9)),
        variables=variables,
        derived=tuple(Derived(name=f"d{i}", rule=draw(RULE)) for i in range(draw(st.integers(0, 2)))),
        groups=groups,
        widgets=widgets,
        plates=(Plate(name="p", picture="plates/p.svg"),),
        screens=(Screen(name="s", size=(640, 480), safe=0.1),),
        traces=(Recording(path="traces/a.csv"), Recording(path="b.csv", note="a restart", unit="ms", time="ms")),
    )


@given(projects())
def test_what_is_written_reads_back_the_same(project: Project) -> None:
    text = dumps(project)
    again, warnings = loads(text.encode())
    assert again == project
    assert warnings == []
    assert dumps(again) == text


def test_one_widgets_change_is_a_small_difference() -> None:
    place = Place(offset=(40.0, 40.0), size=(420.0, 36.0))
    widgets = tuple(Widget(id=f"w{i}", kind="bar", inputs={"value": "hull" * 9}, place=place) for i in range(5))
    project = Project(widgets=widgets)
    moved = replace(widgets[2], place=Place(offset=(1000.0, 7.0), size=(420.0, 36.0)))
    before, after = dumps(project).splitlines(), dumps(project.with_widget(moved)).splitlines()
    assert len(before) == len(after)
    assert sum(a != b for a, b in zip(before, after, strict=True)) == 1


GOOD: dict[str, Any] = {
    "format": "avrin/1",
    "variables": [{"name": "hull", "type": "float"}],
    "groups": [{"id": "dive"}],
    "widgets": [{"id": "hull_bar", "kind": "bar", "group": "dive", "place": {"anchor": "top-left", "size": [40, 8]}}],
    "plates": [{"name": "shelf", "picture": "plates/shelf.svg"}],
    "traces": ["a.csv"],
}


def changed(path: str, value: Any) -> bytes:
    data = json.loads(json.dumps(GOOD))
    at = data
    *ahead, last = [int(part) if part.isdigit() else part for part in path.split(".")]
    for part in ahead:
        at = at[part]
    at[last] = value
    return json.dumps(data).encode()


FAULTS = [
    (b"", "not JSON"),
    (b"{", "line 1, column 2: is not JSON"),
    (b'{"format": "avrin/1",\n "title": nope}', "line 2, column"),
    (b"\xff\xfe", "not UTF-8"),
    (b"[]", "not an Avrin project"),
    (b"[" * 200_000, "nested too deeply"),
    (changed("format", "avrin/2"), "written by a newer Avrin (format avrin/2"),
    (changed("format", "other"), "unknown format"),
    (changed("title", 3), "title: expected text, got a whole number"),
    (changed("widgets.0.kind", None), "widget 'hull_bar', kind: expected text, got null"),
    (changed("widgets.0.place.anchor", "top-lef"), "did you mean 'top-left'?"),
    (changed("widgets.0.place.size", [1]), "widget 'hull_bar', place, size: expected a list of length 2, got 1"),
    (changed("widgets.0.place.size", [0, 5]), "widget 'hull_bar', place, size, number 1"),
    (changed("widgets.0.group", "div"), "there is no group 'div': did you mean 'dive'?"),
    (changed("widgets", [{"kind": "bar"}]), 'needs "id"'),
    (changed("widgets", [GOOD["widgets"][0]] * 2), "widget 'hull_bar': appears twice"),
    (
        changed("traces", [{"path": "a.csv", "names": {"hp": "hull", "h": "hull"}}]),
        "trace 'a.csv', names: 'hp' and 'h' are called 'hull'",
    ),
    (changed("traces", [{"path": "a.csv", "names": {"hp": "2x"}}]), "hp"),
    (changed("traces", [{"path": "a.csv"}, {"path": "a.csv"}]), "trace 'a.csv': appears twice"),
    (
        changed("traces", [{"path": "a.csv", "case": "x"}, {"path": "a.csv", "case": "x"}]),
        "trace 'a.csv#x': appears twice",
    ),
    (changed("variables.0.name", "hull bar"), "is not a valid name"),
    (changed("variables.0.name", "then"), "word of the rule language"),
    (changed("variables.0.type", "flaot"), "did you mean 'float'?"),
    (changed("derived", [{"name": "hull", "rule": "1"}]), "the name is taken twice"),
    (changed("groups.0.group", "dive"), "contains itself"),
    (changed("plates.0.picture", "../secret.svg"), "plate: the path '../secret.svg' leaves the project's folder"),
    (changed("traces.0", "/etc/passwd"), "leaves the project's folder"),
]


@pytest.mark.parametrize(("data", "words"), FAULTS)
def test_fault_table(data: bytes, words: str) -> None:
    with pytest.raises(AvrinError) as found:
        loads(data)
    assert words in str(found.value)
    assert "\n" not in str(found.value)


def test_unknown_keys_are_kept_and_warned_about() -> None:
    data = json.loads(json.dumps(GOOD))
    data["later"] = {"a": 1}
    data["widgets"][0]["place"]["swing"] = {"x": "hull"}
    project, warnings = loads(json.dumps(data).encode())
    assert warnings == [
        "widget 'hull_bar', place, swing: unknown key, left unchanged",
        "later: unknown key, left unchanged",
    ]
    again = json.loads(dumps(project))
    assert again["later"] == {"a": 1}
    assert again["widgets"][0]["place"]["swing"] == {"x": "hull"}


def test_saving_replaces_the_file_whole_or_not_at_all(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "p.avrin"
    save(Project(title="one"), path)
    monkeypatch.setattr("os.fsync", lambda _fd: (_ for _ in ()).throw(OSError(28, "No space left on device")))
    with pytest.raises(AvrinError, match="no space left"):
        save(Project(title="two"), path)
    assert load(path)[0].title == "one"
    assert [p.name for p in tmp_path.iterdir()] == ["p.avrin"]


def test_an_error_names_the_file_first(tmp_path: Path) -> None:
    path = tmp_path / "p.avrin"
    path.write_bytes(b"?")
    with pytest.raises(AvrinError, match=r"^p\.avrin, line 1, column 1: is not JSON"):
        load(path)
    with pytest.raises(AvrinError, match="cannot be read"):
        load(tmp_path / "none.avrin")


def test_a_link_out_of_the_folder_is_refused(tmp_path: Path) -> None:
    folder, outside = tmp_path / "project", tmp_path / "outside"
    folder.mkdir()
    outside.mkdir()
    (folder / "plates").symlink_to(outside)
    with pytest.raises(AvrinError, match="leaves"):
        inside(folder, "plates/a.svg")


def test_groups_within_one_another_are_followed_once_and_circles_are_reported() -> None:
    chain = [{"id": f"g{i}", **({"group": f"g{i - 1}"} if i else {})} for i in range(2000)]
    project, _ = loads(json.dumps({**GOOD, "groups": [*GOOD["groups"], *chain]}).encode())
    assert project.groups[-1].group == "g1998"
    circle = [{"id": "a", "group": "b"}, {"id": "b", "group": "c"}, {"id": "c", "group": "b"}]
    with pytest.raises(AvrinError, match="group 'b': contains itself"):
        loads(json.dumps({**GOOD, "groups": [*GOOD["groups"], *circle]}).encode())


@pytest.mark.parametrize(
    ("type_", "start", "fine"),
    [("float", 3, True), ("int", 3.0, True), ("float", "x", False), ("int", True, False), ("bool", False, True),
     ("bool", 1, False), ("text", "a", True), ("text", 3, False), ("float", None, True)],
)  # fmt: skip
def test_a_variable_starts_at_a_value_of_its_type(type_: str, start: object, fine: bool) -> None:
    raw = json.dumps(
        {**GOOD, "variables": [*GOOD["variables"], {"name": "zz", "type": type_, "start": start}]}
    ).encode()
    if fine:
        loads(raw)
    else:
        with pytest.raises(AvrinError, match="variable 'zz': starts at"):
            loads(raw)
