"""Merging two versions of a project: laws, a table worked by hand, and git itself."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.cli import main
from avrin.errors import AvrinError
from avrin.project.project import Conflict, Project
from avrin.storage.files import as_json, dumps, loads
from avrin.storage.merge import conflict_title, merged, resolved, value_words

GIT = shutil.which("git") or "git"
BASE: dict[str, Any] = {
    "format": "avrin/1", "title": "Dive", "reference": [1920, 1080],
    "variables": [{"name": "hull", "type": "float", "low": 0, "high": 100}, {"name": "air", "type": "float"}],
    "widgets": [
        {"id": "bar", "kind": "bar", "inputs": {"value": "hull", "full": "100"}, "place": {"offset": [40, 40]},
         "bands": [{"name": "critical", "below": "10%"}, {"name": "low", "below": "25%"}]},
        {"id": "air", "kind": "counter", "inputs": {"value": "air"}},
        {"id": "note", "kind": "label", "inputs": {"text": "Dive"}},
    ],
    "traces": ["traces/a.csv"],
}  # fmt: skip


def version(*edits: tuple[tuple[Any, ...], Any]) -> Project:
    """The base with values at some paths replaced: None removes, and a number beyond a list's end appends."""
    raw = json.loads(json.dumps(BASE))
    for path, value in edits:
        part = raw
        for step in path[:-1]:
            part = part[step]
        if value is None:
            del part[path[-1]]
        elif isinstance(part, list) and path[-1] >= len(part):
            part.append(value)
        else:
            part[path[-1]] = value
    return loads(json.dumps(raw).encode())[0]


WIDGETS = st.sampled_from([
    (("widgets", 0, "place", "offset"), [48, 40]), (("widgets", 0, "inputs", "value"), "hull - 5"),
    (("widgets", 0, "bands", 1, "below"), "30%"), (("widgets", 0, "bands", 2), {"name": "high", "above": "90%"}),
    (("widgets", 2), None), (("widgets", 9), {"id": "new", "kind": "label", "inputs": {"text": "hello"}}),
    (("title",), "Deep"), (("variables", 0, "high"), 140), (("traces", 5), "traces/b.csv"),
    (("widgets", 1, "look"), {"text_size": 30}), (("placeholder",), "?"),
])  # fmt: skip
VERSIONS = st.lists(WIDGETS, max_size=3, unique_by=lambda edit: str(edit[0])).map(lambda edits: version(*edits))


@given(VERSIONS)
def test_what_one_side_changed_is_taken_and_equal_changes_agree(changed: Project) -> None:
    base = version()
    assert merged(base, changed, base) == changed
    assert merged(base, base, changed) == changed
    assert merged(base, changed, changed) == changed


@given(VERSIONS, VERSIONS)
def test_sides_agree_on_what_is_merged_but_for_conflicts_and_order(ours: Project, theirs: Project) -> None:
    base = version()
    one, other = merged(base, ours, theirs), merged(base, theirs, ours)
    assert {conflict.at for conflict in one.conflicts} == {conflict.at for conflict in other.conflicts}
    for conflict in one.conflicts:
        one = resolved(one, conflict, theirs=True)
    assert one.conflicts == ()
    assert _by_id(one) == _by_id(Project(**{f: getattr(other, f) for f in other.__struct_fields__ if f != "conflicts"}))


def _by_id(project: Project) -> dict[str, Any]:
    plain = as_json(project)
    for part in ("widgets", "variables", "traces"):
        plain[part] = sorted(plain.get(part, ()), key=json.dumps)
    for widget in plain["widgets"]:
        widget["bands"] = sorted(widget.get("bands", ()), key=json.dumps)
    return plain


def test_entries_merge_by_name_and_fields_by_key() -> None:
    ours = version(
        (("widgets", 0, "place", "offset"), [48, 40]), (("widgets", 0, "bands", 0, "below"), "12%"),
        (("widgets", 9), {"id": "mine", "kind": "label", "inputs": {"text": "a"}}),
    )  # fmt: skip
    theirs = version(
        (("widgets", 2), None), (("widgets", 0, "bands", 1, "below"), "30%"), (("widgets", 0, "inputs", "full"), "140"),
        (("widgets", 9), {"id": "yours", "kind": "label", "inputs": {"text": "b"}}), (("variables", 0, "high"), 140),
    )  # fmt: skip
    project = merged(version(), ours, theirs)
    assert project.conflicts == ()
    assert [widget.id for widget in project.widgets] == ["bar", "air", "mine", "yours"]
    bar = project.widget("bar")
    assert (bar.place.offset, bar.inputs["full"], [band.below for band in bar.bands]) == (
        (48, 40),
        "140",
        ["12%", "30%"],
    )
    assert project.variables[0].high == 140


@pytest.mark.parametrize(
    ("ours", "theirs", "title", "values"),
    [
        ((("widgets", 0, "place", "offset"), [48, 40]), (("widgets", 0, "place", "offset"), [40, 44]),
         "widget 'bar', place, offset", ("[48, 40]", "[40, 44]")),
        ((("widgets", 0, "bands", 0, "below"), "12%"), (("widgets", 0, "bands", 0, "below"), "8%"),
         "widget 'bar', bands, critical, below", ("12%", "8%")),
        ((("widgets", 2), None), (("widgets", 2, "inputs", "text"), "Deep"), "widget 'note'",
         ("removed", '{"id": "note", "kind": "label", "inputs": {"text": "Deep"}}')),
        ((("title",), "A"), (("title",), "B"), "title", ("A", "B")),
        ((("placeholder",), "?"), (("placeholder",), "!"), "placeholder", ("?", "!")),
        ((("variables", 1, "type"), "int"), (("variables", 1, "type"), "text"), "variable 'air', type", ("int", "text")),
    ],
)  # fmt: skip
def test_what_both_changed_is_a_conflict_with_ours_until_one_is_chosen(
    ours: Any, theirs: Any, title: str, values: tuple[str, str]
) -> None:
    project = merged(version(), version(ours), version(theirs))
    (conflict,) = project.conflicts
    assert conflict_title(conflict) == title
    assert tuple(value_words(one) for one in (conflict.ours, conflict.theirs)) == values
    assert loads(dumps(project).encode())[0] == project, "conflicts are in the file"
    assert resolved(project, conflict, theirs=False) == version(ours)
    assert _by_id(resolved(project, conflict, theirs=True)) == _by_id(version(theirs))


def test_two_orders_are_one_conflict() -> None:
    widgets = BASE["widgets"]
    ours = version((("widgets",), [widgets[1], widgets[0], widgets[2]]))
    theirs = version((("widgets",), [widgets[2], widgets[0], widgets[1]]))
    project = merged(version(), ours, theirs)
    (conflict,) = project.conflicts
    assert (conflict_title(conflict), conflict.theirs) == ("order of widgets", ["note", "bar", "air"])
    assert resolved(project, conflict, theirs=True).widgets == theirs.widgets
    assert merged(version(), version(), theirs).widgets == theirs.widgets


def test_a_value_whose_place_has_gone_since_is_refused() -> None:
    conflict = Conflict(at=("widgets", "gone", "place", "offset"), ours=[0, 0], theirs=[1, 1])
    with pytest.raises(AvrinError, match="'gone' does not exist any more"):
        resolved(version(), conflict, theirs=True)


def test_what_does_not_fit_together_is_refused_and_nothing_is_written(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    ours = version((("variables", 5), {"name": "fuel", "type": "float"}))
    theirs = version((("derived",), [{"name": "fuel", "rule": "hull"}]))
    files = [tmp_path / name for name in ("base", "ours", "theirs")]
    for path, project in zip(files, (version(), ours, theirs), strict=True):
        path.write_text(dumps(project))
    before = files[1].read_bytes()
    assert main(["merge", *map(str, files)]) == 2
    assert "the merged project, derived value 'fuel': the name is taken twice" in capsys.readouterr().err
    assert files[1].read_bytes() == before
    files[2].write_text("<<<<<<< HEAD")
    assert main(["merge", *map(str, files)]) == 2
    assert "theirs, line 1, column 1: is not JSON" in capsys.readouterr().err
    assert files[1].read_bytes() == before


def git(folder: Path, *words: str) -> subprocess.CompletedProcess[str]:
    names = ["-c", "user.name=Ona", "-c", "user.email=ona@example.org"]
    return subprocess.run([GIT, *names, *words], cwd=folder, capture_output=True, text=True, check=False)


def test_git_merges_projects_with_it_as_documented(tmp_path: Path) -> None:
    path = tmp_path / "dive.avrin"
    git(tmp_path, "init", "-q", "-b", "main")
    git(tmp_path, "config", "merge.avrin.name", "Avrin projects")
    git(tmp_path, "config", "merge.avrin.driver", f"{sys.executable} -m avrin merge %O %A %B")
    (tmp_path / ".gitattributes").write_text("*.avrin merge=avrin\n")
    path.write_text(dumps(version()))
    git(tmp_path, "add", ".")
    git(tmp_path, "commit", "-qm", "base")
    git(tmp_path, "checkout", "-qb", "theirs")
    path.write_text(
        dumps(version((("widgets", 0, "place", "offset"), [40, 44]), (("widgets", 1, "look"), {"text_size": 30})))
    )
    git(tmp_path, "commit", "-qam", "theirs")
    git(tmp_path, "checkout", "-q", "main")
    path.write_text(dumps(version((("widgets", 0, "inputs", "full"), "140"))))
    git(tmp_path, "commit", "-qam", "ours")
    assert git(tmp_path, "merge", "theirs", "-m", "both").returncode == 0
    project, _ = loads(path.read_bytes())
    assert (project.widget("bar").place.offset, project.widget("bar").inputs["full"]) == ((40, 44), "140")
    path.write_text(dumps(version((("title",), "Ours"))))
    git(tmp_path, "commit", "-qam", "again")
    git(tmp_path, "checkout", "-q", "theirs")
    path.write_text(dumps(version((("title",), "Theirs"))))
    git(tmp_path, "commit", "-qam", "again")
    asked = git(tmp_path, "merge", "main")
    assert asked.returncode == 1
    assert "title: ours Theirs, theirs Ours" in asked.stdout
    assert loads(path.read_bytes())[0].conflicts == (Conflict(at=("title",), ours="Theirs", theirs="Ours"),)


def test_long_values_are_cut_in_messages() -> None:
    assert value_words("x" * 60) == "x" * 60
    assert value_words("x" * 61) == f"{'x' * 59}…"
    assert len(value_words(["long"] * 40)) == 60


def test_ignored_findings_of_both_sides_are_kept_and_lists_without_names_are_one_value() -> None:
    ours, theirs = ({"code": "low-contrast", "of": name, "reason": "meant"} for name in ("bar", "air"))
    project = merged(version((("hush",), [ours])), version((("hush",), [ours])), version((("hush",), [ours, theirs])))
    assert project.hush == (ours, theirs)
    both = merged(version(), version((("hush",), [ours])), version((("hush",), [theirs])))
    assert (both.hush, both.conflicts) == ((ours, theirs), ())
    columns = [{"title": "a", "text": "{hull}"}, {"title": "b", "text": "{air}"}]
    swapped = merged(
        version((("widgets", 1, "options"), {"columns": columns[:1]})),
        version((("widgets", 1, "options"), {"columns": columns})),
        version((("widgets", 1, "options"), {"columns": columns[1:]})),
    )
    assert [conflict.at for conflict in swapped.conflicts] == [("widgets", "air", "options", "columns")]


def test_comments_of_two_people_are_both_kept_in_order() -> None:
    def said(text: str, author: str, **more: object) -> dict[str, object]:
        return {"text": text, "author": author, "date": "2026-11-30", **more}

    first = said("too dim", "Ona Quay", widget="bar", t=3.0)
    resolved_first = first | {"resolved": True}
    calm, busy, reply = (
        said("calm", "Ona Quay"),
        said("busy here", "Bo Reed"),
        said("why dim?", "Bo Reed", widget="bar", t=3.0),
    )
    project = merged(
        version((("comments",), [first])),
        version((("comments",), [resolved_first, calm])),
        version((("comments",), [busy, reply, first])),
    )
    assert [(one.text, one.resolved) for one in project.comments] == [
        ("busy here", False), ("why dim?", False), ("too dim", True), ("calm", False),
    ]  # fmt: skip
    assert project.conflicts == ()
