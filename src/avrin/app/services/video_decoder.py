"""The video decoder: films behind the HUD on a worker thread, the nearest key frame at once, the exact frame when ready.

The newest request wins; during playback the next frames are decoded ahead. A film with distant key frames is copied in
the background into one that seeks quickly, which is used once it is ready.
"""

from __future__ import annotations

import contextlib
import logging
import os
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.errors import AvrinError
from avrin.project.project import Plate
from avrin.render.values import clock
from avrin.storage.files import inside
from avrin.trace.frames import Trace
from avrin.video.analysis import are_known, film_shades
from avrin.video.fast_copy import MAX_WIDTH_PX, quick_copy
from avrin.video.open_video import open_footage
from avrin.video.timing import film_second

if TYPE_CHECKING:
    from avrin.video.film import Footage, Still

__all__ = ["VideoDecoder"]

log = logging.getLogger(__name__)
ROOM = 192 * 2**20  # bytes of cached frames
AHEAD = 4  # frames decoded ahead during playback
PAUSE = 0.02  # seconds between two checks for the end of playback
MAX_OPEN = 2  # open decoders: each owns a file and a few threads


class _Key(Struct, frozen=True):
    """A film's identity: its file, and a stamp of its content."""

    path: Path
    rate: float
    mark: tuple[int, int]


class VideoDecoder(QObject):
    """failed: a film cannot be shown, with a message.

    looked_through: the analysis of a film is complete.
    """

    _shown = Signal()
    looked_through = Signal()
    failed = Signal(str)

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self._lock = threading.Condition()
        self._wishes: dict[_Key, float] = {}
        self._known: OrderedDict[tuple[_Key, float], tuple[float, QImage]] = (
            OrderedDict()
        )  # by second; until when; the image
        self._latest: dict[_Key, QImage] = {}
        self._refused: dict[_Key, str] = {}
        self._quick: dict[_Key, Path] = {}
        self._paces: dict[_Key, tuple[float, float]] = {}
        self._bytes = 0
        self._closed = False
        self._working = self._at_work = False
        self._generation = 0  # counts projects: films of earlier ones are closed
        self._copying: set[_Key] = set()
        self.failed.connect(self._report)
        self._shown.connect(self._show_more)  # on the interface thread
        editor.follow("films", self)
        editor.closing.connect(self._close)

    @property
    def busy(self) -> bool:
        """Whether a requested frame is pending."""
        with self._lock:
            return bool(self._wishes) or self._at_work

    def picture(self, plate: Plate, trace: Trace, frame: int) -> QImage | None:
        """Return the frame of a plate's film at a frame of a recording, or the nearest one available.

        None if there is none yet, or none can be decoded (`refusal`).
        """
        key = self._key(plate)
        if key is None:
            return None
        axis = trace.axis
        second = (
            film_second(self._editor.now.project, plate, trace.name, float(axis[frame]) if len(axis) else 0.0) or 0.0
        )
        second = max(0.0, second)
        with self._lock:
            known = self._at(key, second)
            if known is not None:
                return known
            if key not in self._refused:
                self._wishes[key] = second
                if not self._working:
                    self._working = True
                    threading.Thread(target=self._work, name="films", daemon=True).start()
                self._lock.notify()
            return self._latest.get(key)

    def refusal(self, plate: Plate) -> str:
        """Return why a plate's film cannot be shown; "" if it can or that is unknown."""
        key = self._key(plate)
        if key is None:
            return f"there is no {plate.film}"
        with self._lock:
            return self._refused.get(key, "")

    def pace(self, plate: Plate) -> tuple[float, float]:
        """Return a film's frames per second and its duration; 0 if unknown."""
        key = self._key(plate)
        with self._lock:
            return self._paces.get(key, (0.0, 0.0)) if key is not None else (0.0, 0.0)

    def is_quick(self, plate: Plate) -> bool:
        """Return whether a film seeks quickly, by itself or by a copy."""
        key = self._key(plate)
        with self._lock:
            return key in self._quick

    def shown_second(self, plate: Plate) -> float | None:
        """Return the film time of the frame found last, or None."""
        key = self._key(plate)
        with self._lock:
            latest = self._latest.get(key) if key is not None else None
            return next((known[1] for known, (_, image) in self._known.items() if image is latest), None)

    def stands_still(self, plate: Plate, trace: Trace, frame: int) -> str:
        """Return why a plate's film does not run at a frame of a recording; "" if it does or that is unknown."""
        (_, runs), project = self.pace(plate), self._editor.now.project
        seconds = float(trace.axis[frame]) if len(trace) else 0.0
        second = film_second(project, plate, trace.name, seconds)
        if second is None:
            return f"the film is of {project.recording_name(plate.trace)}"
        if not runs or 0 <= second <= runs:
            return ""
        begins = seconds - second
        return f"the film runs from {clock(begins, hundredths=False)} to {clock(begins + runs, hundredths=False)}"

    def wait(self) -> None:
        """Wait until all requested frames are available."""
        while self.busy:
            time.sleep(0.002)

    def _key(self, plate: Plate) -> _Key | None:
        try:
            path = inside(self._editor.now.bound.folder, plate.film)
            told = path.parent.stat() if "#" in path.name else path.stat()
        except (AvrinError, OSError):
            return None
        return _Key(path, plate.rate, (told.st_size, told.st_mtime_ns))

    def _at(self, key: _Key, second: float) -> QImage | None:
        """Return a cached frame for a time."""
        for known, (until, image) in self._known.items():
            if known[0] == key and known[1] <= second + 1e-5 and second < until - 1e-7:
                self._known.move_to_end(known)
                self._latest[key] = image
                return image
        return None

    def _show_more(self) -> None:
        self._editor.announce("film")

    def _report(self, why: str) -> None:
        self._editor.say(why, error=True)

    def on_change(self, _change: Change) -> None:
        """Drop the previous project's frames, close its decoders, cancel its copies."""
        with self._lock:
            self._generation += 1
            self._wishes.clear()
            self._known.clear()
            self._latest.clear()
            self._refused.clear()
            self._quick.clear()
            self._paces.clear()
            self._copying.clear()
            self._bytes = 0
            self._lock.notify()

    def _close(self) -> None:
        with self._lock:
            self._closed = True
            self._lock.notify()

    # -- on the worker thread -----------------------------------------------------------------------------------------

    def _work(self) -> None:
        films: OrderedDict[_Key, tuple[Path, Footage]] = OrderedDict()
        try:
            while (wish := self._next_wish(films)) is not None:
                self._serve(films, *wish)
        finally:
            _close_all(films)

    def _next_wish(self, films: OrderedDict[_Key, tuple[Path, Footage]]) -> tuple[_Key, float, int] | None:
        """Return the film, time and generation to decode next; None after closing. Closes films of earlier projects."""
        with self._lock:
            self._at_work = False
            generation = self._generation
            while not self._wishes and not self._closed:
                self._lock.wait()
                if self._generation != generation and films:
                    _close_all(films)
            if self._closed:
                return None
            if self._generation != generation:
                _close_all(films)
            key, second = self._wishes.popitem()
            self._at_work = True
            return key, second, self._generation

    def _serve(self, films: OrderedDict[_Key, tuple[Path, Footage]], key: _Key, second: float, generation: int) -> None:
        try:
            self._fulfil(self._opened(films, key, generation), key, second, generation)
        except AvrinError as error:
            log.warning("%s: %s", key.path.name, error.problem)
            self._refuse(key, error.problem, str(error.within("the plate's film")), generation)
        except Exception:
            log.exception("an internal error while decoding a film")
            advice = f"the film {key.path.name} cannot be decoded. Save it again, as an .mp4"
            self._refuse(key, "cannot be decoded", advice, generation)

    def _refuse(self, key: _Key, problem: str, line: str, generation: int) -> None:
        with self._lock:
            if generation != self._generation:
                return
            self._refused[key] = problem
        self._tell(line)

    def _opened(self, films: OrderedDict[_Key, tuple[Path, Footage]], key: _Key, generation: int) -> Footage:
        """Open a film, or its fast copy if there is one."""
        with self._lock:
            path = self._quick.get(key, key.path)
        if key not in films or films[key][0] != path:
            if key in films:
                films.pop(key)[1].close()
            films[key] = (path, open_footage(path, key.rate))
        films.move_to_end(key)
        while len(films) > MAX_OPEN:
            films.popitem(last=False)[1][1].close()
        film = films[key][1]
        with self._lock:
            if generation == self._generation:
                self._paces[key] = film.rate, film.seconds
                if key not in self._copying:
                    self._copying.add(key)
                    threading.Thread(
                        target=self._copy, args=(key, generation), name="copy of a film", daemon=True
                    ).start()
        return film

    def _copy(self, key: _Key, generation: int) -> None:
        with contextlib.suppress(OSError):
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), 15)  # of this thread and those it starts

        def wanted() -> bool:
            while self._editor.now.playing and not self._closed and generation == self._generation:
                time.sleep(PAUSE)
            time.sleep(0)
            return not self._closed and generation == self._generation

        try:
            copy = key.path if "#" in key.path.name else quick_copy(key.path, wanted)
        except AvrinError:
            return  # reported by its user
        except Exception:
            log.exception("an internal error while copying a film")
            return
        with self._lock:
            if generation != self._generation:
                return
            self._quick[key] = copy
        self._look_through(copy, key, wanted)

    def _look_through(self, copy: Path, key: _Key, wanted: Callable[[], bool]) -> None:
        """Analyse all frames of a film, for the checks."""

        def breathe() -> None:
            if not wanted():
                raise AvrinError("the analysis was cancelled")

        try:
            if not are_known(key.path, key.rate):
                film_shades(key.path, key.rate, breathe, read=copy)
                with self._lock:  # closing takes it too, so that nothing is emitted while this object is deleted
                    if not self._closed:
                        self.looked_through.emit()
        except AvrinError:
            return

    def _fulfil(self, film: Footage, key: _Key, second: float, generation: int) -> None:
        if not film.reaches(second):
            self._take(key, film.near(second, MAX_WIDTH_PX), generation)
        still = film.at(second, MAX_WIDTH_PX)
        self._take(key, still, generation)
        for _ in range(AHEAD if self._editor.now.playing else 0):
            if self._wishes or not np.isfinite(still.until):
                return
            still = film.at(still.until, MAX_WIDTH_PX)
            self._take(key, still, generation, tell=False)

    def _take(self, key: _Key, still: Still, generation: int, *, tell: bool = True) -> None:
        height, width = still.pixels.shape[:2]
        data = np.ascontiguousarray(still.pixels)
        image = QImage(data.data, width, height, 3 * width, QImage.Format.Format_RGB888)
        image = image.convertToFormat(QImage.Format.Format_RGB32)
        with self._lock:
            if generation != self._generation:
                return
            if tell:
                self._latest[key] = image
            before = self._known.pop((key, still.second), None)
            self._bytes += image.sizeInBytes() - (before[1].sizeInBytes() if before is not None else 0)
            self._known[key, still.second] = (still.until, image)
            while self._bytes > ROOM and len(self._known) > 1:
                _, (_, gone) = self._known.popitem(last=False)
                self._bytes -= gone.sizeInBytes()
        if tell:
            self._tell("")

    def _tell(self, message: str) -> None:
        with self._lock:  # see `_look_through`
            if self._closed:
                return
            if message:
                self.failed.emit(message)
            self._shown.emit()


def _close_all(films: OrderedDict[_Key, tuple[Path, Footage]]) -> None:
    for _, film in films.values():
        film.close()
    films.clear()
