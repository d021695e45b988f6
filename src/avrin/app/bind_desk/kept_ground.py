"""The plate as the HUD picture shows it, kept for the next start.

To read a large picture, or to draw one of many shapes, and to fit it to the window takes as long as all else that is drawn.
"""

from __future__ import annotations

import hashlib
import logging
from pathlib import Path

from PySide6.QtCore import QSize
from PySide6.QtGui import QPixmap

from avrin import __version__
from avrin.app.controls.theme import theme
from avrin.app.painting.kept_picture import keep_picture, kept_picture
from avrin.app.session.session import Session
from avrin.model import AvrinError, cache_folder, inside
from avrin.render import artwork

__all__ = ["ground_file", "keep_ground", "kept_ground"]

log = logging.getLogger(__name__)
MOST = 8  # the newest: each has the size of the HUD picture, as it is not compressed


def ground_file(session: Session, size: QSize, ratio: float) -> Path | None:
    """Where the plate that is shown is kept, by all that decides what is drawn; None where it is not: a film, or nothing.

    Asked before it is drawn: a picture that is painted over meanwhile is another one.
    """
    try:
        picture = _picture(session)
        return _file(session, picture, size, ratio) if picture is not None else None
    except (AvrinError, OSError):
        return None


def kept_ground(path: Path, ratio: float) -> QPixmap | None:
    """The plate that was kept in a file, `ratio` pixels of the display a pixel of the window; None where it was not."""
    image = kept_picture(path)
    if image is None:
        return None
    ground = QPixmap.fromImage(image)
    ground.setDevicePixelRatio(ratio)
    return ground


def keep_ground(session: Session, path: Path, ground: QPixmap) -> None:
    """Keep the plate that is shown, as it was drawn for that file. What cannot be read is not kept."""
    try:
        picture = _picture(session)
        if picture is None or artwork(str(picture)) is None or kept_picture(path) is not None:
            return
        older = sorted(path.parent.glob("*.picture"), key=lambda one: one.stat().st_mtime, reverse=True)
        for old in older[MOST - 1 :]:
            old.unlink(missing_ok=True)
    except (AvrinError, OSError) as error:
        log.warning("the plate was not kept: %s", error)
        return
    keep_picture(path, ground.toImage())


def _picture(session: Session) -> Path | None:
    plate = session.plate
    return inside(session.folder, plate.picture) if plate is not None and plate.picture and not plate.film else None


def _file(session: Session, picture: Path, size: QSize, ratio: float) -> Path:
    """Raises OSError where the picture cannot be looked at."""
    told = picture.stat()
    parts = [__version__, str(picture.resolve()), told.st_mtime_ns, told.st_size, size.width(), size.height()]
    parts += [ratio, theme().dark, session.screen, session.project.reference, session.project.fit, session.plate]
    named = hashlib.blake2b(repr(parts).encode(), digest_size=16).hexdigest()
    return cache_folder() / "plates" / f"{named}.picture"
