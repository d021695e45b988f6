"""A cached picture of the window, shown while the project loads.

Loading takes about three times as long as showing the picture. Imports nothing slow. The picture is a raw image in the
user's cache, keyed by everything that affects what the window will show.
"""

from __future__ import annotations

import hashlib
import time
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QSettings
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QWidget

from avrin import __version__
from avrin.app.painting.picture_cache import keep_picture, kept_picture
from avrin.storage.cache import cache_evict
from avrin.storage.drafts import drafts
from avrin.storage.folders import cache_folder
from avrin.storage.journal import are_left
from avrin.storage.recent import recent_projects, thumbnail_file

__all__ = ["DESKTOP", "save_first_page_picture", "save_start_picture", "start_picture"]

DESKTOP = "desktop"  # property of the application: the window colour of the desktop, before the theme is applied
MAX_FILES = 8  # the newest: each is an uncompressed image of the window's size


def start_picture(project: Path | None, window: QWidget) -> QPixmap | None:
    """Return the picture of a project just opened in a window of this size; None without a current one.

    project: None for the first page.
    """
    image = kept_picture(_file(project, window))
    if image is None:
        return None
    picture = QPixmap.fromImage(image)
    picture.setDevicePixelRatio(window.devicePixelRatioF())
    return picture


def save_start_picture(project: Path | None, window: QWidget, picture: QImage) -> None:
    """Cache the picture of a project just opened, or of the first page."""
    path = _file(project, window)
    keep_picture(path, picture)
    cache_evict(path.parent, f"{_picture_name(project)}-*", max_files=1, spare=path)
    cache_evict(path.parent, max_files=MAX_FILES, spare=path)


def save_first_page_picture(window: QWidget) -> None:
    """Cache a picture of the first page as the next start will show it in a window of this size."""
    from avrin.app.window.first_page import FirstPage  # late: 15 ms

    page = FirstPage()
    page.resize(window.size())
    save_start_picture(None, window, page.grab().toImage())


def _file(project: Path | None, window: QWidget) -> Path:
    stamp = _stamp(window, _first_page_state() if project is None else _project_state(project))
    return cache_folder() / "opening" / f"{_picture_name(project)}-{stamp}.picture"


def _picture_name(project: Path | None) -> str:
    if project is None:
        return "first"
    return hashlib.blake2b(str(project.resolve()).encode(), digest_size=12).hexdigest()


def _stamp(window: QWidget, content: list[object]) -> str:
    """Return a key of everything that affects the window: content, sizes, colours, version."""
    parts = [__version__, window.width(), window.height(), window.devicePixelRatioF()]
    app = QCoreApplication.instance()
    parts.append(None if app is None else app.property(DESKTOP))
    return hashlib.blake2b(repr([*parts, *content]).encode(), digest_size=12).hexdigest()


def _project_state(project: Path) -> list[object]:
    """Return the project, its unsaved edits, and the splitter positions."""
    told: list[object] = [_touched(project), bool(are_left([project]))]
    settings = QSettings()
    return told + [bytes(settings.value(key)) for key in sorted(settings.allKeys()) if key.startswith("bind/")]


def _first_page_state() -> list[object]:
    """Return the projects on the first page, their thumbnails, and the date, which their ages depend on."""
    shown = [*drafts(), *recent_projects()]
    return [int(time.time() // 86400), *((str(path), _touched(path), _touched(thumbnail_file(path))) for path in shown)]


def _touched(path: Path) -> tuple[int, int] | None:
    known = path.stat() if path.exists() else None
    return (known.st_mtime_ns, known.st_size) if known else None
