"""Drawings from files made in a process of their own, which may use 5 s of processor time and 1 GB for each.

What draws an SVG cannot be stopped from within: a filter of a few bytes keeps it busy for minutes. Where a drawing takes too
much, its process ends, and the next drawing starts another. `serve` is that process's side; the modules that call it each
have one way to draw: `resvg_process` for what knows no toolkit, one of the window's for what the painter shows.
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

from avrin.model import AvrinError

__all__ = ["Confined", "serve"]

log = logging.getLogger(__name__)
CPU_SECONDS = 5
MEMORY = 1 << 30  # bytes, besides what the process needs to begin with
MAX_REMEMBERED = 256  # drawings that took too much
REQUEST = struct.Struct("<QII")  # bytes of the drawing that follow; width and height in pixels
ANSWER = struct.Struct("<q")  # bytes of the answer that follow, or one of the next two
CANNOT_BE_DRAWN = -1
TOO_MUCH = f"takes more than {CPU_SECONDS} s of processor time, or 1 GB of memory, to draw"


class Confined:
    """Draws by a module that calls `serve`. Several threads may use it, one after another."""

    def __init__(self, module: str) -> None:
        self._module = module
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._ends: Callable[[], object] = lambda: None  # kills it, here, at the program's end, or with this object
        self._too_much: OrderedDict[bytes, None] = OrderedDict()

    def drawn(self, content: bytes, width: int, height: int) -> bytes | None:
        """What the module makes of a drawing at a size in pixels; None where it cannot be drawn.

        Raises AvrinError where it takes too much; from then on at once, at whatever size.
        """
        digest = hashlib.blake2b(content, digest_size=16).digest()
        with self._lock:
            if digest not in self._too_much:
                try:
                    return self._ask(content, width, height)
                except (OSError, EOFError) as error:
                    log.info("a drawing of %d bytes took too much", len(content), exc_info=error)
                    self._end()
                    self._too_much[digest] = None
                    while len(self._too_much) > MAX_REMEMBERED:
                        self._too_much.popitem(last=False)
        raise AvrinError(TOO_MUCH, advice="Draw it more simply")

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
            with contextlib.suppress(OSError):  # what was still to be written goes nowhere
                end.close()


def _read(file: IO[bytes], size: int) -> bytes:
    """That many bytes. Raises EOFError where fewer come."""
    data = file.read(size)
    if len(data) != size:
        raise EOFError
    return data


def serve(draw: Callable[[bytes, int, int], bytes | None]) -> None:
    """Draw what is asked for at standard input until that ends. draw: content, width, height; None where it cannot be."""
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
