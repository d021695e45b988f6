"""What is drawn is judged as if each frame were drawn: against a reference that draws each, for every kind of widget."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.case import Case
from avrin.findings.finding import Finding
from avrin.findings.registry import CHECKS
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box
from avrin.project.project import Band, Follow, Place, Plate, Project, Screen, Variable, Widget
from avrin.render.colour import contrast_ratio, over, parsed
from avrin.render.layout import Rect
from avrin.render.lettering import bodies, flat_shapes
from avrin.render.pixels import pixels
from avrin.render.scene import drawn_widget, is_drawn
from avrin.trace.frames import Column, Event, Trace, Value
from films import film, pictures

SCREEN = Screen(name="desk", size=(1920, 1080))
STRIPED = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="192" height="108"><rect width="192" height="108" fill="#e8efe9"/>'
    '<rect x="80" width="20" height="108" fill="#10222b"/></svg>'
)
LOW = (Band(name="low", below="30"),)
values = st.one_of(
    st.none(), st.floats(-30, 1200).map(lambda number: round(number, 2)), st.sampled_from([0.0, 9.5, 10.0, 99.4])
)
words = st.one_of(st.none(), st.sampled_from(["", "a", "Air left 17", "Air left 18", "W" * 12, "i" * 12]))


@st.composite
def traces(draw: st.DrawFn) -> Trace:
    frames = draw(st.integers(1, 14))
    names: dict[str, tuple[Value, st.SearchStrategy[Value]]] = {"hull": (0.0, values), "words": ("", words)}
    for slot in range(2):
        names |= {f"crew[{slot}].name": ("Ada", words), f"crew[{slot}].scrap": (1.0, values)}
    columns = {"full": Column.of([100.0] * frames)}
    for name, (first, more) in names.items():  # the first value decides the type, even if later ones are missing
        columns[name] = Column.of([first, *draw(st.lists(more, min_size=frames - 1, max_size=frames - 1))])
    at = draw(st.lists(st.integers(0, frames - 1), max_size=3, unique=True))
    events = [Event(float(i), "hit", {"points": draw(st.floats(0, 999))}) for i in sorted(at)]
    return Trace.make("t", [float(i) for i in range(frames)], columns, events=events)


@st.composite
def widgets(draw: st.DrawFn, ident: str, moving: bool = False) -> Widget:
    kind = KINDS[draw(st.sampled_from(sorted(KINDS)))]
    made = sample_widget(kind, draw(st.sampled_from([kind.test_sample, kind.manual_sample])))
    x, y = draw(st.tuples(st.integers(-160, 160), st.integers(-60, 60)))
    more: dict[str, Any] = {
        "look": {**made.look, **draw(st.sampled_from([{}, {"figures": "own"}, {"text": "#7f8f8a"}]))}
    }
    if kind.share and draw(st.booleans()):
        more["bands"] = LOW
    follow = draw(st.sampled_from([None, Follow(x="960 + hull", y="540")])) if moving else None
    return replace(made, id=ident, place=replace(made.place, offset=(float(x), float(y)), follow=follow), **more)


def drawn(tracks: Tracks, ident: str, frame: int) -> Any:
    widget = tracks.bound.widgets[ident]
    state = tracks.state_apart(widget, frame)
    if not (state["visible"] and is_drawn(widget, state)):
        return None
    return drawn_widget(widget, state, float(tracks.trace.t[frame]), tracks.bound, SCREEN, still=True)


def listed(code: str, project: Project, trace: Trace, folder: Path) -> tuple[list[Finding], Tracks]:
    bound = bind(project, events=trace.event_kinds, folder=folder)
    tracks = Tracks(bound, trace)
    (check,) = (item for item in CHECKS if item.code == code)
    assert check.project is not None
    return list(check.project(Case(bound, (tracks,)))), tracks


@given(trace=traces(), item=widgets("item"), two=widgets("two"))
def test_texts_on_top_of_each_other_are_found_at_the_very_first_frame(trace: Trace, item: Widget, two: Widget) -> None:
    project = replace(sample_project(item, two), screens=(SCREEN,))
    told, tracks = listed("overlaps", project, trace, Path())

    def collide(frame: int) -> bool:
        first, second = drawn(tracks, "item", frame), drawn(tracks, "two", frame)
        if first is None or second is None:
            return False
        return any(
            a.shared(b) > 0.08 * min(a.width * a.height, b.width * b.height)
            for _, a in bodies((first.group,)) for _, b in bodies((second.group,))
        )  # fmt: skip

    frames = [frame for frame in range(len(trace)) if collide(frame)]
    assert [finding.start for finding in told] == frames[:1]


def faintest(tracks: Tracks, frame: int, image: np.ndarray[Any, Any]) -> list[float]:
    """The contrast of each text of the second widget at a frame, as a share of the needed contrast."""
    behind: list[tuple[Rect, str, float]] = []
    ratios = []
    for ident in ("item", "two"):
        placed = drawn(tracks, ident, frame)
        if placed is None:
            continue
        for shape, rect, opacity in flat_shapes((placed.group,), 0.0, 0.0, 1.0, 1.0):
            if isinstance(shape, Box) and shape.fill:
                behind.append((rect, shape.fill[:7], parsed(shape.fill)[1] * opacity))
        for run, rect in bodies((placed.group,)) if ident == "two" else ():
            if not run.fill or not rect.shared(Rect(0, 0, *SCREEN.size)):
                continue  # invisible
            zoom = 480 / 1920
            left, top = max(0, int(rect.x * zoom + 1e-6)), max(0, int(rect.y * zoom + 1e-6))
            right, bottom = (int(np.ceil(edge * zoom - 1e-6)) for edge in (rect.x + rect.width, rect.y + rect.height))
            colour = image[top:bottom, left:right].reshape(-1, 3).mean(axis=0)
            for fill, name, alpha in behind:
                if fill.shared(rect) > 0.6 * rect.width * rect.height:
                    colour = over(parsed(name)[0], alpha, colour)
            fronts = [over(*parsed(name), colour) for name in (run.edge or run.fill, run.fill)]
            need = 3.0 if run.size >= (18.66 if run.bold else 24.0) else 4.5
            ratio = max(float(contrast_ratio(front, colour)) for front in fronts)
            ratios += [ratio] if ratio < need else []
    return ratios


@given(trace=traces(), item=widgets("item", moving=True), two=widgets("two", moving=True))
def test_what_stands_out_least_is_found_whenever_it_is(
    tmp_path_factory: pytest.TempPathFactory, trace: Trace, item: Widget, two: Widget
) -> None:
    folder = tmp_path_factory.getbasetemp() / "striped"
    folder.mkdir(exist_ok=True)
    (folder / "stripe.svg").write_text(STRIPED)
    project = replace(
        sample_project(item, two), screens=(SCREEN,), plates=(Plate(name="stripe", picture="stripe.svg"),)
    )
    told, tracks = listed("low-contrast", project, trace, folder)
    image = pixels(str(folder / "stripe.svg"), 480, 270)
    assert image is not None
    each = [faintest(tracks, frame, image) for frame in range(len(trace))]
    worst = min((ratio for ratios in each for ratio in ratios), default=None)
    mine = [finding for finding in told if finding.widget == "two"]
    assert bool(mine) == (worst is not None)
    if mine and worst is not None:
        assert mine[0].weight == pytest.approx(-worst, abs=1e-9)
        assert mine[0].start is not None
        assert min(each[mine[0].start]) == pytest.approx(worst, abs=1e-9)


@given(trace=traces(), item=widgets("item"))
def test_the_smallest_text_is_found_whenever_it_is_there(trace: Trace, item: Widget) -> None:
    far = replace(SCREEN, inches=24, metres=40.0)
    project = replace(sample_project(item), screens=(far,), legible=60.0)
    told, tracks = listed("too-small", project, trace, Path())
    sizes = {
        run.size for frame in range(len(trace)) if (placed := drawn(tracks, "item", frame)) is not None
        for run, _ in bodies((placed.group,))
    }  # fmt: skip
    assert bool(told) == bool(sizes)
    if told:
        placed = drawn(tracks, "item", told[0].start or 0)
        assert min(run.size for run, _ in bodies((placed.group,))) == min(sizes)


@pytest.mark.parametrize("numbered", [False, True])
def test_over_a_film_each_of_its_pictures_is_judged(tmp_path: Path, numbered: bool) -> None:
    (tmp_path / "films").mkdir()
    if numbered:
        pictures(tmp_path / "films", range(60), "shot_{:02d}.png")
        plate = Plate(name="dive", film="films/shot_##.png", rate=30.0, offset=0.3)
    else:
        film(tmp_path / "films/dive.mp4", [number / 30 for number in range(60)])
        plate = Plate(name="dive", film="films/dive.mp4", offset=0.3)
    trace = Trace.make("t", [i / 20 for i in range(60)], {"hull": Column.of([50.0] * 60)})
    text = Widget(
        id="text", kind="label", inputs={"text": "Hull {hull}"}, look={"text": "#d0d0d0"},
        place=Place(anchor="bottom-left", pivot="bottom-left", offset=(100.0, -100.0), size=(300.0, 60.0)),
    )  # fmt: skip
    project = Project(
        variables=(Variable(name="hull", type="float"),), screens=(SCREEN,), plates=(plate,), widgets=(text,)
    )
    (told,), _ = listed("low-contrast", project, trace, tmp_path)
    # As the film is made: its lower half is of one colour in each picture.
    shown = [min(59, int(round((float(t) + 0.3) * 30, 6))) for t in trace.t if (t + 0.3) * 30 < 60]
    greys = np.array([[(number * 37) % 200, (number * 11) % 200, (number * 5) % 200] for number in shown]) / 255
    ratios = contrast_ratio(np.full((1, 3), 0xD0 / 255), greys)
    assert told.start == int(np.argmin(ratios))
    assert told.weight == pytest.approx(-float(ratios.min()), abs=0.06)  # a film's colours are coarser than a picture's
    hurried = list(hasty(project, trace, tmp_path))
    assert [item.start for item in hurried] == [told.start], "it was looked through, and that is remembered"


def hasty(project: Project, trace: Trace, folder: Path) -> list[Finding]:
    """What is found without decoding a film for it."""
    bound = bind(project, folder=folder)
    (check,) = (item for item in CHECKS if item.code == "low-contrast")
    assert check.project is not None
    return list(check.project(Case(bound, (Tracks(bound, trace),), thorough=False)))


def test_until_a_film_was_looked_through_a_picture_close_before_stands_for_it(tmp_path: Path) -> None:
    (tmp_path / "films").mkdir()
    film(tmp_path / "films/dive.mp4", [number / 30 for number in range(60)])
    project = Project(
        screens=(SCREEN,), plates=(Plate(name="dive", film="films/dive.mp4"),),
        widgets=(Widget(id="text", kind="label", inputs={"text": "Hull"}, look={"text": "#606060"}, place=Place(
            anchor="bottom-left", pivot="bottom-left", offset=(100.0, -100.0), size=(300.0, 60.0))),),
    )  # fmt: skip
    trace = Trace.make("t", [i / 20 for i in range(30)], {})
    (before,) = hasty(project, trace, tmp_path)
    assert before.start == 0
    (after,), _ = listed("low-contrast", project, trace, tmp_path)
    assert after.weight > before.weight
    assert [item.start for item in hasty(project, trace, tmp_path)] == [after.start]
