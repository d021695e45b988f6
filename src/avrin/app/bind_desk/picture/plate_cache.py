"""A disk cache of the plate as shown in the HUD picture.

Loading a large picture, or rendering one of many shapes, and scaling it takes as long as everything else at the start.
"""

from __future__ import annotations

import hashlib
import logging
from pathlib import Path

from PySide6.QtCore import QSize
from PySide6.QtGui import QPixmap

from avrin import __version__
from avrin.app.controls.theme import theme
from avrin.app.painting.picture_cache import keep_picture, kept_picture
from avrin.app.services.editor import Editor
from avrin.errors import AvrinError
from avrin.render.artwork import artwork
from avrin.storage.cache import cache_evict
from avrin.storage.files import inside
from avrin.storage.folders import cache_folder

__all__ = ["ground_file", "keep_ground", "kept_ground"]

log = logging.getLogger(__name__)
MAX_FILES = 8  # the newest: each is an uncompressed image the size of the HUD picture


def ground_file(editor: Editor, size: QSize, ratio: float) -> Path | None:
    """Return the cache path of the visible plate, by everything that affects it; None for a film or no plate.

    Computed before drawing, so that a file changed meanwhile gets another path.
    """
    try:
        picture = _picture(editor)
        return _file(editor, picture, size, ratio) if picture is not None else None
    except (AvrinError, OSError):
        return None


def kept_ground(path: Path, ratio: float) -> QPixmap | None:
    """Load a cached plate, `ratio` device pixels per window pixel, or return None."""
    image = kept_picture(path)
    if image is None:
        return None
    ground = QPixmap.fromImage(image)
    ground.setDevicePixelRatio(ratio)
    return ground


def keep_ground(editor: Editor, path: Path, ground: QPixmap) -> None:
    """Cache the visible plate under a path. An unreadable picture is not cached."""
    try:
        picture = _picture(editor)
        if picture is None or artwork(str(picture)) is None or kept_picture(path) is not None:
            return
    except (AvrinError, OSError) as error:
        log.warning("the plate was not kept: %s", error)
        return
    keep_picture(path, ground.toImage())
    cache_evict(path.parent, max_files=MAX_FILES, spare=path)


def _picture(editor: Editor) -> Path | None:
    plate = editor.now.plate
    return inside(editor.now.folder, plate.picture) if plate is not None and plate.picture and not plate.film else None


def _file(editor: Editor, picture: Path, size: QSize, ratio: float) -> Path:
    """Return the cache path. Raises OSError if the picture cannot be accessed."""
    told = picture.stat()
    parts = [__version__, str(picture.resolve()), told.st_mtime_ns, told.st_size, size.width(), size.height()]
    parts += [
        ratio,
        theme().dark,
        editor.now.view.screen,
        editor.now.project.reference,
        editor.now.project.fit,
        editor.now.plate,
    ]
    named = hashlib.blake2b(repr(parts).encode(), digest_size=16).hexdigest()
    return cache_folder() / "plates" / f"{named}.picture"
