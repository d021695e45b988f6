"""The sheet of screens, films under the HUD, and findings over screens, plates, languages and sizes together."""

from __future__ import annotations

import random
import time
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from msgspec.structs import replace

from avrin.editor.edits import edit
from avrin.editor.playback import go_to, go_to_seconds, set_playing
from avrin.editor.viewing import show_over
from checks import SIZES
from common import FOLDER, FRAMES, line, reached
from hud import sixty

__all__ = ["run"]

PLAYER = (0.75, 1.0, 1.5)  # sizes a player sets
SPOKEN = ("de", "ar", "th", "fr", "ja")


def run() -> None:
    """All of it."""
    sheet()
    film()
    everywhere()


def settled(window: Any, seconds: float = 0.0) -> None:
    """Let the window live until nothing is on its way; threads of the background get their turn."""
    from avrin.app.main import application

    end = time.perf_counter() + seconds
    while window.workspace.video.busy or time.perf_counter() < end:
        application().processEvents()
        time.sleep(0.0005)
    application().processEvents()


def sheet() -> None:
    """Twelve cells of the demo: first seen, a step, playing."""
    from avrin.app.main import application, make_window
    from avrin.demo.install import install_demo

    window = make_window(install_demo())
    editor = window.editor
    editor.do(
        edit,
        replace(editor.now.project, plates=tuple(one for one in editor.now.project.plates if one.picture)),
        "without film",
    )
    window.show()
    window.resize(1280, 800)
    settled(window, 0.5)
    editor.do(go_to_seconds, 118)
    start = time.perf_counter()
    window.show_desk("Screens")
    desk: Any = window.desks.currentWidget()
    desk.cells.repaint()
    reached("sheet of 12 cells, first seen", (time.perf_counter() - start) * 1e3, "ms", "≤ 400 ms")
    cells = desk.cells
    times = []
    for step in range(40):
        editor.do(go_to, 7080 + 3 * step)
        start = time.perf_counter()
        cells.repaint()
        times.append(time.perf_counter() - start)
    reached("  a step", sorted(times)[20] * 1e3, "ms", "≤ 50 ms")
    editor.do(set_playing, True)
    end, seen = time.perf_counter() + 3, set()
    while time.perf_counter() < end:
        application().processEvents()
        seen.add(cells._huds_of)
    editor.do(set_playing, False)
    reached("  frames a second while it plays", len(seen) / 3, "", "≥ 20")
    window.workspace.files.forget_unsaved()
    window.close()


def film() -> None:
    """A film of 1280 × 720 with key pictures ten seconds apart: seeks before and after its copy, and playing."""
    from avrin.app.main import application, make_window
    from avrin.demo.install import install_demo
    from avrin.video.fast_copy import quick_copy
    from avrin.video.open_video import open_footage

    source, near, far = _filmed(FOLDER / "noise.mp4"), [], []
    footage, dice = open_footage(source), random.Random(5)  # noqa: S311  (nothing secret)
    for _ in range(20):
        second = dice.uniform(0, footage.seconds)
        start = time.perf_counter()
        footage.near(second, 1280)
        near.append(time.perf_counter() - start)
        start = time.perf_counter()
        footage.at(second, 1280)
        far.append(time.perf_counter() - start)
    reached("film 1280 × 720, the nearest key picture", sorted(near)[10] * 1e3, "ms", "at once")
    reached("  the true one, before the copy", sorted(far)[10] * 1e3, "ms", "")
    start = time.perf_counter()
    quick_copy(source)
    reached("  the copy, of a minute", time.perf_counter() - start, "s", "")
    path = install_demo(Path(FOLDER) / "filmed" / "b")
    (path.parent / "films" / "dive.mp4").write_bytes(source.read_bytes())
    window = make_window(path)
    window.show()
    window.resize(1280, 800)
    editor = window.editor
    plate = replace(next(one for one in editor.now.project.plates if one.film), offset=0.0)
    editor.do(edit, replace(editor.now.project, plates=(plate,)), "film")
    editor.do(show_over, editor.now.project.plates[0])
    while not window.workspace.video.is_quick(plate):
        settled(window, 0.1)
    times = []
    for _ in range(40):
        editor.do(go_to_seconds, dice.uniform(0, 59))
        start = time.perf_counter()
        settled(window)
        times.append(time.perf_counter() - start)
    reached("  a seek in the window, until it is seen", sorted(times)[20] * 1e3, "ms", "≤ 100 ms")
    editor.do(go_to_seconds, 5)
    settled(window, 0.2)
    editor.do(set_playing, True)
    late, end = [], time.perf_counter() + 4
    while time.perf_counter() < end:
        application().processEvents()
        time.sleep(0.001)
        shown = window.workspace.video.shown_second(plate)
        if shown is not None:
            late.append(editor.now.seconds - shown)
    editor.do(set_playing, False)
    reached("  behind the playhead while it plays, 95 of 100", float(np.percentile(late, 95)) * 30, "pictures", "≤ 2")
    window.workspace.files.forget_unsaved()
    window.close()


def _filmed(path: Path) -> Path:
    """A minute at thirty pictures a second that differ all over, key pictures ten seconds apart."""
    import av

    dice = np.random.default_rng(3)
    ground = np.kron(dice.integers(0, 255, (128, 200, 3), np.uint8), np.ones((8, 8, 1), np.uint8))
    with av.open(str(path), mode="w") as out:
        stream: Any = out.add_stream("libx264", rate=30)
        stream.width, stream.height, stream.pix_fmt, stream.gop_size = 1280, 720, "yuv420p", 300
        stream.options = {"preset": "ultrafast", "crf": "30", "sc_threshold": "0"}
        stream.codec_context.time_base = Fraction(1, 30)
        for number in range(1800):
            x, y = (number * 3) % 300, (number * 2) % 300
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(ground[y : y + 720, x : x + 1280]), format="rgb24")
            frame.pts, frame.time_base = number, Fraction(1, 30)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def everywhere() -> None:
    """All findings over twelve screens, and over those at three sizes, three plates and five languages."""
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.findings.inspector import Inspector
    from avrin.findings.registry import CHECKS
    from avrin.i18n.catalogue import catalogue_path
    from avrin.i18n.extraction import with_translation
    from avrin.i18n.messages import messages
    from avrin.project.project import Plate, Screen, Zone

    project, trace = sixty(FRAMES)
    folder = FOLDER / "everywhere"
    (folder / "texts").mkdir(parents=True)
    svg = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 16 9"><rect width="16" height="9"/></svg>'
    (folder / "p.svg").write_text(svg)
    plain = replace(project, screens=tuple(Screen(name=f"{w} × {h}", size=(w, h)) for w, h in SIZES))
    bound = bind(plain, events=trace.event_kinds, folder=folder)
    start = time.perf_counter()
    Inspector(CHECKS).inspect(bound, [Tracks(bound, trace)])
    alone = time.perf_counter() - start
    screens = tuple(replace(one, name=f"{one.name} {size:.0%}", scale=size) for one in plain.screens for size in PLAYER)
    plates = tuple(Plate(name=f"p{i}", picture="p.svg", keep_clear=(Zone(box=(600, 300, 700, 400)),)) for i in range(3))
    whole = bind(replace(plain, screens=screens, plates=plates), events=trace.event_kinds, folder=folder)
    for code in SPOKEN:
        for message in messages(whole):
            path, data = with_translation(whole, code, message, [f"{code} {message.single}"])
            path.write_bytes(data)
        assert catalogue_path(folder, code).exists()
    start = time.perf_counter()
    found = Inspector(CHECKS).inspect(whole, [Tracks(whole, trace)])
    taken = time.perf_counter() - start
    line("checks, × 3 sizes × 3 plates × 5 languages", taken, alone, "≤ 10×", "s")
    print(f"  ({len(found)} findings)")
