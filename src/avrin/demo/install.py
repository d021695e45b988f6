"""Install the demo as a project folder of the user: the project, its plates, film, traces and translations."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

from avrin.errors import AvrinError, reason_of

__all__ = ["demo_folder", "install_demo"]

HERE = Path(__file__).parent
STAMP = ".made"
FILMED = "leaky-dive"
TEXTS = ("de", "ar", "th")
PROJECTS = ("brinehook.avrin", "brinehook-troubled.avrin")


def demo_folder() -> Path:
    """Return the demo's folder."""
    import platformdirs  # late: 10 ms

    return Path(os.environ.get("AVRIN_DATA") or platformdirs.user_data_path("avrin")) / "brinehook"


def install_demo(folder: Path | None = None, *, troubled: bool = False) -> Path:
    """Create the demo's folder if it is missing or from another version, and return its project file.

    troubled: the second project with many errors, for the findings.
    A project the user has changed is not touched. Raises AvrinError if the folder cannot be written.
    """
    folder = folder or demo_folder()
    projects = [folder / name for name in PROJECTS]
    shipped = [(HERE / name).read_bytes() for name in PROJECTS]
    stamp = folder / STAMP
    spoken = {f"{code}.po": (HERE / "texts" / f"{code}.po").read_bytes() for code in TEXTS}
    code = b"".join((HERE / name).read_bytes() for name in ("game.py", "plates.py", "film.py"))
    wanted = " ".join(_digest(part) for part in (*shipped, *spoken.values(), code))
    try:
        made = stamp.read_text() if stamp.exists() else ""
        if made == wanted and all(project.exists() for project in projects):
            return projects[troubled]
        from avrin.demo.film import film_of  # late: 120 ms
        from avrin.demo.game import DIVES, record
        from avrin.demo.plates import PLATES
        from avrin.trace.store import save_trace

        for name in ("plates", "films", "traces", "texts"):
            (folder / name).mkdir(parents=True, exist_ok=True)
        for project, data in zip(projects, shipped, strict=True):
            if not project.exists() or _digest(project.read_bytes()) in made.split(" "):
                project.write_bytes(data)
        for name, data in spoken.items():
            target = folder / "texts" / name
            if not target.exists() or _digest(target.read_bytes()) in made.split(" "):
                target.write_bytes(data)
        for name, paint in PLATES.items():
            (folder / "plates" / f"{name}.svg").write_text(paint(), encoding="utf-8")
        for dive in DIVES:
            trace = record(dive)
            save_trace(trace, folder / "traces" / f"{dive.name}.csv")
            if dive.name == FILMED:
                film_of(trace, folder / "films" / "dive.mp4")
        stamp.write_text(wanted)
    except OSError as error:
        raise AvrinError(
            f"the demo cannot be laid out ({reason_of(error)})",
            place=(str(folder),),
            advice="Set AVRIN_DATA to a folder you can write to",
        ) from None
    return projects[troubled]


def _digest(data: bytes) -> str:
    return hashlib.blake2b(data, digest_size=12).hexdigest()
