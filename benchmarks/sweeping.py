"""Many recordings: a sweep against a plain loop, two processes against one, memory, and going on with what is done.

`AVRIN_RECORDINGS` says how many (100), `AVRIN_RECORDINGS_IN` a folder in which those that were made stay for the next time.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import numpy as np

from common import FOLDER, best, line, reached

__all__ = ["run"]

COUNT = int(os.environ.get("AVRIN_RECORDINGS", "100"))
FRAMES, COLUMNS = 12_000, 56
AGAIN = """
import resource, sys
from avrin.cli import main
status = main(sys.argv[1:])
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
sys.exit(status)
"""


def run() -> None:
    """All of it."""
    project, folder = _built()
    one, loop = best(lambda: _single(project, folder), lambda: _loop(project, folder), turns=3)
    line(f"{COUNT} recordings of {FRAMES:,} × {COLUMNS}, in a plain loop", one, loop, "≤ 1.1×", "s")
    alone, two = (_on_pool(project, folder, jobs) for jobs in (1, 2))
    reached("one process that works, against two", alone / two, "×", "≥ 1.8×")
    whole, memory = _sweep(project, folder, "two", "--jobs", "2")
    reached("swept by two, with all that is around it", whole, "s", "")
    reached("memory of who asked", memory, "MB", "≤ 500 MB")
    again, _ = _sweep(project, folder, "two", "--jobs", "2", "--resume")
    reached("continued with nothing new, of that", again / whole * 100, "%", "≤ 2 %")


def _single(project: Path, folder: Path) -> None:
    from avrin.storage.files import load
    from avrin.sweep.sweeping import Wanted, sweep

    wanted = Wanted((str(folder),), FOLDER / "one.parquet", {}, findings=False)
    sweep(load(project)[0], project.parent, wanted)


def _timed(work: object) -> float:
    start = time.perf_counter()
    work()  # type: ignore[operator]
    return time.perf_counter() - start


def _built() -> tuple[Path, Path]:
    from avrin.demo.install import install_demo

    project = install_demo(FOLDER / "demo")
    folder = Path(os.environ.get("AVRIN_RECORDINGS_IN", str(FOLDER / "recordings")))
    folder.mkdir(parents=True, exist_ok=True)
    missing = [number for number in range(COUNT) if not _file(folder, number).exists()]
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        list(pool.map(_play, [folder] * len(missing), missing, chunksize=4))
    return project, folder


def _file(folder: Path, number: int) -> Path:
    return folder / f"{number // 100:03}" / f"play-{number:06}.parquet"


def _play(folder: Path, number: int) -> None:
    """One recording: the sample's game from a seed of its own, and what else a game would record."""
    from msgspec.structs import replace

    from avrin.demo.game import DIVES, record
    from avrin.trace.copying import beside
    from avrin.trace.frames import Column
    from avrin.trace.store import save_trace

    trace = record(replace(DIVES[number % len(DIVES)], seed=1000 + number, seconds=FRAMES / 60))
    dice = np.random.default_rng(number)
    more = {
        f"other_{i}": Column("number", np.cumsum(dice.normal(0, 1, FRAMES)).round(2))
        for i in range(COLUMNS - len(trace.columns))
    }
    file = _file(folder, number)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".making-") as making:
        made = Path(making) / file.name
        save_trace(replace(trace, columns={**trace.columns, **more}), made)
        file.parent.mkdir(exist_ok=True)
        for one in (beside(made), made):  # the table last: where it is, all is
            one.rename(file.with_name(one.name))


def _loop(project: Path, folder: Path) -> None:
    """What a person would write who has the engine and nothing else."""
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.ladder.coverage import state_stretches
    from avrin.storage.files import load
    from avrin.trace.store import open_trace

    known, _ = load(project)
    bound = bind(known, folder=project.parent)
    for file in sorted(folder.glob("**/*.parquet")):
        tracks = Tracks(bound, open_trace(file, known.all_variables(), copied=False))
        for widget in bound.widgets.values():
            for copy in widget.each():
                state_stretches(tracks, copy)


def _sweep(project: Path, folder: Path, name: str, *more: str) -> tuple[float, float]:
    """Seconds that the command takes, and the most memory that its own process had, in MB."""
    start = time.perf_counter()
    told = subprocess.run(
        [sys.executable, "-c", AGAIN, "sweep", str(project), "--recordings", str(folder), "--no-findings", "--out",
         str(FOLDER / f"{name}.parquet"), *more],
        check=True, capture_output=True, text=True,
    )  # fmt: skip
    taken = time.perf_counter() - start
    found = re.search(r"(\d+)\s*$", told.stdout)
    assert found is not None
    return taken, int(found[1]) / 1024


def _on_pool(project: Path, folder: Path, jobs: int) -> float:
    """Seconds from when all who work are there until all is done."""
    from avrin.execution.locations import locations
    from avrin.execution.process_pool import ProcessPool
    from avrin.execution.task import task
    from avrin.storage.files import load
    from avrin.sweep.processing import Given, swept

    known, _ = load(project)
    given = Given(task(known, project.parent, {}, far=False), "", False, False)
    found = locations([str(folder)])
    with ProcessPool(jobs) as who:
        list(who.each(swept, given, [tuple(found[i : i + 1]) for i in range(2 * jobs)]))  # everything loaded
        parts = [tuple(found[i : i + 2]) for i in range(0, len(found), 2)]
        return _timed(lambda: list(who.each(swept, given, parts)))
