"""Jobs carry the snapshot they were started with, and are dropped only where a part they read was replaced."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from avrin.app.ladder_desk import desk as ladder_module
from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.main import application
from avrin.app.services import checking, extents, traces
from avrin.app.services.jobs import CancelledError, Jobs, Started, TimeSlices
from avrin.app.services.workspace import Workspace
from avrin.app.window.window import Window
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks
from avrin.editor import evaluation as evaluating
from avrin.editor.by_hand import advance_drive, pin, start_drive, stop_drive
from avrin.editor.changes import PARTS, StatePart
from avrin.editor.edits import set_rule
from avrin.editor.playback import go_to_seconds, set_playing
from avrin.editor.recordings import opened
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Snapshot
from avrin.editor.viewing import show_over
from avrin.errors import AvrinError
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.findings.suppression import suppressed
from avrin.ladder.generated_trace import made_for
from avrin.render.extent import extent
from avrin.storage.files import load, save
from window_fixtures import qapp, window  # noqa: F401

VALUE = RulePlace("widget", "hull_bar", "inputs", "value")


@pytest.fixture(scope="session")
def demo(brief: Path) -> Path:
    return brief


def other_project(of: Workspace) -> Path:
    """Another project in a folder of its own, with recordings of the same names and other contents."""
    now = of.editor.now
    assert now.path is not None
    folder = now.folder.parent / "other"
    if not folder.exists():
        shutil.copytree(now.folder, folder)
        (folder / "traces/leaky-dive.csv").write_text("t,hull,hull_max\n0,50,100\n1,40,100\n2,30,100\n")
        project, _ = load(folder / now.path.name)
        save(replace(project, title="Other"), folder / now.path.name)
    return folder / now.path.name


ACTS: dict[str, tuple[Callable[[Workspace], object], set[StatePart]]] = {
    "a choice": (lambda s: s.editor.do(select_widget, "depth"), {"selection"}),
    "another time": (lambda s: s.editor.do(go_to_seconds, 50), {"playhead"}),
    "another plate": (lambda s: s.editor.do(show_over, None), {"view"}),
    "an edit": (lambda s: s.editor.do(set_rule, VALUE, "hull / 2"), {"project", "history", "tracks"}),
    "a value held": (lambda s: s.editor.do(pin, "hull", 9.0), {"pins", "trace", "tracks"}),
    "another recording": (lambda s: s.traces.show("traces/calm-dive.csv"), {"recording", "trace", "tracks", "view"}),
    "saved where it was": (lambda s: s.files.save(), {"history"}),
    "another name": (lambda s: s.files.save(s.editor.now.folder / "copy.avrin"), {"file", "history"}),
    "another project": (lambda s: s.files.open(other_project(s)), {*PARTS} - {"access", "grown", "message", "waiting"}),
}


@pytest.mark.parametrize("act", ACTS)
def test_a_job_is_dropped_exactly_where_a_part_it_reads_was_replaced(window: Window, act: str) -> None:
    workspace, of = window.workspace, window.editor
    heard: list[StatePart] = []
    waiting = threading.Event()
    jobs = {part: Jobs(window, of, part) for part in PARTS}
    turns = {part: TimeSlices(window, of, part) for part in PARTS}

    def slow(_started: Started) -> None:
        waiting.wait(10)

    def steps(_now: Snapshot) -> Iterator[None]:
        while True:
            yield

    for part in PARTS:
        jobs[part].submit(slow, lambda _, __, part=part: heard.append(part))  # type: ignore[misc]
        turns[part].submit(steps, lambda _, __: None)  # type: ignore[arg-type]
    do, replaced = ACTS[act]
    do(workspace)
    assert {part for part in PARTS if not jobs[part].busy} == replaced
    assert {part for part in PARTS if not turns[part].busy} == replaced
    waiting.set()
    for part in PARTS:
        jobs[part].wait()
        turns[part].cancel()
    assert {*heard} == {*PARTS} - replaced


def test_a_recording_that_grew_drops_no_job_and_its_result_says_up_to_where_it_holds(window: Window) -> None:
    of = window.editor
    of.do(start_drive)
    of.do(set_playing, False)
    before, waiting = of.now, threading.Event()
    jobs = Jobs(window, of, "trace", "tracks")
    holds: list[int] = []

    def work(started: Started) -> int:
        waiting.wait(10)
        started.breathe()
        return len(started.snapshot.tracks.trace)

    jobs.submit(work, lambda frames, now: holds.extend((frames, len(now.trace))))
    of.do(advance_drive, 0.51)
    assert len(of.now.trace) == len(before.trace) + 30
    waiting.set()
    jobs.wait()
    assert holds == [len(before.trace)] * 2  # the job's snapshot did not change, though the drive continued
    checks = window.workspace.checking
    checks.wait()
    end = of.now.seconds
    of.do(advance_drive, 0.51)
    assert checks.until == end < of.now.seconds
    of.do(stop_drive)
    assert checks.until is None


def test_a_job_waits_while_somebody_plays_and_ends_once_nobody_waits(window: Window) -> None:
    of = window.editor
    reached, ended = threading.Event(), threading.Event()

    def work(started: Started) -> None:
        try:
            while True:
                started.breathe()
                reached.set()
        except CancelledError:
            ended.set()
            raise

    jobs = Jobs(window, of, "project")
    of.do(set_playing, True)
    jobs.submit(work, lambda _, __: None)
    assert not reached.wait(0.2)
    of.do(set_playing, False)
    assert reached.wait(5)
    assert not ended.is_set()
    jobs.cancel()
    assert ended.wait(5)
    jobs.wait()


def test_a_thread_emits_nothing_once_the_session_was_closed(window: Window) -> None:
    """Its objects may be deleted at that very moment."""
    of = window.editor
    jobs, began, go_on, ended = Jobs(window, of, "file"), threading.Event(), threading.Event(), threading.Event()
    emitted: list[str] = []

    def work(started: Started) -> None:
        started.emit(lambda: emitted.append("before"))
        began.set()
        go_on.wait(60)
        started.emit(lambda: emitted.append("after"))
        ended.set()

    jobs.submit(work, lambda _, __: None)
    assert began.wait(60)
    of.closing.emit()
    go_on.set()
    assert ended.wait(60)
    assert emitted == ["before"]


def test_closing_waits_until_a_signal_is_emitted(window: Window) -> None:
    of = window.editor
    jobs, emitting, go_on = Jobs(window, of, "file"), threading.Event(), threading.Event()
    order: list[str] = []

    def emission() -> None:
        emitting.set()
        go_on.wait(60)
        order.append("emitted")

    jobs.submit(lambda started: started.emit(emission), lambda _, __: None)
    assert emitting.wait(60)
    threading.Timer(0.05, go_on.set).start()
    of.closing.emit()
    order.append("closed")
    assert order == ["emitted", "closed"]


def test_what_goes_wrong_in_a_job_is_reported_in_one_line(window: Window, caplog: pytest.LogCaptureFixture) -> None:
    jobs = Jobs(window, window.editor, "file")

    def wrong(_: Started) -> None:
        raise AvrinError("the disk is full", advice="Make room")

    jobs.submit(wrong, lambda _, __: None)
    jobs.wait()
    assert window.message.text() == "the disk is full. Make room"

    def broken(_: Started) -> float:
        return 1 / 0

    jobs.submit(broken, lambda _, __: None)
    jobs.wait()
    assert window.message.text().startswith("an internal error (ZeroDivisionError: division by zero). Details: ")
    assert "ZeroDivisionError" in caplog.text


# -- each sort of job, slowed, while something else happens -------------------------------------------------------------


class Gate:
    """Holds a job where it begins, until it is let through. began: how many have come to it."""

    def __init__(self) -> None:
        self.let = threading.Event()
        self.began = threading.Semaphore(0)

    def before(self, work: Callable[..., object]) -> Callable[..., object]:
        def gated(*args: object, **more: object) -> object:
            if threading.current_thread() is not threading.main_thread():
                self.began.release()
                self.let.wait(20)
            return work(*args, **more)

        return gated


def evaluation(of: Workspace, _window: Window) -> None:
    of.editor.do(set_rule, VALUE, "hull * 0.25")


def reading(of: Workspace, _window: Window) -> None:
    of.traces.show("traces/rich-haul.csv")


def making(of: Workspace, _window: Window) -> None:
    of.traces.make()


def extent_of(of: Workspace, _window: Window) -> None:
    of.extents._ask()


def checks(of: Workspace, _window: Window) -> None:
    of.checking._ask()


def covering(_of: Workspace, window: Window) -> None:
    window.show_desk("Ladder")
    desk = window.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    desk._cover()


# The sorts of job there are: what begins one, and what it does on the other thread, as (module, name).
SORTS: dict[str, tuple[Callable[[Workspace, Window], None], object, str]] = {
    "evaluation": (evaluation, evaluating, "Tracks"),
    "reading": (reading, traces, "open_listed"),
    "making": (making, None, ""),
    "extent": (extent_of, extents, "extent"),
    "checks": (checks, checking, "opened"),
    "covering": (covering, ladder_module, "coverage"),
}
MEANWHILE = {
    name: do for name, (do, _) in ACTS.items() if name.startswith(("an edit", "another recording", "another project"))
}


@pytest.mark.parametrize("meanwhile", [*MEANWHILE, "closing"])
@pytest.mark.parametrize("sort", SORTS)
def test_nothing_of_an_overtaken_job_is_seen(
    window: Window, monkeypatch: pytest.MonkeyPatch, sort: str, meanwhile: str
) -> None:
    of, gate = window.workspace, Gate()
    other_project(of)
    begin, module, name = SORTS[sort]
    monkeypatch.setattr(evaluating, "AT_ONCE", 0)
    if sort == "reading":
        monkeypatch.setattr(traces, "READ_AT_ONCE", 0)
    if module is None:
        monkeypatch.setattr("avrin.ladder.generated_trace.made_for", gate.before(made_for))
    else:
        monkeypatch.setattr(module, name, gate.before(getattr(module, name)))
    begin(of, window)
    assert gate.began.acquire(timeout=60)
    monkeypatch.setattr(traces, "READ_AT_ONCE", 10**9)
    if meanwhile == "closing":
        window.close()
        before = of.editor.now
        gate.let.set()
        of.wait()
        application().processEvents()
        assert of.editor.now is before
        return
    MEANWHILE[meanwhile](of)
    gate.let.set()
    of.wait()
    application().processEvents()
    consistent(of)
    if sort == "checks":
        checked_afresh(of)


def consistent(of: Workspace) -> None:
    """Everything that is shown is of the project and the recording that are shown."""
    now = of.editor.now
    assert now.bound.project is now.project
    assert now.tracks.bound is now.bound
    assert now.tracks.trace is now.trace
    fresh, bar = Tracks(now.bound, now.trace), now.bound.widgets["hull_bar"]
    for step in bar.columns.values():
        np.testing.assert_array_equal(now.tracks.column(step).data, fresh.column(step).data)
    if now.trace_name:
        assert now.project.recording(now.trace_name) is not None
        assert now.trace.name in now.trace_name
    of.extents.wait()
    assert now.widget is not None
    assert of.extents.largest == extent(now.tracks, now.widget)


def checked_afresh(of: Workspace) -> None:
    """The checks find what they find where nothing was remembered, in the project's own recordings."""
    of.checking.wait()
    now = of.editor.now
    assert {path.parent.parent for path in now.recordings} == {now.folder.absolute()}
    _, chosen, _ = opened(now, 10**9, lambda: None)
    every = [Tracks(now.bound, chosen[now.identity(one)]) for one in now.project.traces]
    found = Inspector(CHECKS).inspect(now.bound, every)
    quiet = suppressed(now.project, found)
    assert [(f.key, f.start) for f in of.checking.findings] == [(f.key, f.start) for f in found if f not in quiet]
