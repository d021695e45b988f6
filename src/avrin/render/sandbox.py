"""Draw files in a sandboxed process, limited to 5 s of processor time and 1 GB per drawing.

An SVG renderer cannot be interrupted: a filter of a few bytes can run for minutes. If a drawing exceeds the limits,
its process ends, and the next drawing starts a new one. `serve` is the process's side; each module that calls it has
one renderer: `resvg_process` for the core, another one for the window's painter.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import resource
import struct
import subprocess
import sys
import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable
from typing import IO

from avrin.errors import AvrinError

__all__ = ["Confined", "serve"]

log = logging.getLogger(__name__)
CPU_SECONDS = 5
MEMORY = 1 << 30  # bytes in addition to what the process needs to start
MAX_REMEMBERED = 256  # drawings that exceeded the limits
REQUEST = struct.Struct("<QII")  # bytes of the drawing that follow; width and height in pixels
ANSWER = struct.Struct("<q")  # bytes of the answer that follow, or one of the next two
CANNOT_BE_DRAWN = -1
TOO_MUCH = f"takes more than {CPU_SECONDS} s of processor time, or 1 GB of memory, to draw"


class Confined:
    """Draws in a process whose module calls `serve`. Threads may share it; calls are serialised."""

    def __init__(self, module: str) -> None:
        self._module = module
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._ends: Callable[[], object] = lambda: None  # kills the process now, at exit, or with this object
        self._too_much: OrderedDict[bytes, None] = OrderedDict()

    def drawn(self, content: bytes, width: int, height: int) -> bytes | None:
        """Return the renderer's result for a drawing at a size in pixels, or None if it cannot be drawn.

        Raises AvrinError if it exceeds the limits; after that immediately, at any size.
        """
        digest = hashlib.blake2b(content, digest_size=16).digest()
        with self._lock:
            if digest not in self._too_much:
                try:
                    return self._ask(content, width, height)
                except (OSError, EOFError) as error:
                    log.info("a drawing of %d bytes exceeded the limits", len(content), exc_info=error)
                    self._end()
                    self._too_much[digest] = None
                    while len(self._too_much) > MAX_REMEMBERED:
                        self._too_much.popitem(last=False)
        raise AvrinError(TOO_MUCH, advice="Simplify the drawing")

    def _ask(self, content: bytes, width: int, height: int) -> bytes | None:
        if self._process is None or self._process.poll() is not None:
            self._end()
            self._process = subprocess.Popen(  # noqa: S603  (the program itself)
                [sys.executable, "-m", self._module], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
            )  # fmt: skip
            self._ends = weakref.finalize(self, _kill, self._process)
        process = self._process
        assert process.stdin is not None
        assert process.stdout is not None
        process.stdin.write(REQUEST.pack(len(content), width, height) + content)
        process.stdin.flush()
        (size,) = ANSWER.unpack(_read(process.stdout, ANSWER.size))
        return None if size == CANNOT_BE_DRAWN else _read(process.stdout, size)

    def _end(self) -> None:
        self._process = None
        self._ends()


def _kill(process: subprocess.Popen[bytes]) -> None:
    process.kill()
    process.wait()
    for end in (process.stdin, process.stdout):
        if end is not None:
            with contextlib.suppress(OSError):  # discards unsent output
                end.close()


def _read(file: IO[bytes], size: int) -> bytes:
    """Read exactly `size` bytes. Raises EOFError if there are fewer."""
    data = file.read(size)
    if len(data) != size:
        raise EOFError
    return data


def serve(draw: Callable[[bytes, int, int], bytes | None]) -> None:
    """Serve drawing requests from standard input until it closes. draw: content, width, height; None on failure."""
    began = int(open("/proc/self/statm").read().split()[0]) * resource.getpagesize()  # noqa: SIM115, PTH123
    resource.setrlimit(resource.RLIMIT_AS, (began + MEMORY, resource.RLIM_INFINITY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    source, target = sys.stdin.buffer, sys.stdout.buffer
    while head := source.read(REQUEST.size):
        size, width, height = REQUEST.unpack(head)
        content = _read(source, size)
        used = resource.getrusage(resource.RUSAGE_SELF)
        limit = int(used.ru_utime + used.ru_stime) + 1 + CPU_SECONDS
        resource.setrlimit(resource.RLIMIT_CPU, (limit, resource.RLIM_INFINITY))
        made = draw(content, width, height)
        target.write(ANSWER.pack(CANNOT_BE_DRAWN if made is None else len(made)) + (made or b""))
        target.flush()
