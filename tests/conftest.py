"""Every test has its own cache and data folders, and no display."""

from __future__ import annotations

import contextlib
import os
import sys
import tempfile
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

import dial
from avrin.widgets import KINDS

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


@pytest.fixture(scope="session")
def demo() -> Path:
    """The demo's project file, laid out once for all processes of a run. Tests do not change it."""
    from avrin.demo import install_demo

    shared = os.environ.get("AVRIN_TEST_DEMO")
    if not shared:
        return install_demo()
    whole = Path(shared) / "brinehook"
    if not whole.exists():
        own = Path(tempfile.mkdtemp(dir=shared)) / "brinehook"
        install_demo(own)
        with contextlib.suppress(OSError):  # another process was first
            own.rename(whole)
    return whole / "brinehook.avrin"


@pytest.fixture(autouse=True)
def _same_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
