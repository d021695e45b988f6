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
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import row
from avrin.app.controls.scroller import scrolled
from avrin.app.controls.theme import EDGE
from avrin.app.ladder_desk.hud_part import hud_part
from avrin.app.ladder_desk.lesson_chart import LessonChart, lessons_summary
from avrin.app.ladder_desk.level_lane import LevelLane
from avrin.app.ladder_desk.outcome_rows import PICTURE, OutcomeRows
from avrin.app.ladder_desk.pair_map import PairMapView
from avrin.app.ladder_desk.warning_chart import WarningChart
from avrin.app.services.checking import Checking
from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started, TimeSlices
from avrin.app.services.traces import Traces
from avrin.binding.own_examples import own_example
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks
from avrin.editor.edits import edit, seal, set_rule
from avrin.editor.playback import go_to
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Snapshot
from avrin.edits.outcomes import outcome_added, outcome_called, outcome_removed
from avrin.errors import AvrinError
from avrin.project.numbers import counted
from avrin.project.project import Project
from avrin.render.values import clock
from avrin.storage.files import write
from avrin.trace.frames import Trace
from avrin.tuning.apply_limit import duration_text, is_share, limit_text, with_limit
from avrin.tuning.curves import Curves, Terms, curves, outcomes_at
from avrin.tuning.goals import Wish, fulfils, hard, nearest_limit
from avrin.tuning.lessons import Lesson, is_lesson, lessons
from avrin.tuning.pairs import SECOND_VALUES, PairMap, pair_map
from avrin.tuning.signals import RESTART, Question, Signal, asked, signals
from avrin.tuning.suggestions import rare_flags
from avrin.tuning.table import table
from avrin.tuning.values import levels, usual_values

__all__ = ["WarningFace"]

MOST_PICTURES = 60  # pictures next to outcomes, the worst ones
FIRST = "*"  # the first one in the project
WISHED = {"warned": "90", "false": "1"}  # default goal: percent of outcomes, and false alarms per ten minutes
ANEW, ANOTHER = "a restart", "another …"
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
        self.outcome = FIRST  # the outcome's name, or `restart`; "" for a new one
        self.terms = Terms()
        self._nearest = 0.0  # the limit nearest to the goal
        self._of_prompt = False  # the question is about a prompt, which has no limit
        self._found: _Found | None = None
        self.second = ""  # the second value, a key of `SECOND_VALUES`
        self._asked: tuple[float, Question] | None = None  # the selected limit, and its band
        self._left: dict[tuple[str, str], set[float]] = {}  # earlier limits of bands
        self._rare: dict[str, str] = {}  # rules of flags that could be outcomes, by name
        self._rare_of: object = None  # the recordings they were searched in
        self._bands: dict[str, tuple[str, str]] = {}
        self.wishes: dict[str, Field] = {}
        self._work = Jobs(self, editor, "tracks", "recordings", failed=self._show_failure)
        self._mapping = Jobs(self, editor, "tracks", "recordings")
        self._build()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(EDGE, 10, EDGE, 6)
        whole.setSpacing(6)
        self.bands = Choice("band", [""])
        self.bands.taken.connect(self._choose_band)
        self.outcomes = Choice("what it warns of", [ANOTHER])
        self.outcomes.taken.connect(self._choose_outcome)
        self.rule = Field("condition of the outcome", 230)
        self.rule.setPlaceholderText(own_example("hull <= 0", self.editor.now.project))
        self.rule.taken.connect(self._ruled)
        self.called = Field("name of the outcome", 90)
        self.called.taken.connect(self._name_outcome)
        self.remove = Link("remove it", self._removed)
        self.seconds = {
            name: Field(f"seconds {what}", 44) for name, what in (("lead", "ahead"), ("within", "without it"))
        }
        for name, field in self.seconds.items():
            field.taken.connect(partial(self._seconds_are, name))
        warns, terms = text_label("it warns of", size="small"), QWidget()
        where, begins = text_label("where should", size="small"), text_label("begin?", size="small")
        about = (warns, self.outcomes, self.called, self.rule, self.remove, None)
        whole.addLayout(row(where, self.bands, begins, *about))
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
            self.outcomes,
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

    def _wish(self, name: str, what: str) -> Field:
        field = Field(what, 40)
        field.show_text(WISHED[name])
        field.taken.connect(lambda _text: self._shade())
        self.wishes[name] = field
        return field

    def begin_anew(self) -> None:
        """Reset to the initial state."""
        self.band, self.outcome, self.terms, self._found = ("", ""), FIRST, Terms(), None
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
        names = [one.name for one in self.editor.now.project.outcomes]
        if self.outcome not in (*names, RESTART, ""):
            self.outcome = names[0] if names else ""
        self._look_for_flags()
        self.outcomes.offer([*names, *(f"{name}, a flag" for name in self._rare), ANEW, ANOTHER])
        self.outcomes.show_value(ANEW if self.outcome == RESTART else self.outcome or ANOTHER)
        self._fields()
        if self._of_prompt:
            self._ask_lessons()
            return
        if not bands or not self.outcome:
            self._show_nothing(NO_OUTCOME + own_example("hull <= 0", self.editor.now.project) if bands else NO_BAND)
            return
        self._ask()

    def _fields(self) -> None:
        project, own = self.editor.now.project, self.outcome not in ("", RESTART) and not self._of_prompt
        for part in self._about:
            part.setVisible(not self._of_prompt)
        self.rule.setVisible(self.outcome != RESTART and not self._of_prompt)
        self.rule.show_text(next((one.rule for one in project.outcomes if one.name == self.outcome), ""))
        self.rule.mark(RulePlace("outcome", self.outcome) in self.editor.now.bound.errors)
        self.called.setVisible(own)
        self.called.show_text(self.outcome if own else "")
        self.remove.setVisible(own)
        for name, field in self.seconds.items():
            field.show_text(f"{getattr(self.terms, name):g}")

    def _look_for_flags(self) -> None:
        """Find flags that could be outcomes, once per set of recordings."""
        project, traces = self.editor.now.project, self._seen()
        key = (project.variables, project.outcomes, tuple(map(id, traces)))
        if key != self._rare_of:
            self._rare, self._rare_of = rare_flags(project, traces), key

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
        traces, (ident, band), outcome, terms = self._seen(), self.band, self.outcome, self.terms
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
        if self.wish is not None:
            self._frame(result.maps[second], self.wish)
        if self.map.at is not None:
            self.map.ask_at(*self.map.at)

    def _pair(self, value: float, other: float) -> None:
        """Select a limit and a second value."""
        if self._found is not None:
            self._tell(value, SECOND_VALUES[self.second].apply(self._found.question, other))

    @property
    def wish(self) -> Wish | None:
        """Return the goal, or None if it is not two numbers."""
        try:
            warned, false = (
                float(self.wishes[name].text().replace(",", ".").removesuffix("%")) for name in ("warned", "false")
            )
        except ValueError:
            return None
        return Wish(warned, false)

    def _shade(self) -> None:
        """Shade limits that meet the goal; if there are none, name the nearest one and the reason."""
        found, wish = self._found, self.wish
        if found is None:
            return
        if wish is None:
            self.editor.say("A goal is two numbers, such as 90 and 1", error=True)
            return
        of_each = [
            (found.traces[number].name, fulfils(one.warned, one.false, one.outcomes, wish, self._minutes(number)))
            for number, one in found.each.items() if len(found.each) > 1
        ]  # fmt: skip
        told = found.curves
        good = fulfils(told.warned, told.false, told.outcomes, wish, self._minutes())
        self.chart.show_wish(good, of_each)
        self._answer(good, wish)
        if self.second in found.maps:
            self._frame(found.maps[self.second], wish)

    def _frame(self, pairs: PairMap, wish: Wish) -> None:
        """Frame the pairs of the map that meet the goal."""
        self.map.show_wish(fulfils(pairs.warned, pairs.false, pairs.outcomes, wish, self._minutes()))

    def _answer(self, good: NDArray[np.bool_], wish: Wish) -> None:
        """Name the nearest limit if none meets the goal, and why none can."""
        found = self._found
        assert found is not None
        told = found.curves
        outcomes = int(told.outcomes[0]) if len(told.outcomes) else 0
        self.answered.setVisible(bool(outcomes) and not good.any())
        if not self.answered.isVisibleTo(self):
            return
        at = nearest_limit(told, wish, self._minutes())
        value = float(told.value[at])
        said = limit_text(value, share=self.chart.share)
        self._nearest = value
        self.nearest.set_text(f"select {said}")
        self.answer.setText(
            f"No limit meets the goal; the nearest is {said}: {int(told.warned[at])} of {outcomes}, {int(told.false[at])} false."
            + self._why(value)
        )

    def _why(self, value: float) -> str:
        """Return why a limit misses outcomes, in a sentence; "" for several reasons."""
        found = self._found
        assert found is not None
        question = found.question
        why = hard(found.signals, question, value, outcomes_at(found.signals, question, value), self.terms)
        if why is None:
            return ""
        each = "the one it misses" if why.count == 1 else f"each of the {why.count} it misses"
        side = "above" if question.below else "below"
        level = limit_text(why.level, share=self.chart.share)
        if why.at_once:
            return f"  {each.capitalize()} comes in a single step from {side} {level}."
        return f"  {self.terms.lead:g} s ahead of {each} it was still {side} {level}."

    def _ask_nearest(self) -> None:
        self.show_chart("")
        self.chart.ask_at(self._nearest)

    def _minutes(self, recording: int | None = None) -> float:
        """Return the duration of the recordings, or of one of them."""
        assert self._found is not None
        whole: dict[int, float] = {
            one.recording: float(one.t[-1] - one.t[0])
            for one in self._found.signals
            if len(one.t) and recording in (None, one.recording)
        }
        return sum(whole.values()) / 60

    def _at(self, value: float) -> None:
        """Describe one limit, in a sentence and by its outcomes."""
        if self._found is not None:
            self._tell(value, self._found.question)

    def _tell(self, value: float, question: Question) -> None:
        """Describe a question's band at a limit."""
        found = self._found
        assert found is not None
        self._asked = (value, question)
        told = curves(found.signals, question, np.array([value]), self.terms)
        outcomes, warned, late, missed = (
            int(getattr(told, name)[0]) for name in ("outcomes", "warned", "late", "missed")
        )
        said = limit_text(value, share=self.chart.share)
        written = found.question
        otherwise = (question.gap, question.sticky) != (written.gap, written.sticky)
        if otherwise:
            back = value + question.gap if question.gap is not None else value
            said += f", back at {limit_text(back, share=self.chart.share)}" if question.sticky else ", back at once"
        if question.held != written.held:
            otherwise, said = (
                True,
                said + (f", held for {duration_text(question.held)}" if question.held else ", at once"),
            )
        more = "".join(f", {count} {what}" for count, what in ((late, "late"), (missed, "not at all")) if count)
        again = int(told.again[0])
        self.sentence.setText(
            f"At {said} {warned} of {outcomes} are warned {self.terms.lead:g} s ahead{more}; "
            f"{counted(int(told.false[0]), 'false alarm')} in {self._minutes():.0f} minutes; "
            f"it is on for {float(told.share_on[0]):.0%} of all play"
            + (f"; {counted(again, 'time')} it repeats at once." if again else ".")
        )
        as_it_is = value == found.question.limit and not otherwise
        self.take.setVisible(found.question.limit is not None and not as_it_is)
        self.take.set_text(f"take {said}")
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

    def _choose_outcome(self, choice: object) -> None:
        flag = str(choice).removesuffix(", a flag")
        if str(choice) not in {one.name for one in self.editor.now.project.outcomes} and flag in self._rare:
            project, self.outcome = outcome_added(self.editor.now.project, self._rare[flag], flag.replace(".", "_"))
            self.editor.do(seal)
            self.editor.do(edit, project, f"outcome {self.outcome}")
        else:
            self.outcome = {ANEW: RESTART, ANOTHER: ""}.get(str(choice), str(choice))
        self.begin()
        if not self.outcome:
            self.rule.setFocus()

    def _ruled(self, text: str) -> None:
        """Set the rule of the selected outcome, or of a new one."""
        editor = self.editor
        editor.do(seal)
        if self.outcome:
            editor.do(set_rule, RulePlace("outcome", self.outcome), text.strip())
        elif text.strip():
            project, self.outcome = outcome_added(editor.now.project, text.strip())
            editor.do(edit, project, f"outcome {self.outcome}")
        error = editor.now.bound.errors.get(RulePlace("outcome", self.outcome))
        if error is not None:
            editor.say(str(error), error=True)
        self.begin()

    def _name_outcome(self, text: str) -> None:
        editor, before = self.editor, self.outcome
        try:
            project: Project = outcome_called(editor.now.project, before, text)
        except AvrinError as error:
            self.called.mark(True)
            editor.say(str(error), error=True)
            return
        self.outcome = text.strip()
        editor.do(seal)
        editor.do(edit, project, f"name of outcome {before}")
        self.begin()

    def _removed(self) -> None:
        editor, gone = self.editor, self.outcome
        self.outcome = FIRST
        editor.do(seal)
        editor.do(edit, outcome_removed(editor.now.project, gone), f"removal of outcome {gone}")
        self.begin()

    def _seconds_are(self, name: str, text: str) -> None:
        try:
            number = float(text.replace(",", ".").removesuffix("s"))
            if not 0 <= number < 1e6:
                raise ValueError
        except ValueError:
            self.seconds[name].mark(True)
            self.editor.say(f"'{text}' is not a number of seconds", error=True)
            return
        self.terms = Terms(**{**{one: getattr(self.terms, one) for one in ("lead", "within", "again")}, name: number})
        self.begin()
