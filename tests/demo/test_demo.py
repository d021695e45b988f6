"""The demo is the same everywhere, whole, and full of the faults it is there to show."""

from __future__ import annotations

from pathlib import Path

import pytest
import resvg_py
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.demo.game import DIVES, record
from avrin.demo.install import install_demo
from avrin.demo.plates import PLATES
from avrin.storage.files import load
from avrin.trace.frames import Trace
from avrin.trace.store import open_trace


def opened(demo: Path, name: str) -> Trace:
    return open_trace(demo.parent / f"traces/{name}.csv", load(demo)[0].all_variables())


def test_the_game_plays_the_same_each_time() -> None:
    one, two = record(DIVES[0]), record(DIVES[0])
    assert all((one.columns[n].data == two.columns[n].data).all() for n in one.columns)


def test_recordings_are_minutes_at_sixty_frames_and_have_what_they_promise(demo: Path) -> None:
    traces = {dive.name: opened(demo, dive.name) for dive in DIVES}
    for trace in traces.values():
        assert trace.length > 180
        assert trace.frame_time == pytest.approx(1 / 60, abs=1e-4)
    assert not (traces["calm-dive"].columns["leak"].data == 2).any()
    leaky = traces["leaky-dive"]
    assert len(leaky.run_starts) == 3
    assert "lost" in leaky.columns["phase"].words
    assert leaky.columns["hull"].data.min() < 0  # the game does not clamp; a HUD must
    assert {100.0, 140.0} == set(leaky.columns["hull_max"].data)
    assert leaky.columns["crew[3].scrap"].is_missing().any()
    assert traces["rich-haul"].columns["scrap"].data.max() > 400


def test_the_project_is_whole_and_without_fault(demo: Path) -> None:
    project, warnings = load(demo)
    bound = bind(project)
    bound.raise_first()
    assert warnings == []
    assert not bound.warnings
    assert len(project.widgets) >= 6
    for name in (*(p.film or p.picture for p in project.plates), *(r.path for r in project.traces)):
        assert (demo.parent / name).is_file()


def test_plates_are_pictures() -> None:
    for paint in PLATES.values():
        assert paint() == paint()
        assert resvg_py.svg_to_bytes(svg_string=paint(), width=64)[:8] == b"\x89PNG\r\n\x1a\n"


def test_laying_out_again_keeps_what_the_user_changed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("avrin.demo.game.DIVES", tuple(replace(dive, seconds=2.0) for dive in DIVES))
    monkeypatch.setattr("avrin.demo.film.film_of", lambda _trace, path: path.write_bytes(b""))
    path = install_demo(tmp_path)
    changed = path.read_text().replace('"Brinehook"', '"Mine"')
    path.write_text(changed)
    (tmp_path / ".made").write_text("older version")
    assert install_demo(tmp_path).read_text() == changed
