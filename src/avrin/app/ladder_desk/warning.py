"""Tune a warning: its curves over all recordings, the result in a sentence, and every outcome, worst first."""

from __future__ import annotations

from collections.abc import Callable, Generator
from functools import partial
from pathlib import Path

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.popup import row
from avrin.app.controls.scroller import scrolled
from avrin.app.controls.theme import EDGE
from avrin.app.ladder_desk.hud_part import hud_part
from avrin.app.ladder_desk.lesson_chart import LessonChart, lessons_summary
from avrin.app.ladder_desk.level_lane import LevelLane
from avrin.app.ladder_desk.outcome_edit import OutcomeEdit
from avrin.app.ladder_desk.outcome_rows import PICTURE, OutcomeRows
from avrin.app.ladder_desk.pair_map import PairMapView
from avrin.app.ladder_desk.warning_chart import WarningChart
from avrin.app.services.checking import Checking
from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started, TimeSlices
from avrin.app.services.traces import Traces
from avrin.binding.own_examples import own_example
from avrin.binding.tracks import Tracks
from avrin.editor.edits import edit, seal
from avrin.editor.playback import go_to
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Snapshot
from avrin.edits.typed import NumberInput
from avrin.errors import AvrinError
from avrin.render.values import clock
from avrin.storage.files import write
from avrin.trace.frames import Trace
from avrin.tuning.apply_limit import is_share, limit_text, with_limit
from avrin.tuning.curves import Curves, Terms, curves, outcomes_at
from avrin.tuning.goals import Wish, fulfils, nearest_limit
from avrin.tuning.lessons import Lesson, is_lesson, lessons
from avrin.tuning.pairs import SECOND_VALUES, PairMap, pair_map
from avrin.tuning.sentences import band_label, band_sentence, minutes_of, nearest_sentence
from avrin.tuning.signals import Question, Signal, asked, signals
from avrin.tuning.table import table
from avrin.tuning.values import levels, usual_values

__all__ = ["WarningFace"]

SECONDS = NumberInput("a number of seconds", "1.5", unit="s", low=0, high=999_999)
GOAL = NumberInput("a number", "90", unit="%", low=0)
MOST_PICTURES = 60  # pictures next to outcomes, the worst ones
WISHED = {"warned": "90", "false": "1"}  # default goal: percent of outcomes, and false alarms per ten minutes
VIEWS = {"": "its limit", "back": "and hysteresis", "held": "and minimum duration"}  # with a second value
NO_BAND = "No band has a limit yet. Give one a limit on the Bind desk (Ctrl+1)."
NO_OUTCOME = "Enter what it warns of: a condition such as  "


class _Found(Struct, frozen=True):
    """The result for a question."""

    question: Question
    signals: list[Signal]
    curves: Curves
    traces: list[Trace]
    each: dict[int, Curves]  # of each recording with an outcome, by index
    maps: dict[str, PairMap]  # by second value, if computed


class WarningFace(QWidget):
    """seen: returns the recordings to search."""

    def __init__(self, editor: Editor, checking: Checking, traces: Traces, searched: Callable[[], list[Trace]]) -> None:
        super().__init__()
        self.editor, self._seen = editor, searched
        self._checking, self._traces = checking, traces
        self.band = ("", "")  # a widget's id, and its band
        self.terms = Terms()
        self._nearest = 0.0  # the limit nearest to the goal
        self._of_prompt = False  # the question is about a prompt, which has no limit
        self._found: _Found | None = None
        self.second = ""  # the second value, a key of `SECOND_VALUES`
        self._asked: tuple[float, Question] | None = None  # the selected limit, and its band
        self._left: dict[tuple[str, str], set[float]] = {}  # earlier limits of bands
        self._bands: dict[str, tuple[str, str]] = {}
        self.wishes: dict[str, NumberField] = {}
        self._work = Jobs(self, editor, "tracks", "recordings", failed=self._show_failure)
        self._mapping = Jobs(self, editor, "tracks", "recordings")
        self._build()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(EDGE, 10, EDGE, 6)
        whole.setSpacing(6)
        self.bands = Choice("band", [""])
        self.bands.taken.connect(self._choose_band)
        self.outcome = OutcomeEdit(self.editor)
        self.outcome.chosen.connect(self.begin)
        self.seconds = {
            name: NumberField(f"seconds {what}", 44, SECONDS, self.editor.show_error)
            for name, what in (("lead", "ahead"), ("within", "without it"))
        }
        for name, field in self.seconds.items():
            field.entered.connect(partial(self._seconds_are, name))
        warns, terms = text_label("it warns of", size="small"), QWidget()
        where, begins = text_label("where should", size="small"), text_label("begin?", size="small")
        whole.addLayout(row(where, self.bands, begins, warns, self.outcome, None))
        terms.setLayout(
            row("in time is", self.seconds["lead"], "s ahead,   false is", self.seconds["within"], "s without,   goal:",
                self._wish("warned", "percent warned"), "% warned and at most",
                self._wish("false", "false alarms in ten minutes"), "false in 10 minutes", None)
        )  # fmt: skip
        whole.addWidget(terms)
        self.sentence = text_label("", "ink", "large")
        self.take = Link("", self.take_over, bold=True)
        said = QHBoxLayout()
        said.addWidget(self.sentence)
        said.addWidget(self.take)
        said.addStretch(1)
        self.views = {second: Link(name, partial(self.show_chart, second)) for second, name in VIEWS.items()}
        for link in self.views.values():
            said.addWidget(link)
        whole.addLayout(said)
        self.answer = text_label("", size="small")
        self.nearest = Link("", self._ask_nearest, bold=True)
        answered = QWidget()
        answered.setLayout(row(self.answer, self.nearest, None))
        self.answered = answered
        whole.addWidget(answered)
        whole.addLayout(self._charts(), 1)
        self._about = (
            where,
            begins,
            warns,
            self.outcome,
            terms,
            self._beside,
            self.answered,
            *self.views.values(),
        )  # for bands only
        self.way = LevelLane()
        whole.addWidget(self.way)
        self._painting = TimeSlices(self, self.editor, "tracks", "recordings")

    def _charts(self) -> QHBoxLayout:
        """Lay out the charts and the list of outcomes."""
        self.chart = WarningChart()
        self.chart.moved.connect(self._at)
        self.map = PairMapView()
        self.map.moved.connect(self._pair)
        self.charts = QStackedWidget()
        self.charts.addWidget(self.chart)
        self.charts.addWidget(self.map)
        self.lessons = LessonChart()
        self.lessons.pressed.connect(self._go_to_lesson)
        self.charts.addWidget(scrolled(self.lessons))
        self.rows = OutcomeRows()
        self.rows.pressed.connect(self._go)
        under = QHBoxLayout()
        under.addWidget(self.charts, 1)
        self._beside = scrolled(self.rows)
        self._beside.setFixedWidth(340)
        under.addWidget(self._beside)
        return under

    def _wish(self, name: str, what: str) -> NumberField:
        field = NumberField(what, 40, GOAL, self.editor.show_error)
        field.show_text(WISHED[name])
        field.entered.connect(lambda _number: self._shade())
        self.wishes[name] = field
        return field

    def begin_anew(self) -> None:
        """Reset to the initial state."""
        self.outcome.reset()
        self.band, self.terms, self._found = ("", ""), Terms(), None
        self.second = ""
        for name, unsaid in WISHED.items():
            self.wishes[name].show_text(unsaid)

    def ask_about(self, ident: str, band: str) -> None:
        """Select a widget's band."""
        self.band = (ident, band)
        self.begin()

    def ask_at(self, value: float) -> None:
        """Select a limit."""
        self.chart.ask_at(value)

    # -- the question -----------------------------------------------------------------------------------------------

    def begin(self) -> None:
        """Start the computation in the background."""
        bound = self.editor.now.tracks.bound
        bands = {
            f"{bound.widgets[ident].widget.title}: {band.name}": (ident, band.name)
            for ident in bound.widgets if bound.widgets[ident].level is not None
            for band in bound.widgets[ident].widget.bands if not band.when
        }  # fmt: skip
        prompts = {
            f"{one.widget.title}: when it is needed": (ident, "")
            for ident, one in bound.widgets.items() if is_lesson(one)
        }  # fmt: skip
        bands |= prompts
        self._bands = bands
        self._of_prompt = self.band in prompts.values()
        if self.band not in bands.values():
            self.band = next(iter(bands.values()), ("", ""))
            self._of_prompt = self.band in prompts.values()
        self.bands.offer(list(bands) or [""])
        self.bands.show_value(next((said for said, band in bands.items() if band == self.band), ""))
        self.outcome.show_outcomes(self._seen())
        for part in self._about:
            part.setVisible(not self._of_prompt)
        for name, field in self.seconds.items():
            field.show_text(f"{getattr(self.terms, name):g}")
        if self._of_prompt:
            self._ask_lessons()
            return
        if not bands or not self.outcome.name:
            self._show_nothing(NO_OUTCOME + own_example("hull <= 0", self.editor.now.project) if bands else NO_BAND)
            return
        self._ask()

    def _ask_lessons(self) -> None:
        """Compute the lessons of a prompt."""
        traces, (ident, _), bound = self._seen(), self.band, self.editor.now.tracks.bound

        def work(_started: Started) -> tuple[list[Lesson], list[Trace]] | str:
            try:
                every = [Tracks(bound, trace, only=[bound.widgets[ident]]) for trace in traces]
                return lessons(every, ident), traces
            except AvrinError as error:
                return str(error)

        self._work.submit(work, lambda result, _: self._show_lessons(result))

    def _show_lessons(self, result: tuple[list[Lesson], list[Trace]] | str) -> None:
        if isinstance(result, str):
            self._show_nothing(result)
            return
        told, traces = result
        self._found = self._asked = None
        self.take.hide()
        self.way.show_outcome(None, share=False)
        self.lessons.show_lessons(told, traces)
        self.charts.setCurrentIndex(2)
        self.sentence.setText(lessons_summary(told))

    def _go_to_lesson(self, number: int) -> None:
        """Go to where a prompt was shown, or needed but not shown."""
        one, editor = self.lessons.lessons[number], self.editor
        editor.do(select_widget, self.band[0])
        if self._traces.look_at(self._seen()[one.recording].name):
            editor.do(go_to, one.shown if one.shown is not None else one.needed or 0)
            editor.say(
                f"{self.lessons.describe(one)}: {clock(editor.now.seconds)} of {editor.now.trace.name}.  Ctrl+1 shows it"
            )

    def _ask(self) -> None:
        traces, (ident, band), outcome, terms = self._seen(), self.band, self.outcome.name, self.terms
        bound, left = self.editor.now.tracks.bound, frozenset(self._left.get(self.band, ()))

        def work(_started: Started) -> _Found | str:
            try:
                every = [Tracks(bound, trace, only=[bound.widgets[ident]]) for trace in traces]
                question = asked(bound, ident, band, outcome)
                found = signals(every, question)
                values = usual_values(levels(found), question, left)
                told = curves(found, question, values, terms)
            except AvrinError as error:
                return str(error)
            parts = {one.recording: [other for other in found if other.recording == one.recording] for one in found}
            each = {
                number: curves(part, question, values, terms) for number, part in parts.items()
                if any(len(one.outcomes) for one in part)
            }  # fmt: skip
            return _Found(question, found, told, traces, each, {})

        self._work.submit(work, lambda found, _: self._show(found))

    @property
    def busy(self) -> bool:
        """Whether it is being computed."""
        return self._work.busy or self._mapping.busy or self._painting.busy

    def wait(self) -> None:
        """Finish all computations, for tests and pictures."""
        self._work.wait()
        self._mapping.wait()
        self._painting.wait()

    # -- the result -------------------------------------------------------------------------------------------------

    def _show_failure(self, error: AvrinError) -> None:
        self._show_nothing(f"This could not be computed: {error}. The next edit tries again.")

    def _show_nothing(self, why: str) -> None:
        self._found = None
        self.answered.hide()
        self.sentence.setText(why)
        self.take.hide()
        self.chart.show_curves(None, None, share=False)
        self.rows.show_outcomes((), (), self.terms.lead)
        self.way.show_outcome(None, share=False)

    def _show(self, result: _Found | str) -> None:
        if isinstance(result, str):
            self._show_nothing(result)
            return
        before, self._found = self._found, result
        question = result.question
        share = is_share(question)
        kept = before is not None and (before.question.widget.widget.id, before.question.band.name) == self.band
        at = (
            self.chart.at if kept and before is not None and before.question.limit == question.limit else question.limit
        )
        self.chart.at = at if at is not None else float(result.curves.value[len(result.curves.value) // 2])
        self.chart.show_curves(result.curves, question.limit, share=share)
        self._shade()
        self._at(self.chart.at)
        self.show_chart(self.second if question.limit is not None else "")

    def show_chart(self, second: str) -> None:
        """Show the curves of the limit, or the map with a second value, computed on first use."""
        self.second, found = second, self._found
        self.charts.setCurrentIndex(1 if second else 0)
        for name, link in self.views.items():
            link.set_chosen(name == second)
            link.setVisible(not name or (found is not None and found.question.limit is not None))
        if found is None or self.chart.at is None:
            return
        if not second:
            self._at(self.chart.at)
            return
        if second in found.maps:
            self._show_map(found, second)
            return
        self.map.show_map(None, second, None, share=is_share(found.question))
        question, terms = found.question, self.terms

        def work(_started: Started) -> PairMap:
            others = SECOND_VALUES[second].usual(found.signals, question)
            return pair_map(found.signals, question, found.curves.value, second, others, terms)

        def done(pairs: PairMap, _now: Snapshot) -> None:
            found.maps[second] = pairs
            if (self._found, self.second) == (found, second):
                self._show_map(found, second)

        self._mapping.submit(work, done)

    def _show_map(self, result: _Found, second: str) -> None:
        question = result.question
        assert question.limit is not None
        now = (question.limit, SECOND_VALUES[second].now(question))
        self.map.show_map(result.maps[second], second, now, share=is_share(question))
        if (wish := self._read_wish()) is not None:
            self._frame(result.maps[second], wish)
        if self.map.at is not None:
            self.map.ask_at(*self.map.at)

    def _pair(self, value: float, other: float) -> None:
        """Select a limit and a second value."""
        if self._found is not None:
            self._tell(value, SECOND_VALUES[self.second].apply(self._found.question, other))

    def _read_wish(self) -> Wish | None:
        """Return the goal, or None after reporting that it is not two numbers."""
        warned, false = (self.wishes[name].read() for name in ("warned", "false"))
        return Wish(warned, false) if warned is not None and false is not None else None

    def _shade(self) -> None:
        """Shade limits that meet the goal; if there are none, name the nearest one and the reason."""
        found, wish = self._found, self._read_wish()
        if found is None or wish is None:
            return
        of_each = [
            (found.traces[number].name, fulfils(one.warned, one.false, one.outcomes, wish, minutes_of(found.signals, number)))
            for number, one in found.each.items() if len(found.each) > 1
        ]  # fmt: skip
        told = found.curves
        good = fulfils(told.warned, told.false, told.outcomes, wish, minutes_of(found.signals))
        self.chart.show_wish(good, of_each)
        self._answer(good, wish)
        if self.second in found.maps:
            self._frame(found.maps[self.second], wish)

    def _frame(self, pairs: PairMap, wish: Wish) -> None:
        """Frame the pairs of the map that meet the goal."""
        assert self._found is not None
        minutes = minutes_of(self._found.signals)
        self.map.show_wish(fulfils(pairs.warned, pairs.false, pairs.outcomes, wish, minutes))

    def _answer(self, good: NDArray[np.bool_], wish: Wish) -> None:
        """Name the nearest limit if none meets the goal, and why none can."""
        found = self._found
        assert found is not None
        outcomes = len(found.curves.outcomes) and int(found.curves.outcomes[0])
        self.answered.setVisible(bool(outcomes) and not good.any())
        if not self.answered.isVisibleTo(self):
            return
        at, share = nearest_limit(found.curves, wish, minutes_of(found.signals)), self.chart.share
        self._nearest = float(found.curves.value[at])
        self.nearest.set_text(f"select {limit_text(self._nearest, share=share)}")
        self.answer.setText(nearest_sentence(found.curves, at, found.signals, found.question, self.terms, share=share))

    def _ask_nearest(self) -> None:
        self.show_chart("")
        self.chart.ask_at(self._nearest)

    def _at(self, value: float) -> None:
        """Describe one limit, in a sentence and by its outcomes."""
        if self._found is not None:
            self._tell(value, self._found.question)

    def _tell(self, value: float, question: Question) -> None:
        """Describe a question's band at a limit."""
        found = self._found
        assert found is not None
        self._asked = (value, question)
        label = band_label(value, question, found.question, share=self.chart.share)
        self.sentence.setText(band_sentence(label, found.signals, question, value, self.terms))
        is_written = label == limit_text(value, share=self.chart.share) and value == found.question.limit
        self.take.setVisible(found.question.limit is not None and not is_written)
        self.take.set_text(f"take {label}")
        each = outcomes_at(found.signals, question, value)
        names = [
            f"{found.traces[one.recording].name}{f', slot {one.slot}' if len(found.question.copies) > 1 else ''} at "
            f"{clock(float(found.traces[one.recording].axis[one.frame]))}" for one in each
        ]  # fmt: skip
        self.rows.show_outcomes(each, names, self.terms.lead)
        self._painting.submit(self._pictures, lambda _, __: None)
        self._show_way(0)

    def save(self, path: Path) -> None:
        """Save the curves as a table, or the view as a picture. Raises AvrinError."""
        if self._found is None:
            raise AvrinError("there are no curves yet", advice="Choose what the band warns of")
        if path.suffix == ".csv":
            write(path, table(self._found.curves).encode())
        elif not self.grab().save(str(path)):
            raise AvrinError("cannot be written", place=(str(path),), advice="Choose another folder")

    def _show_way(self, number: int) -> None:
        """Show the course before an outcome, below the curves."""
        found, self.rows.chosen = self._found, number
        self.rows.update()
        if found is None or self._asked is None or number >= len(self.rows.outcomes):
            self.way.show_outcome(None, share=False)
            return
        one, (value, question) = self.rows.outcomes[number], self._asked
        signal = next(s for s in found.signals if (s.recording, s.slot) == (one.recording, one.slot))
        self.way.show_outcome((one, signal, question, value, found.traces[one.recording]), share=self.chart.share)

    def _pictures(self, _now: Snapshot) -> Generator[None, None, None]:
        """Draw the widget with its surroundings at the start of each warning, or at the missed outcome."""
        found, outcomes = self._found, self.rows.outcomes
        for number, one in enumerate(outcomes[:MOST_PICTURES] if found is not None else ()):
            assert found is not None
            tracks = self._checking.tracks_of(found.traces[one.recording].name)
            if tracks is not None and self.band[0] in tracks.bound.widgets:
                frame = min(one.frame if one.begins is None else one.begins, len(tracks.trace) - 1)
                self.rows.pictures[number] = hud_part(
                    tracks, frame, self.editor.now.view.screen, self.band[0], PICTURE, self.devicePixelRatioF()
                )
                self.rows.update()
            yield

    # -- input ------------------------------------------------------------------------------------------------------

    def _go(self, number: int) -> None:
        """Go to the start of an outcome's warning, or to a missed outcome."""
        found, editor = self._found, self.editor
        if found is None:
            return
        one = self.rows.outcomes[number]
        self._show_way(number)
        editor.do(select_widget, self.band[0])
        if not self._traces.look_at(found.traces[one.recording].name):
            return
        editor.do(go_to, one.frame if one.begins is None else one.begins)
        editor.say(
            f"{self.rows.describe(one)}: {clock(editor.now.seconds)} of {editor.now.trace.name}.  Ctrl+1 shows it"
        )

    def take_over(self) -> None:
        """Apply the selected limit to the band; its `back` moves along. One undo step."""
        if self._found is None or self._asked is None:
            return
        value, question = self._asked
        ident, name = self.band
        self.editor.do(seal)
        said = limit_text(value, share=self.chart.share)
        if self._found.question.limit is not None:
            self._left.setdefault(self.band, set()).add(self._found.question.limit)
        self.editor.do(
            edit, with_limit(self.editor.now.project, question, value), f"{name} of {ident} begins at {said}"
        )

    def _choose_band(self, choice: object) -> None:
        self.band = self._bands.get(str(choice), self.band)
        self.begin()

    def _seconds_are(self, name: str, number: float) -> None:
        self.terms = Terms(**{**{one: getattr(self.terms, one) for one in ("lead", "within", "again")}, name: number})
        self.begin()
