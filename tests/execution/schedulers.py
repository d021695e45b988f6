"""A scheduler and its workers, as they would run elsewhere: one for all tests of a process."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from distributed import Client

__all__ = ["Scheduler", "cluster"]

PATIENCE = 90  # seconds: a busy machine takes its time
HERE = Path(__file__).parent


class Scheduler:
    """A killed one is restarted on the next request. workers: processes of one thread each. own: the scheduler's."""

    def __init__(self) -> None:
        self.address = ""
        self.own: subprocess.Popen[bytes] | None = None
        self.workers: list[subprocess.Popen[bytes]] = []

    @contextmanager
    def working(self, count: int) -> Iterator[str]:
        """Its address, while so many work for it."""
        if self.own is None or self.own.poll() is not None:
            self.end()
            with socket.create_server(("127.0.0.1", 0)) as free:
                port = free.getsockname()[1]
            self.address = f"tcp://127.0.0.1:{port}"
            self.own = _started(
                "distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", str(port), "--no-dashboard"
            )
        alive = [one for one in self.workers if one.poll() is None]
        for one in alive[count:]:
            _kill(one)
        worker = ("distributed.cli.dask_worker", self.address, "--nthreads", "1", "--no-nanny", "--no-dashboard")
        self.workers = [*alive[:count], *(_started(*worker) for _ in range(count - len(alive)))]
        with Client(self.address, timeout=PATIENCE) as known:
            until = time.monotonic() + PATIENCE
            while (there := len(known.nthreads())) != count:
                assert time.monotonic() < until, f"{there} processes work for the scheduler, and not {count}"
                time.sleep(0.02)
        yield self.address

    def end(self) -> None:
        """End all of it."""
        for one in [*self.workers, *([self.own] if self.own is not None else [])]:
            _kill(one)
        self.workers, self.own = [], None


def _started(*arguments: str) -> subprocess.Popen[bytes]:
    paths = os.pathsep.join([str(HERE), str(HERE.parents[1] / "src"), os.environ.get("PYTHONPATH", "")])
    return subprocess.Popen(
        [sys.executable, "-m", *arguments], env={**os.environ, "PYTHONPATH": paths}, stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )  # fmt: skip


def _kill(process: subprocess.Popen[bytes]) -> None:
    process.kill()
    process.wait()


@pytest.fixture(scope="module")
def cluster() -> Iterator[Scheduler]:
    """One for a module: its processes would take half a gigabyte to the end of the run."""
    made = Scheduler()
    yield made
    made.end()
