"""Sheets of ladder and coverage as they are known to look: drawn by `python tests/ladder/known_sheets.py`, then looked at."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

if __name__ == "__main__":  # by hand: where the tests find what they share
    sys.path[:0] = [str(Path(__file__).parents[1]), str(Path(__file__).parents[2] / "src")]

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.kinds.shapes import Box, Group, Shape
from avrin.ladder.coverage import coverage
from avrin.ladder.coverage_sheet import coverage_sheet
from avrin.ladder.rows import Row, sweep_row
from avrin.ladder.samples import finish
from avrin.ladder.sheet import row_sheet, whole_sheet
from avrin.project.project import Band, Project, Variable, Widget
from avrin.render.svg import svg
from avrin.trace.frames import Column, Trace

__all__ = ["KNOWN", "SHEETS", "drawn"]

KNOWN = Path(__file__).parent / "known"
WIDE = 1000.0
VARIABLES = (
    Variable(name="hull", type="float", low=0, high=100, unit="pt"),
    Variable(name="hull_max", type="float", low=50, high=200),
    Variable(name="lives", type="int", low=0, high=9),
    Variable(name="leak", type="bool"),
    Variable(name="phase", type="text"),
)
BANDS = (Band(name="critical", below="10%"), Band(name="low", below="25%", back="30%"), Band(name="rich", above="90%"))
BAR = Widget(
    id="a_bar_with_a_long_name", kind="bar", bands=BANDS,
    inputs={"value": "hull", "full": "hull_max", "visible": 'phase != "lost"'}, options={"trail": {"wait": 0.5, "rate": 1}},
    look={"bands": {"rich": {"fill": "#806020"}, "low": {"flash": "0.5s"}}},
)  # fmt: skip
LIVES = Widget(id="lives", kind="pips", inputs={"value": "lives", "full": "9"})
ALERT = Widget(id="alert", kind="label", inputs={"text": "{hull | 0.0}", "visible": "leak and hull in 20..20.5"})


def _tracks() -> list[Tracks]:
    bound = bind(Project(title="Known", variables=VARIABLES, widgets=(BAR, LIVES, ALERT)))
    bound.raise_first()
    found = []
    for name, hull in (("calm", [100.0, 95.0, 80.0, 40.0]), ("rough", [30.0, 20.2, None, 5.0, 5.0, -3.0])):
        frames = len(hull)
        columns = {
            "hull": Column.of(hull), "hull_max": Column.of([100.0] * frames),
            "lives": Column.of([9.0 - i for i in range(frames)]),
            "leak": Column.of([i % 2 == 1 for i in range(frames)]), "phase": Column.of(["dive"] * (frames - 1) + ["lost"]),
        }  # fmt: skip
        found.append(Tracks(bound, Trace.make(name, [i * 61.5 for i in range(frames)], columns)))
    return found


def _row(ident: str, driver: str, frame: int = 0, **more: Any) -> tuple[Row, Bound]:
    calm, rough = _tracks()
    widget = calm.bound.widgets[ident]
    seen = [calm.trace, rough.trace]
    return finish(sweep_row(calm, widget, driver, frame, seen, **more)), calm.bound


def _sheet(ident: str, driver: str, *, pressed: bool = False, **more: Any) -> str:
    row, bound = _row(ident, driver, **more)
    sheet = row_sheet(row, bound, WIDE, pressed=pressed)
    marks: list[Shape] = [Box(*rect, "", 0, "#0000ff", 1) for rect, _ in (*sheet.cells, *sheet.brackets, *sheet.links)]
    return svg([Group(sheet.shapes), *marks], round(WIDE), round(sheet.height))


def _complete() -> str:
    rows = [_row(BAR.id, "hull")[0], _row("alert", "leak", 1)[0]]
    shapes, height = whole_sheet(rows, _tracks()[0].bound, WIDE, "Known", "the rest held")
    return svg(shapes, round(WIDE), round(height))


def _states() -> str:
    tracks = _tracks()
    covered = {ident: coverage(tracks, widget) for ident, widget in tracks[0].bound.widgets.items()}
    shapes, height = coverage_sheet(covered, tracks[0].bound, WIDE)
    return svg(shapes, round(WIDE), round(height))


SHEETS = {
    "bar-pressed": lambda: _sheet(BAR.id, "hull", pressed=True),
    "bar-arriving": lambda: _sheet(BAR.id, "hull", arriving=True, pressed=True),
    "bar-crossed": lambda: _sheet(BAR.id, "hull", held={"hull_max": 200.0, "phase": "dive"}),
    "bar-phase": lambda: _sheet(BAR.id, "phase", frame=3),
    "lives": lambda: _sheet("lives", "lives", frame=2),
    "alert": lambda: _sheet("alert", "hull", frame=1),
    "whole": _complete,
    "states": _states,
}


def drawn(name: str) -> str:
    """A sheet as an SVG, one shape a line."""
    return SHEETS[name]().replace("><", ">\n<")


if __name__ == "__main__":
    for sheet in SHEETS:
        (KNOWN / f"{sheet}.svg").write_text(drawn(sheet))
