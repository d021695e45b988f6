"""Every test has its own cache and data folders, and no display."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from msgspec.structs import replace

import dial
from avrin.kinds.registry import KINDS

os.environ["QT_QPA_PLATFORM"] = "offscreen"
if os.environ.get("AVRIN_TOOLKIT") == "none":  # everything but the window works without one: see `avrin test`
    sys.modules["PySide6"] = None  # type: ignore[assignment]  # any import of it, or of a part, fails
_FOLDER = tempfile.TemporaryDirectory(prefix="avrin-tests-")
os.environ["AVRIN_CACHE"] = f"{_FOLDER.name}/cache"
os.environ["AVRIN_STATE"] = f"{_FOLDER.name}/state"
os.environ["AVRIN_DATA"] = f"{_FOLDER.name}/data"
os.environ["XDG_CONFIG_HOME"] = f"{_FOLDER.name}/config"

# A kind unknown to the program's files: every test over all kinds runs over it as well.
KINDS.setdefault(dial.KIND.name, dial.KIND)

# Of each property. The usual run takes the same examples each time; a longer one looks at fresh ones.
EXAMPLES = int(os.environ.get("AVRIN_EXAMPLES", "25"))
settings.register_profile(
    "avrin",
    deadline=None,
    max_examples=EXAMPLES,
    derandomize="AVRIN_EXAMPLES" not in os.environ,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("avrin")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Begin with the longest tests: at the end, one worker would be left alone with them."""
    items.sort(key=lambda item: item.get_closest_marker("long") is None)


@pytest.fixture(scope="session")
def demo() -> Path:
    """The demo's project file. Tests do not change it."""
    from sample import shared_demo

    return shared_demo()


@pytest.fixture(scope="session")
def brief(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's project with the first ten seconds of each recording. Tests do not change it."""
    from avrin.trace.frames import Trace
    from avrin.trace.store import open_trace, save_trace
    from sample import shared_demo

    demo = shared_demo()

    folder = tmp_path_factory.mktemp("brief") / "b"
    shutil.copytree(demo.parent, folder, ignore=shutil.ignore_patterns("*.csv", "*.jsonl", ".made"))
    for path in demo.parent.glob("traces/*.csv"):
        trace = open_trace(path)
        part = {name: replace(column, data=column.data[:600]) for name, column in trace.columns.items()}
        events = tuple(event for event in trace.events if event.t < trace.t[599])
        made = Trace.make(trace.name, trace.t[:600], part, trace.run[:600].tolist(), events=events)
        save_trace(made, folder / "traces" / path.name)
    return folder / demo.name


@pytest.fixture(autouse=True)
def _same_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
