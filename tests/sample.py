"""The demo's folder, laid out once for all processes of a test run."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path

from avrin.demo.install import install_demo

__all__ = ["shared_demo"]


def shared_demo() -> Path:
    """The demo's project file. Tests do not change it."""
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
