"""The window's main views, driven by mouse and keys, look as they do in docs/screenshots."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import avrin
from avrin.app.shots import VIEWS

KNOWN = Path(__file__).parent.parent.parent / "docs/screenshots"
SLIGHT = 16  # of 255: how far smooth edges may differ from machine to machine
SPECKS = 12  # pixels of a picture that may differ by more


@pytest.mark.long
def test_the_command_paints_every_view_as_it_is_documented(tmp_path: Path) -> None:
    """One test, as painting them takes a minute; it names every view that differs."""
    command = [sys.executable, "-m", "avrin", "demo", "--shots", str(tmp_path)]
    sources = {"PYTHONPATH": str(Path(avrin.__file__).parent.parent)}  # those that are tested, wherever it is run from
    done = subprocess.run(command, capture_output=True, text=True, check=False, env={**os.environ, **sources})
    assert (done.returncode, done.stderr) == (0, "")
    painted = [Path(line) for line in done.stdout.splitlines()]
    assert [path.stem for path in painted] == [*VIEWS]
    assert {path.stem for path in KNOWN.glob("*.png")} == {*VIEWS}
    differing = [said for path in painted if (said := difference(path))]
    assert not differing, "\n".join(
        [*differing, "Where it is meant: ./avrin demo --shots docs/screenshots, and look at it"]
    )


def difference(path: Path) -> str:
    """Describe how a view differs from the committed one, "" if it does not; a picture of the difference is saved next to it."""
    shown, known = (np.asarray(Image.open(at).convert("RGB"), int) for at in (path, KNOWN / path.name))
    assert shown.shape == known.shape == (800, 1280, 3)
    apart = np.abs(shown - known).max(axis=2)
    if (apart > SLIGHT).sum() <= SPECKS:
        return ""
    rows, columns = np.nonzero(apart > SLIGHT)
    picture = path.with_name(f"{path.stem}-difference.png")
    Image.fromarray((255 - np.minimum(apart * 4, 255)).astype(np.uint8)).save(picture)
    where = f"x {columns.min()}–{columns.max()}, y {rows.min()}–{rows.max()}"
    return f"{path.stem}: {len(rows)} pixels differ, within {where}: {path} against {KNOWN / path.name}, see {picture}"
