"""Where the schema draws its lines, name by name: a value at each is taken, the next beyond it is not."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from avrin.errors import AvrinError
from avrin.project.project import Project, Recording, Widget
from avrin.storage.assets import FONT, PICTURE, take_in
from avrin.storage.files import check_name, dumps, load, loads
from avrin.storage.folders import folder_for
from avrin.storage.reading import read_whole

WIDGET: dict[str, Any] = {"id": "w", "kind": "bar"}


def raw(**parts: object) -> bytes:
    return json.dumps({"format": "avrin/1", **parts}).encode()


def placed(**place: object) -> bytes:
    return raw(widgets=[{**WIDGET, "place": place}])


@pytest.mark.parametrize(
    ("within", "beyond"),
    [
        (placed(offset=[100_000, -100_000]), placed(offset=[100_000.5, 0])),
        (placed(offset=[0, -100_000]), placed(offset=[0, -100_000.5])),
        (placed(size=[100_000, 1]), placed(size=[100_001, 1])),
        (raw(actions=[{"label": "x" * 60}]), raw(actions=[{"label": "x" * 61}])),
        (raw(actions=[{"label": "x"}]), raw(actions=[{"label": ""}])),
        (raw(actions=[{"label": "x", "key": "k" * 20}]), raw(actions=[{"label": "x", "key": "k" * 21}])),
        (raw(variables=[{"name": "v" * 80, "type": "int"}]), raw(variables=[{"name": "v" * 81, "type": "int"}])),
        (raw(traces=[{"path": "a.csv", "rate": 100_000}]), raw(traces=[{"path": "a.csv", "rate": 100_001}])),
        (raw(traces=[{"path": "a.csv", "rate": 0}]), raw(traces=[{"path": "a.csv", "rate": -1}])),
    ],
)
def test_a_line_is_drawn_exactly_there(within: bytes, beyond: bytes) -> None:
    loads(within)
    with pytest.raises(AvrinError):
        loads(beyond)


@pytest.mark.parametrize(
    ("name", "taken", "problem"),
    [
        ("air_left", ("air",), ""),
        ("x" * 80, (), ""),
        ("x" * 81, (), "is not a valid name"),
        ("9lives", (), "is not a valid name"),
        ("then", (), "is a reserved word of the rule language"),
        ("air", ("hull", "air"), "is taken"),
    ],
)
def test_what_something_can_be_called(name: str, taken: tuple[str, ...], problem: str) -> None:
    if not problem:
        check_name(name, taken)
        return
    with pytest.raises(AvrinError, match=problem):
        check_name(name, taken)


def test_a_recording_is_called_by_its_name_or_else_by_its_file() -> None:
    assert Recording(path="traces/deep/dive.one.csv").title == "dive.one"
    assert Recording(path="dive.csv").title == "dive"
    assert Recording(path="dive.csv", name="The first").title == "The first"


def test_a_project_begins_with_a_screen_of_1920_by_1080() -> None:
    assert Project().reference == (1920, 1080)


def test_a_widget_is_put_in_its_own_place_or_last() -> None:
    one, two = Widget(id="one", kind="bar"), Widget(id="two", kind="bar")
    project = Project(widgets=(one, two))
    changed = Widget(id="one", kind="ring")
    assert project.with_widget(changed).widgets == (changed, two)
    third = Widget(id="three", kind="ring")
    assert project.with_widget(third).widgets == (one, two, third)


def test_a_project_is_laid_out_by_depth_with_what_fits_on_one_line() -> None:
    widgets = tuple(
        Widget(id=f"w{i}", kind="label", inputs={"text": "words " * 12, "visible": "hull > 3"}) for i in range(2)
    )
    lines = dumps(Project(title="Deep", widgets=widgets)).splitlines()
    assert lines[:6] == ["{", ' "format": "avrin/1",', ' "title": "Deep",', ' "widgets": [', "  {", '   "id": "w0",']
    assert lines[-2:] == [" ]", "}"]


def test_files_that_are_too_large_say_how_large_they_may_be(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    path.write_bytes(b"x" * (3 * 2**20 + 1))
    with pytest.raises(AvrinError, match="is larger than 3 MiB"):
        read_whole(path, 3 * 2**20)
    small = PICTURE._replace(most=3 * 2**20)
    (tmp_path / "project").mkdir()
    with pytest.raises(AvrinError, match=r"the file a\.png is larger than 3 MiB"):
        take_in(path, tmp_path / "project", small)
    with pytest.raises(AvrinError, match="is not a font Avrin can draw"):
        take_in(path, tmp_path / "project", FONT)
    path.write_bytes(b"x" * (3 * 2**20))
    assert take_in(path, tmp_path / "project", small) == "art/a.png"


def test_why_the_system_refuses_is_reported_in_its_words(tmp_path: Path) -> None:
    with pytest.raises(AvrinError, match=r"cannot be read \(no such file or directory\)"):
        load(tmp_path / "none.avrin")
    blocked = tmp_path / "file"
    blocked.write_text("")
    with pytest.raises(AvrinError, match=r"(not a directory|file exists)"):
        folder_for(blocked / "inner" / "a.txt")
    made = folder_for(tmp_path / "deep" / "er" / "a.txt")
    assert made == tmp_path / "deep" / "er" / "a.txt"
    assert made.parent.is_dir()


@pytest.mark.parametrize(("name", "content"), [("gone.avrin", None), ("bad.avrin", "[]"), ("torn.avrin", "{")])
def test_a_fault_of_a_file_names_the_file_once(tmp_path: Path, name: str, content: str | None) -> None:
    if content is not None:
        (tmp_path / name).write_text(content)
    with pytest.raises(AvrinError) as raised:
        load(tmp_path / name)
    assert str(raised.value).count(name) == 1
