"""The window's picture while it gets ready: what it showed when the same project had just been opened before.

Getting ready takes about three times as long as a picture takes to load. Loads nothing slow. The picture lies in the
user's cache as the toolkit holds it, stamped with all that decides what the window will show.
"""

from __future__ import annotations

import hashlib
import logging
from pathlib import Path

import msgspec
from PySide6.QtCore import QSettings
from PySide6.QtGui import QGuiApplication, QImage, QPixmap
from PySide6.QtWidgets import QWidget

from avrin import __version__
from avrin.model import cache_folder, rescue_file

__all__ = ["keep_opening", "opening"]

log = logging.getLogger(__name__)
MOST = 8  # pictures, the newest: each has the size of the window, as it is not compressed


class _Picture(msgspec.Struct):
    """A picture as it lies in memory: a quarter of what a PNG takes to be read, and half of what a PPM does."""

    width: int
    height: int
    pixels: bytes  # 4 a pixel

    @property
    def is_whole(self) -> bool:
        return self.width > 0 and self.height > 0 and len(self.pixels) == 4 * self.width * self.height


def opening(project: Path, window: QWidget) -> QPixmap | None:
    """The picture of a project just opened in a window of this size; None when there is none that is still true."""
    try:
        kept = msgspec.msgpack.decode(_file(project, window).read_bytes(), type=_Picture)
    except FileNotFoundError:
        return None
    except (OSError, msgspec.MsgspecError) as error:
        log.warning("the picture of the opened project cannot be used: %s", error)
        return None
    if not kept.is_whole:
        return None
    image = QImage(kept.pixels, kept.width, kept.height, 4 * kept.width, QImage.Format.Format_RGB32)
    picture = QPixmap.fromImage(image.copy())  # of its own: the bytes go with this call
    picture.setDevicePixelRatio(window.devicePixelRatioF())
    return picture


def keep_opening(project: Path, window: QWidget, picture: QImage) -> None:
    """Keep what the window shows of a project that was just opened."""
    path = _file(project, window)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        others = sorted((p for p in path.parent.iterdir() if p != path), key=lambda p: p.stat().st_mtime)
        outdated = [p for p in others if p.name.startswith(_named(project))]
        for old in (*outdated, *[p for p in others if p not in outdated][: -MOST + 1]):
            old.unlink(missing_ok=True)
        begun = path.with_suffix(".begun")
        even = picture.convertToFormat(QImage.Format.Format_RGB32)
        begun.write_bytes(msgspec.msgpack.encode(_Picture(even.width(), even.height(), bytes(even.constBits()))))
        begun.replace(path)
    except OSError as error:
        log.warning("no picture of the opened project was kept: %s", error)


def _file(project: Path, window: QWidget) -> Path:
    return cache_folder() / "opening" / f"{_named(project)}-{_stamp(project, window)}.picture"


def _named(project: Path) -> str:
    return hashlib.blake2b(str(project.resolve()).encode(), digest_size=12).hexdigest()


def _stamp(project: Path, window: QWidget) -> str:
    """Changes whenever the window would open differently: project, unsaved edits, sizes, splits, colours, version."""
    parts: list[object] = [__version__, window.width(), window.height(), window.devicePixelRatioF()]
    parts.append(QGuiApplication.styleHints().colorScheme().name)
    for path in (project, rescue_file(project)):
        known = path.stat() if path.exists() else None
        parts.append((known.st_mtime_ns, known.st_size) if known else None)
    settings = QSettings()
    parts += [bytes(settings.value(key)) for key in sorted(settings.allKeys()) if key.startswith("bind/")]
    return hashlib.blake2b(repr(parts).encode(), digest_size=12).hexdigest()
