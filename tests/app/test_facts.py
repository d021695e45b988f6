"""The facts shown for a variable: declared, recorded, and where it is used."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from avrin.app.bind_desk.card.facts import facts
from avrin.app.services.workspace import Workspace
from avrin.project.project import Project, Recording, Variable, Widget
from avrin.storage.files import save
from window_fixtures import qapp  # noqa: F401

TABLE = [
    (Variable(name="hp", type="int", low=-28, high=100, start=50, unit="hp", note="dips once"),
     {"type": "whole number", "range": "−28 to 100 hp", "start": "50 hp", "restart": "is reset", "note": "dips once"}),
    (Variable(name="hp", type="float", low=0, keeps=True), {"range": "at least 0", "restart": "keeps its value"}),
    (Variable(name="hp", type="float", high=9), {"range": "at most 9"}),
    (Variable(name="hp", type="float"), {"type": "number"}),
]  # fmt: skip


@pytest.mark.parametrize(("variable", "reported"), TABLE)
def test_a_declared_variable(qtbot: QtBot, tmp_path: Path, variable: Variable, reported: dict[str, str]) -> None:
    (tmp_path / "a.csv").write_text("t,hp\n0,50\n1,-28\n2,\n3,100\n")
    widget = Widget(id="w", kind="counter", inputs={"value": "hp + 1"})
    save(Project(variables=(variable,), widgets=(widget,), traces=(Recording(path="a.csv"),)), tmp_path / "p.avrin")
    workspace = Workspace()
    editor = workspace.editor
    workspace.files.open(tmp_path / "p.avrin")
    known = dict(facts(editor, "hp"))
    assert {label: known.get(label) for label in reported} == reported
    assert ("range" in known) == (variable.low is not None or variable.high is not None)
    assert known["recorded"].startswith("−28 to 100")
    assert known["recorded"].endswith(", 3 changes, missing 25.0%")
    assert known["used in"] == "W value"
    editor.deleteLater()
    qtbot.wait(1)
