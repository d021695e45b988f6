"""Thousands of recordings on the Ladder desk: swept in the background, stopped and continued, sorted, filtered, opened."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.ladder_desk.sweep_view import SweepView
from avrin.app.ladder_desk.swept_rows import outline_box
from avrin.app.window.window import Window
from avrin.trace.frames import Column, Trace
from avrin.trace.store import open_trace, save_trace
from gestures import rewrite
from window_fixtures import qapp, window  # noqa: F401

LEFT, PLAIN = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def face(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> SweepView:
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "cache"))
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    QApplication.processEvents()
    desk = window.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    QTest.mouseClick(desk.face_links["many recordings"], LEFT)
    return desk.many


def rests(face: SweepView) -> None:
    until = time.monotonic() + 60
    QApplication.processEvents()
    while face.busy and time.monotonic() < until:
        face.wait()
        QApplication.processEvents()
    assert not face.busy


def plays(face: SweepView, folder: Path, count: int = 6) -> Path:
    """Play-tests of another hull each: the further on, the lower it goes."""
    editor = face.editor
    for number in range(count):
        trace = open_trace(editor.now.folder / editor.now.project.traces[0].path, editor.now.project.all_variables())
        part = {name: replace(column, data=column.data[:900]) for name, column in trace.columns.items()}
        hull = np.linspace(100, 60 - 12.0 * number, 900)
        made = Trace.make("p", trace.t[:900], {**part, "hull": Column("number", hull)}, trace.run[:900].tolist())
        (folder / f"day{number % 2}").mkdir(parents=True, exist_ok=True)
        save_trace(made, folder / f"day{number % 2}/play{number}.parquet")
    return folder


def shown(face: SweepView) -> list[str]:
    model = face.rows.model_
    return [str(model.index(row, 0).data()) for row in range(model.rowCount())]


def test_a_folder_is_swept_and_read_as_a_sentence_and_a_table(face: SweepView, tmp_path: Path) -> None:
    assert face.sentence.text().startswith("Choose a folder")
    assert not face.rows.isVisible()
    folder = plays(face, tmp_path / "plays")
    (folder / "torn.csv").write_text("")
    rewrite(face.where, str(folder))
    assert face.sweeps.running
    assert face.go.text() == "stop"
    rests(face)
    assert face.go.text() == "sweep again"
    assert face.rows.isVisible()
    face.widgets.taken.emit("Hull bar")
    said = face.sentence.text()
    assert said.startswith("Hull bar, in 6 recordings, 1 more are unreadable: critical in ")
    assert "Never shown in 6 recordings: " in face.never.text()
    assert shown(face) == [f"day{i % 2}/play{i}.parquet" for i in (0, 2, 4, 1, 3, 5)]
    rests(face)
    outlines = face.rows.model_.outlines
    assert set(outlines) == set(shown(face))
    assert all(one is not None for one in outlines.values())


def test_a_column_sorts_it_and_only_some_are_shown(face: SweepView, tmp_path: Path) -> None:
    rewrite(face.where, str(plays(face, tmp_path / "plays")))
    rests(face)
    face.widgets.taken.emit("Hull bar")
    rows, model = face.rows, face.rows.model_
    assert model.found is not None
    low = 2 + model.found.states.index("low")
    head = rows.horizontalHeader()
    at = QPoint(head.sectionViewportPosition(low) + 20, 10)
    QTest.mouseClick(head.viewport(), LEFT, PLAIN, at)
    seconds = [model.found.seconds[row, low - 2] for row in model.shown]
    assert seconds == sorted(seconds, reverse=True)
    assert seconds[0] > 0
    QTest.mouseClick(head.viewport(), LEFT, PLAIN, at)
    assert [model.found.seconds[row, low - 2] for row in model.shown] == seconds[::-1]
    face.only.taken.emit("ever low")
    ever = shown(face)
    face.only.taken.emit("never low")
    never = shown(face)
    assert ever
    assert never
    assert set(ever) | set(never) == {f"day{i % 2}/play{i}.parquet" for i in range(6)}
    assert model.index(0, low).data() == "never"
    face.only.taken.emit("all of them")
    assert len(shown(face)) == 6


def test_a_press_goes_into_a_recording_at_the_first_moment_of_a_state(face: SweepView, tmp_path: Path) -> None:
    rewrite(face.where, str(plays(face, tmp_path / "plays")))
    rests(face)
    face.widgets.taken.emit("Hull bar")
    face.only.taken.emit("ever low")
    model, editor = face.rows.model_, face.editor
    assert model.found is not None
    low = 2 + model.found.states.index("low")
    before = editor.now.project
    QTest.mouseClick(face.rows.viewport(), LEFT, PLAIN, face.rows.visualRect(model.index(0, low)).center())
    face._traces.jobs.wait()
    name = shown(face)[0]
    assert editor.now.trace.name == name
    assert editor.now.project is before, "the project is unchanged"
    assert editor.now.selection.widget == "hull_bar"
    row = int(model.shown[0])
    assert editor.now.trace.t[editor.now.frame] == model.found.first[row, low - 2]
    widget = editor.now.bound.widgets["hull_bar"]
    band = editor.now.tracks.column(widget.columns["band"])
    assert (band[editor.now.frame], band[editor.now.frame - 1]) == ("low", "")
    drawn = outline_box(QRectF(face.rows.visualRect(model.index(0, 1))))
    for share in (0.25, 0.8):
        at = QPointF(drawn.x() + drawn.width() * share, drawn.center().y()).toPoint()
        QTest.mouseClick(face.rows.viewport(), LEFT, PLAIN, at)
        face._traces.jobs.wait()
        assert editor.now.seconds == pytest.approx(share * editor.now.trace.length, abs=0.01 * editor.now.trace.length)
    face.rows.setFocus()
    face.rows.setCurrentIndex(model.index(0, 0))
    QTest.keyClick(face.rows, Qt.Key.Key_Return)
    face._traces.jobs.wait()
    assert editor.now.frame == 0


def test_it_is_stopped_and_gone_on_with_and_remembered(face: SweepView, tmp_path: Path) -> None:
    folder = plays(face, tmp_path / "plays", 40)
    rewrite(face.where, str(folder))
    until = time.monotonic() + 60
    while face.sweeps.running and face.sweeps.done < 2 and time.monotonic() < until:
        QApplication.processEvents()
        time.sleep(0.01)
    QTest.mouseClick(face.go, LEFT)
    assert not face.sweeps.running
    done = face.sweeps.done
    assert 2 <= done < 40
    assert face.go.text() == "go on"
    assert face.progress.text() == f"{done} of 40"
    QTest.mouseClick(face.go, LEFT)
    rests(face)
    assert face.sweeps.found is not None
    assert len(face.sweeps.found.recordings) == 40
    face.sweeps._known = None  # as a window opened later would
    face.sweeps.found = None
    face.begin()
    rests(face)
    assert face.where.text() == str(folder)
    assert face.sweeps.found is not None


def test_what_cannot_be_is_reported(face: SweepView, tmp_path: Path, window: Window) -> None:
    rewrite(face.where, "nowhere/at all")
    rests(face)
    assert "cannot be read" in window.message.text()
    assert face.go.text() == "sweep"
    (tmp_path / "empty").mkdir()
    rewrite(face.where, str(tmp_path / "empty"))
    rests(face)
    assert "there are no recordings in" in window.message.text()
    rewrite(face.where, " ")
    assert "no location of recordings is given" in window.message.text()


def test_a_path_is_from_the_projects_folder_on_and_a_closed_window_sweeps_no_more(
    face: SweepView, window: Window
) -> None:
    plays(face, face.editor.now.folder / "plays", 12)
    rewrite(face.where, "plays")
    assert face.sweeps.running
    window.editor.closing.emit()
    assert not face.sweeps.running


def test_another_project_has_sweeps_of_its_own(face: SweepView, window: Window, tmp_path: Path) -> None:
    editor, folder = face.editor, plays(face, tmp_path / "plays", 3)
    rewrite(face.where, str(folder))
    rests(face)
    assert face.sweeps.found is not None
    before = editor.now.path
    assert before is not None
    window.workspace.files.save(tmp_path / "other" / "copy.avrin")
    QApplication.processEvents()
    window.open_files([before])
    QApplication.processEvents()
    assert face.sweeps.found is None
    face.begin()
    rests(face)
    assert face.where.text() == str(folder)
    assert face.sweeps.found is not None
    rewrite(face.where, str(plays(face, tmp_path / "more", 30)))
    assert face.sweeps.running
    window.open_files([tmp_path / "other" / "copy.avrin"])
    assert not face.sweeps.running
    face.begin()
    rests(face)
    assert (face.where.text(), face.sweeps.found) == ("", None)
