"""Where should a warning begin? Asked, dragged, read, walked and taken over in the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.ladder_desk.warning import WarningFace
from avrin.app.window.window import Window
from avrin.editor.edits import undo
from avrin.errors import AvrinError
from gestures import rewrite
from window_fixtures import carried, one_window, qapp  # noqa: F401

LEFT, PLAIN = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def face(carried: Window) -> WarningFace:
    carried.activateWindow()
    QTest.keyClick(carried, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    QApplication.processEvents()
    desk = carried.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    QTest.mouseClick(desk.face_links["warning"], LEFT)
    found = desk.warning
    found.begin_anew()
    found.ask_about("hull_bar", "low")
    rests(found)
    return found


def rests(face: WarningFace) -> None:
    QApplication.processEvents()
    while face.busy:
        face.wait()
        QApplication.processEvents()


def test_the_answer_is_a_sentence_and_every_outcome_worst_first(face: WarningFace) -> None:
    assert face.isVisible()
    assert face.bands.currentText() == "Hull bar: low"
    assert face.sentence.text().startswith("At 25% 2 of 2 are warned 3 s ahead; 0 false alarms in 12 minutes")
    assert not face.take.isVisible(), "it is where the band begins now"
    leads = [one.lead for one in face.rows.outcomes]
    assert leads == sorted(leads, key=lambda lead: lead or 0)
    assert len(leads) == 2


def test_the_limit_is_dragged_and_what_would_be_is_said_at_once(face: WarningFace) -> None:
    chart = face.chart
    there = QPoint(round(chart.x_of(0.08)), 120)
    QTest.mousePress(chart, LEFT, PLAIN, QPoint(round(chart.x_of(0.25)), 120))
    QTest.mouseMove(chart, there)
    QTest.mouseRelease(chart, LEFT, PLAIN, there)
    assert chart.at == pytest.approx(0.08, abs=0.01)
    assert face.take.isVisible()
    assert face.sentence.text().startswith(
        f"At {face.take.text().removeprefix('take ')} 1 of 2 are warned 3 s ahead, 1 late"
    )
    before = chart.at
    chart.setFocus()
    QTest.keyClick(chart, Qt.Key.Key_Left)
    assert chart.at is not None
    assert before is not None
    assert chart.at < before


def test_it_is_taken_over_with_its_back_and_undone_with_one_step(face: WarningFace) -> None:
    editor = face.editor
    old = editor.now.project.widget("hull_bar").bands
    face.ask_at(0.4)
    QTest.mouseClick(face.take, LEFT)
    rests(face)
    low = next(one for one in editor.now.project.widget("hull_bar").bands if one.name == "low")
    assert (low.below, low.back) == ("40%", "45%")
    face.begin()
    rests(face)
    assert face.chart.now == pytest.approx(0.4)
    editor.do(undo)
    assert editor.now.project.widget("hull_bar").bands == old


def test_a_press_on_an_outcome_goes_to_where_its_warning_began(carried: Window, face: WarningFace) -> None:
    first = face.rows.outcomes[0]
    QTest.mouseClick(face.rows, LEFT, PLAIN, QPoint(30, 20))
    assert face.editor.now.trace.name == "leaky-dive"
    assert face.editor.now.frame == first.begins
    assert face.editor.now.selection.widget == "hull_bar"
    assert "s ahead" in carried.message.text()


def test_beside_each_outcome_stands_the_hud_and_under_the_curves_the_way_to_one(face: WarningFace) -> None:
    assert set(face.rows.pictures) == {0, 1}
    assert face.rows.pictures[0] != face.rows.pictures[1]
    way, signal = face.way, face._found.signals[0]  # type: ignore[union-attr]
    assert way.isVisible()
    for number in (0, 1):
        QTest.mouseClick(face.rows, LEFT, PLAIN, QPoint(120, 20 + 54 * number))
        one = face.rows.outcomes[number]
        start, stop = way.span()
        assert start <= (one.begins or 0) < one.frame < stop, "from before the warning to behind the outcome"
        assert signal.t[start] <= signal.t[one.frame] - 29
        first, end = next((a, b) for a, b in signal.runs.tolist() if a <= one.frame < b)
        assert first <= start
        assert stop <= end, "and of its run alone"
    assert face.rows.chosen == 1
    face.outcome.choice.taken.emit("another …")
    QApplication.processEvents()
    assert not way.isVisible()


def test_what_it_warns_of_is_said_named_and_taken_away(carried: Window, face: WarningFace) -> None:
    editor = face.editor
    face.outcome.choice.taken.emit("another …")
    QApplication.processEvents()
    assert "Enter what it warns of" in face.sentence.text()
    rewrite(face.outcome.rule, "hull < 40")
    rests(face)
    assert [(one.name, one.rule) for one in editor.now.project.outcomes] == [
        ("lost", 'phase == "lost"'),
        ("lost_2", "hull < 40"),
    ]
    assert "are warned" in face.sentence.text()
    rewrite(face.outcome.called, "nearly lost")
    assert "is not a valid name" in carried.message.text()
    rewrite(face.outcome.called, "nearly")
    assert editor.now.project.outcomes[1].name == "nearly"
    assert (face.outcome.called.text(), face.outcome.rule.text()) == ("nearly", "hull < 40")
    rewrite(face.outcome.rule, "hul < 40")
    assert "did you mean `hull`" in carried.message.text()
    QTest.mouseClick(face.outcome.remove, LEFT)
    assert [one.name for one in editor.now.project.outcomes] == ["lost"]
    assert (face.outcome.called.text(), face.outcome.rule.text()) == ("lost", 'phase == "lost"'), (
        "the first is shown again"
    )
    face.outcome.choice.taken.emit("a restart")
    rests(face)
    assert " of 3 are warned" in face.sentence.text()
    assert not face.outcome.rule.isVisible()


def test_seconds_and_wishes_are_numbers(carried: Window, face: WarningFace) -> None:
    rewrite(face.seconds["lead"], "30")
    rests(face)
    assert face.terms.lead == 30
    assert "are warned 30 s ahead" in face.sentence.text()
    rewrite(face.seconds["lead"], "soon")
    assert "is not a number of seconds" in carried.message.text()
    rewrite(face.seconds["lead"], "3")
    rests(face)
    assert face.chart.wished.any()
    rewrite(face.wishes["false"], "0")
    found = face._found
    assert found is not None
    assert np.array_equal(face.chart.wished, (found.curves.warned == 2) & (found.curves.false == 0))
    rewrite(face.wishes["warned"], "many")
    assert "is not a number" in carried.message.text()


def test_the_curves_are_kept_as_a_table_or_a_picture(carried: Window, face: WarningFace, tmp_path: Path) -> None:
    desk = carried.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    desk.save(tmp_path / "curves.csv")
    assert (tmp_path / "curves.csv").read_text().startswith("value,outcomes,warned,late,missed")
    desk.save(tmp_path / "curves.png")
    assert (tmp_path / "curves.png").stat().st_size > 5000
    face.outcome.choice.taken.emit("another …")
    QApplication.processEvents()
    with pytest.raises(AvrinError, match="there are no curves yet"):
        desk.save(tmp_path / "other.csv")


def test_limit_and_back_are_chosen_together_on_a_map_and_taken_over(face: WarningFace) -> None:
    editor = face.editor
    QTest.mouseClick(face.views["back"], LEFT)
    rests(face)
    assert face.map.isVisible()
    found = face.map.found
    assert found is not None
    QTest.mouseClick(face.map, LEFT, PLAIN, face.map.cell(len(found.values) // 2, 0).center().toPoint())
    assert ", back at once" in face.sentence.text()
    face.map.setFocus()
    QTest.keyClick(face.map, Qt.Key.Key_Up)
    assert face.map.at == (len(found.values) // 2, 1)
    value, gap = float(found.values[len(found.values) // 2]), float(found.others[1])
    low = f"{float(f'{value * 100:.3g}'):g}%"
    assert face.sentence.text().startswith(f"At {low}, back at ")
    count = int(found.warned[1, len(found.values) // 2])
    assert f" {count} of {found.outcomes} are warned" in face.sentence.text()
    QTest.mouseClick(face.take, LEFT)
    rests(face)
    band = next(one for one in editor.now.project.widget("hull_bar").bands if one.name == "low")
    assert band.below == low
    assert band.back == f"{float(f'{(value + gap) * 100:.3g}'):g}%"
    editor.do(undo)
    QTest.mouseClick(face.views[""], LEFT)


def test_limit_and_wait_are_chosen_together_on_a_map_and_taken_over(face: WarningFace) -> None:
    editor = face.editor
    QTest.mouseClick(face.views["held"], LEFT)
    rests(face)
    found = face.map.found
    assert found is not None
    assert found.others[:3].tolist() == [0, 0.05, 0.1]
    middle = len(found.values) // 2
    QTest.mouseClick(face.map, LEFT, PLAIN, face.map.cell(middle, 6).center().toPoint())
    low = f"{float(f'{float(found.values[middle]) * 100:.3g}'):g}%"
    assert face.sentence.text().startswith(f"At {low}, held for 750ms ")
    assert f" {int(found.warned[6, middle])} of {found.outcomes} are warned" in face.sentence.text()
    assert face.map.assisted_value() == f"{low}, held for 750ms"
    assert face.take.text() == f"take {low}, held for 750ms"
    QTest.mouseClick(face.take, LEFT)
    rests(face)
    band = next(one for one in editor.now.project.widget("hull_bar").bands if one.name == "low")
    assert (band.below, band.held) == (low, "750ms")
    assert face.map.now is not None
    assert face.map.now[1] == 0.75, "the map goes on from what was taken"
    QTest.keyClick(face.map, Qt.Key.Key_Down)
    assert ", held for 500ms" in face.sentence.text()
    QTest.mouseClick(face.map, LEFT, PLAIN, face.map.cell(middle, 0).center().toPoint())
    assert ", at once " in face.sentence.text()
    editor.do(undo)
    QTest.mouseClick(face.views[""], LEFT)


def test_a_wish_is_reported_of_each_recording_too(face: WarningFace) -> None:
    face.outcome.choice.taken.emit("another …")
    QApplication.processEvents()
    rewrite(face.outcome.rule, "air < 20")
    rests(face)
    found = face._found
    assert found is not None
    assert [name for name, _ in face.chart.each] == [found.traces[number].name for number in found.each]
    assert len(face.chart.each) > 1
    for (_, good), told in zip(face.chart.each, found.each.values(), strict=True):
        assert good.shape == told.value.shape
        assert not good[told.warned < 0.9 * told.outcomes - 1e-6].any()
    QTest.mouseClick(face.outcome.remove, LEFT)
    rests(face)


def test_a_prompt_is_reported_each_time_it_was_needed_and_gone_to(carried: Window, face: WarningFace) -> None:
    said = next(name for name, band in face._bands.items() if band == ("leak_warning", ""))
    face.bands.taken.emit(said)
    rests(face)
    assert face.lessons.isVisible()
    assert not face.outcome.choice.isVisible()
    assert face.sentence.text().startswith("Needed ")
    first = next(number for number, one in enumerate(face.lessons.lessons) if one.shown is not None)
    QTest.mouseClick(face.lessons, LEFT, PLAIN, QPoint(300, 26 + 26 * first + 13))
    one = face.lessons.lessons[first]
    assert face.editor.now.frame == one.shown
    assert face.editor.now.selection.widget == "leak_warning"
    assert face.lessons.describe(one) in carried.message.text() or "shown" in carried.message.text()
    face.ask_about("hull_bar", "low")
    rests(face)
    assert face.outcome.choice.isVisible()
    assert face.chart.isVisible()
    assert "are warned" in face.sentence.text()


def test_a_wish_that_no_limit_meets_is_answered_with_the_nearest_and_why(face: WarningFace) -> None:
    assert not face.answered.isVisible()
    rewrite(face.seconds["lead"], "400")
    rests(face)
    rewrite(face.wishes["warned"], "100")
    rewrite(face.wishes["false"], "0")
    assert face.answered.isVisible()
    assert face.answer.text().startswith("No limit meets the goal; the nearest is ")
    QTest.mouseClick(face.nearest, LEFT)
    rests(face)
    assert face.nearest.text() == f"select {face.take.text().removeprefix('take ')}"
    rewrite(face.wishes["warned"], "0")
    assert not face.answered.isVisible()


def test_how_long_it_is_on_stands_in_the_sentence(face: WarningFace) -> None:
    face.ask_at(0.9)
    told = face._found.curves  # type: ignore[union-attr]
    assert "it is on for" in face.sentence.text()
    share = float(face.sentence.text().partition("it is on for ")[2].partition("%")[0])
    near = int(np.argmin(np.abs(told.value - 0.9)))
    assert share == pytest.approx(100 * told.share_on[near], abs=3)


def test_a_limit_below_is_asked_for_and_the_one_just_left_is_found_again(face: WarningFace) -> None:
    face.ask_at(0.06)
    QTest.mouseClick(face.take, LEFT)
    rests(face)
    face.begin()
    rests(face)
    values = face._found.curves.value  # type: ignore[union-attr]
    assert values[0] < 0.06
    assert 0.25 in values.tolist(), "the one just left"
    chart = face.chart
    assert chart.x_of(0.06) > chart.x_of(float(values[0])) + 20


def test_the_map_frames_the_pairs_that_meet_the_wish(face: WarningFace) -> None:
    QTest.mouseClick(face.views["held"], LEFT)
    rests(face)
    pairs = face.map.found
    assert pairs is not None
    assert face.map.wished.shape == pairs.warned.shape
    allowed = sum(float(trace.axis[-1]) for trace in face._seen()) / 600
    assert (face.map.wished == ((pairs.warned >= 0.9 * pairs.outcomes) & (pairs.false <= allowed))).all()
    assert face.map.wished.any()


def test_a_flag_that_rarely_turns_true_is_offered_to_be_warned_of(face: WarningFace) -> None:
    offered = [face.outcome.choice.itemText(at) for at in range(face.outcome.choice.count())]
    flag = next(name for name in offered if name.endswith(", a flag"))
    face.outcome.choice.setCurrentIndex(offered.index(flag))
    face.outcome.choice.activated.emit(offered.index(flag))
    QApplication.processEvents()
    rests(face)
    name = flag.removesuffix(", a flag")
    assert face.outcome.name == name
    assert face.editor.now.project.outcomes[-1].rule == name
    face.editor.do(undo)
    assert all(one.name != name for one in face.editor.now.project.outcomes)
