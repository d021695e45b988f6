"""A scheduler of its own and processes that work for it, as one that somebody has running elsewhere."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from distributed import Client

__all__ = ["scheduler"]

WAITS = 90  # seconds
HERE = Path(__file__).parent


@contextmanager
def scheduler(workers: int) -> Iterator[tuple[str, list[subprocess.Popen[bytes]]]]:
    """Its address, and the processes that work, each of one thread; the last one of them is the scheduler itself."""
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    address = f"tcp://127.0.0.1:{port}"
    paths = os.pathsep.join([str(HERE), str(HERE.parents[1] / "src"), os.environ.get("PYTHONPATH", "")])
    environment = {**os.environ, "PYTHONPATH": paths}

    def begun(*arguments: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-m", *arguments], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )

    every = [begun("distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", str(port), "--no-dashboard")]
    try:
        for _ in range(workers):
            every.insert(
                0, begun("distributed.cli.dask_worker", address, "--nthreads", "1", "--no-nanny", "--no-dashboard")
            )
        with Client(address, timeout=WAITS) as known:  # a busy machine takes its time
            if workers:
                known.wait_for_workers(workers, timeout=WAITS)
        yield address, every
    finally:
        for one in every:
            one.kill()
            one.wait()
