"""A HUD of sixty widgets of all kinds: a frame in the window, its tracks over an hour, and pictures of many moments."""

from __future__ import annotations

import gc
import json
import re
import subprocess
import sys
import time
import tracemalloc
from pathlib import Path
from typing import Any

import numpy as np
from msgspec.structs import replace

from avrin.editor.playback import go_to, set_playing
from common import FOLDER, FRAMES, reached

__all__ = ["run", "sixty"]

COLUMNS, ROWS = 6, 10
NUMBERS = 30  # variables that change on each frame, and as many that change twice a second
RUNNING = "counter"  # the kind that is fed by the former, and that there are most of


def run() -> None:
    """All of it."""
    frames()
    tracks()
    pictures()


def _widget(kind: str, n: int) -> Any:
    """The n-th widget, as its kind is tried out, fed from a variable of its own."""
    from avrin.kinds.kind_samples import sample_widget
    from avrin.kinds.registry import KINDS
    from avrin.project.project import Band, Place

    own = {"hull": f"v{n % NUMBERS}" if kind == RUNNING else f"slow{n % NUMBERS}", "full": "140"}

    def fed(text: str) -> str:
        return re.sub(r"\b(hull|full)\b", lambda name: own[name[0]], text)

    made = sample_widget(KINDS[kind], KINDS[kind].test_sample)
    bands = (Band(name="low", below="25%", back="30%"),) if KINDS[kind].share else ()
    options = json.loads(fed(json.dumps(made.options)))
    place = Place(offset=(20.0 + 315 * (n % COLUMNS), 10.0 + 106 * (n // COLUMNS)), size=(290.0, 90.0))
    inputs = {name: fed(text) for name, text in made.inputs.items()}
    return replace(made, id=f"w{n}", inputs=inputs, options=options, bands=bands, place=place)


def sixty(length: int = FRAMES, only: int = NUMBERS) -> tuple[Any, Any]:
    """A checked project of sixty widgets and its trace; the first `only` variables change, the others are constant."""
    from avrin.binding.binding import bind
    from avrin.kinds.kind_samples import sample_project
    from avrin.kinds.registry import KINDS
    from avrin.project.project import Roster, Variable
    from avrin.trace.frames import Column, Event, Trace

    dice = np.random.default_rng(4)
    each = [*KINDS] * 3
    kinds = [*each, *[RUNNING] * (56 - len(each)), *["label"] * 4]  # 60 in all, with some 20 counters
    made = [_widget(kind, n) for n, kind in enumerate(kinds)]
    walks = np.clip(np.cumsum(dice.normal(0, 0.5, (length, NUMBERS)), axis=0) + 60, 1, 139)
    slow = walks[np.arange(length) // 30 * 30]
    walks[:, only:], slow[:, only:] = 50.0, 50.0
    columns = {f"slow{n}": Column("number", slow[:, n]) for n in range(NUMBERS)}
    columns |= {f"v{n}": Column("number", walks[:, n]) for n in range(NUMBERS)}
    for slot, name in enumerate(("Ona", "Teo", "Marit", "Isko")):
        columns[f"crew[{slot}].name"] = Column.of([name] * length)
        columns[f"crew[{slot}].scrap"] = Column("number", np.floor(np.linspace(0, 200, length)) + slot)
    events = [Event(float(at), "hit", {"points": 3.0}) for at in range(0, max(1, length // 60), 5)]
    columns["words"] = Column.of(["points"] * length)
    base = sample_project(*made)
    numbers = (Variable(name=name, type="float", low=0, high=140) for name in columns if name.startswith(("slow", "v")))
    rosters = (Roster(name="crew", slots=4, fields=base.rosters[0].fields),)
    bound = bind(replace(base, title="Sixty", variables=(*base.variables, *numbers), rosters=rosters))
    bound.raise_first()
    return bound.project, Trace.make("sixty", np.arange(length) / 60, columns, events=events)


def _saved(only: int, length: int) -> Path:
    from avrin.demo.install import install_demo
    from avrin.project.project import Plate, Recording
    from avrin.storage.files import save
    from avrin.trace.store import save_trace

    folder = install_demo().parent
    project, trace = sixty(length=length, only=only)
    name = f"sixty-{only}"
    save_trace(trace, folder / f"{name}.parquet")
    plate = sorted((folder / "plates").glob("*.*"))[0]
    plates = (Plate(name="under", picture=f"plates/{plate.name}"),)
    save(replace(project, traces=(Recording(path=f"{name}.parquet"),), plates=plates), folder / f"{name}.avrin")
    return folder / f"{name}.avrin"


def frames() -> None:
    """The picture, playing: everything changing, and one widget changing. No other view follows the editor."""
    from avrin.app.bind_desk.picture.hud_view import HudView
    from avrin.app.main import application
    from avrin.app.services.workspace import Workspace

    app = application()
    for only, what, limit in ((NUMBERS, "counters change", "≤ 4 ms"), (4, "one changes", "≤ 1 ms")):
        workspace = Workspace()
        editor = workspace.editor
        workspace.files.open(_saved(only, 7200))
        while workspace.busy:  # checks too: they would run beside the picture
            app.processEvents()
        view = HudView(editor, workspace.comparison, workspace.extents, workspace.video)
        view.resize(1280, 720)
        view.show()
        gc.collect()
        gc.freeze()  # as the application does once its window is shown
        editor.do(set_playing, True)
        app.processEvents()
        times = []
        for i in range(330):
            start = time.perf_counter()
            editor.do(go_to, 600 + i)
            app.processEvents()
            if i >= 30:
                times.append(time.perf_counter() - start)
        times.sort()
        reached(f"a frame of 60 widgets at 1280 × 720, {what}", times[len(times) // 2] * 1e3, "ms", limit)
        editor.do(set_playing, False)
        workspace.files.forget_unsaved()
        view.close()
        workspace.close()


def tracks() -> None:
    """All tracks over an hour, with all their texts, on one processor."""
    import os

    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks, track

    project, trace = sixty()
    bound = bind(project, events={"hit": {"points": "number"}})
    every = os.sched_getaffinity(0)
    os.sched_setaffinity(0, {min(every)})
    start = time.perf_counter()
    made = Tracks(bound, trace)
    whole = time.perf_counter() - start
    os.sched_setaffinity(0, every)
    columns = sum(made.column(step).data.nbytes for step in {s for w in bound.widgets.values() for s in w.steps()})
    reached("tracks of 60 widgets over 216,000 frames", whole, "s", "≤ 2 s")
    tracemalloc.start()
    Tracks(bind(project, events={"hit": {"points": "number"}}), trace)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    reached("  peak memory beside their columns", peak / columns, "×", "≤ 3×")
    start = time.perf_counter()
    track(bound, trace)
    reached("  with every text of them written", time.perf_counter() - start, "s", "")


def pictures() -> None:
    """A thousand moments to PNG in one call, from the shell."""
    from avrin.demo.install import install_demo

    project = install_demo()
    trace = project.parent / "traces" / "leaky-dive.csv"
    folder = FOLDER / "moments"
    folder.mkdir()
    at = ",".join(f"{0.25 * n:g}" for n in range(1000))
    start = time.perf_counter()
    told = ["--trace", str(trace), "--screen", "1280x720", "--plate", "shelf", "--out", str(folder / "f.png")]
    command = [sys.executable, "-m", "avrin", "frame", str(project), "--at", at, *told]
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    each = (time.perf_counter() - start) / 1000
    assert len(list(folder.glob("*.png"))) == 1000
    reached("a picture of 1,000 moments, each", each * 1e3, "ms", "≤ 80 ms")
