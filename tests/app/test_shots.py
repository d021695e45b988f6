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


@pytest.fixture(scope="module")
def shots(tmp_path_factory: pytest.TempPathFactory) -> subprocess.CompletedProcess[str]:
    """The command that paints them, once; its output names the files."""
    folder = tmp_path_factory.mktemp("shots")
    command = [sys.executable, "-m", "avrin", "demo", "--shots", str(folder)]
    sources = {"PYTHONPATH": str(Path(avrin.__file__).parent.parent)}  # those that are tested, wherever it is run from
    return subprocess.run(command, capture_output=True, text=True, check=False, env={**os.environ, **sources})


def test_the_command_paints_every_view_and_says_nothing_else(shots: subprocess.CompletedProcess[str]) -> None:
    assert shots.returncode == 0
    assert shots.stderr == ""
    assert [Path(line).stem for line in shots.stdout.splitlines()] == [*VIEWS]
    assert {path.stem for path in KNOWN.glob("*.png")} == {*VIEWS}


@pytest.mark.parametrize("name", VIEWS)
def test_a_view_looks_as_it_is_documented(shots: subprocess.CompletedProcess[str], name: str) -> None:
    path = next(Path(line) for line in shots.stdout.splitlines() if Path(line).stem == name)
    shown, known = (np.asarray(Image.open(at).convert("RGB"), int) for at in (path, KNOWN / path.name))
    assert shown.shape == known.shape == (800, 1280, 3)
    apart = np.abs(shown - known).max(axis=2)
    if (apart > SLIGHT).sum() > SPECKS:
        rows, columns = np.nonzero(apart > SLIGHT)
        difference = path.with_name(f"{name}-difference.png")
        Image.fromarray((255 - np.minimum(apart * 4, 255)).astype(np.uint8)).save(difference)
        pytest.fail(
            f"{len(rows)} pixels differ, within x {columns.min()}–{columns.max()}, y {rows.min()}–{rows.max()}: {path} against "
            f"{KNOWN / path.name}, see {difference}. Where it is meant: ./avrin demo --shots docs/screenshots, and look at it"
        )
