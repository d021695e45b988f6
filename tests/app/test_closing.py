"""What a closed window, or a project that is not open any more, held is given back: measured in the shipped program."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

ROUNDS = 3
SLACK_MB = 100  # what libraries keep for the next time; an editor that stayed would be 175 MB


@pytest.mark.long
def test_threads_files_memory_and_sessions_stay_as_after_the_second_time() -> None:
    """Windows opened and closed, then projects opened one after another in one window; in one process, as its start is dear."""
    command = [sys.executable, str(Path(__file__).with_name("lifetimes.py")), "both", str(ROUNDS), "small"]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    every = [tuple(map(int, line.split())) for line in done.stdout.splitlines()]
    assert len(every) == 2 * ROUNDS
    for rounds, kept in ((every[:ROUNDS], 0), (every[ROUNDS:], 1)):
        threads, files, memory, alive = rounds[1]
        assert max(one[0] for one in rounds[2:]) <= threads
        assert max(one[1] for one in rounds[2:]) <= files
        assert rounds[-1][2] <= memory + SLACK_MB
        assert {one[3] for one in rounds} == {alive} == {kept}
