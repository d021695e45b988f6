"""Lay the demo out as a project folder of the user's own: the project, its plates, its traces."""

from __future__ import annotations

import hashlib
import os
from importlib import resources
from pathlib import Path

from avrin.model import AvrinError

__all__ = ["demo_folder", "install_demo"]

STAMP = ".made"


def demo_folder() -> Path:
    """Where the demo lies."""
    import platformdirs

    return Path(os.environ.get("AVRIN_DATA") or platformdirs.user_data_path("avrin")) / "brinehook"


def install_demo(folder: Path | None = None) -> Path:
    """Make the demo's folder where it is missing or from another version; returns its project file.

    A project the user has changed is left as it is. Raises AvrinError when the folder cannot be written.
    """
    folder = folder or demo_folder()
    project = folder / "brinehook.avrin"
    shipped = (resources.files("avrin.demo") / "brinehook.avrin").read_bytes()
    stamp = folder / STAMP
    code = b"".join((resources.files("avrin.demo") / name).read_bytes() for name in ("game.py", "plates.py"))
    wanted = f"{_digest(shipped)} {_digest(code)}"
    try:
        made = stamp.read_text() if stamp.exists() else ""
        if made == wanted and project.exists():
            return project
        from avrin.demo.game import DIVES, record
        from avrin.demo.plates import PLATES
        from avrin.trace import save_trace

        for name in ("plates", "traces"):
            (folder / name).mkdir(parents=True, exist_ok=True)
        untouched = not project.exists() or _digest(project.read_bytes()) == made.split(" ")[0]
        if untouched:
            project.write_bytes(shipped)
        for name, paint in PLATES.items():
            (folder / "plates" / f"{name}.svg").write_text(paint(), encoding="utf-8")
        for dive in DIVES:
            save_trace(record(dive), folder / "traces" / f"{dive.name}.csv")
        stamp.write_text(wanted)
    except OSError as error:
        raise AvrinError(
            f"the demo cannot be laid out ({(error.strerror or str(error)).lower()})",
            place=(str(folder),),
            advice="Set AVRIN_DATA to a folder you can write to",
        ) from None
    return project


def _digest(data: bytes) -> str:
    return hashlib.blake2b(data, digest_size=12).hexdigest()
