"""While playing only what changed is repainted; the picture must be the same as one painted whole."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRect
from PySide6.QtGui import QImage, QRegion
from PySide6.QtWidgets import QWidget

from avrin.app.main import application
from avrin.app.window.window import Window
from avrin.editor.arranging import nudge
from avrin.editor.edits import seal, undo
from avrin.editor.playback import go_to
from avrin.editor.selecting import select, select_widget, select_widgets
from avrin.editor.snapshot import Selection
from window_fixtures import qapp, window  # noqa: F401

ROUNDING = 3  # of 255: translucent colours round otherwise where a shape is cut off


def pixels(image: QImage) -> np.ndarray:
    shown = image.convertToFormat(QImage.Format.Format_RGB32)
    return np.frombuffer(shown.constBits(), np.uint8).reshape(shown.height(), shown.width(), 4)[:, :, :3].copy()


@pytest.mark.parametrize("selected", ["", "hull_bar", "lost"])
def test_what_is_repainted_in_parts_is_as_if_painted_whole(
    window: Window,
    selected: str,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    hud, editor = window.desk.hud, window.editor
    editor.do(select_widget, selected) if selected else editor.do(select, Selection())
    editor.do(go_to, 9050)
    application().processEvents()
    parts: list[QRegion] = []

    def noted(region: QRegion | None = None) -> None:
        parts.append(QRegion(hud.rect()) if region is None else region)

    shown = QImage(hud.size(), QImage.Format.Format_RGB32)
    hud.render(shown)
    monkeypatch.setattr(hud, "update", noted)
    small = 0
    for frame in (9051, 9052, 9060, 9100, 9101, 9119, 9120, 9121, 9200, 9240, 9241, 9300, 7000, 7001, 7002, 7003):
        parts.clear()
        editor.do(go_to, frame)
        for part in parts:
            small += part.boundingRect() != QRect(hud.rect())
            hud.render(shown, QPoint() if part.isEmpty() else part.boundingRect().topLeft(), part)
        whole = QImage(hud.size(), QImage.Format.Format_RGB32)
        QWidget.render(hud, whole)
        far = np.abs(pixels(shown).astype(int) - pixels(whole)).max(axis=2)
        assert far.max() <= ROUNDING, frame
    assert small  # else nothing was tried


@pytest.mark.parametrize(
    "chosen", [("hull_bar",), ("scrap", "tide"), ("lost",), ("bell", "vitals", "crew_table"), ("log",)]
)
def test_what_is_moved_is_repainted_in_parts_as_if_painted_whole(
    window: Window, chosen: tuple[str, ...], monkeypatch: pytest.MonkeyPatch
) -> None:
    hud, editor = window.desk.hud, window.editor
    editor.do(select_widgets, *chosen)
    editor.do(go_to, 7080)
    window.workspace.extents.wait()
    application().processEvents()
    parts: list[QRegion] = []
    shown = QImage(hud.size(), QImage.Format.Format_RGB32)
    hud.render(shown)
    monkeypatch.setattr(
        hud, "update", lambda region=None: parts.append(QRegion(hud.rect()) if region is None else region)
    )
    steps = [(3, 0), (0, -9), (200, 120), (-350, 40), (1, 1)]
    small = 0
    for number, (dx, dy) in enumerate((*steps, *[(0, 0)] * len(steps))):
        parts.clear()
        if number < len(steps):
            editor.do(seal)
            editor.do(nudge, dx, dy)
            editor.do(seal)
        else:
            editor.do(undo)
        for part in parts:
            small += part.boundingRect() != QRect(hud.rect())
            hud.render(shown, part.boundingRect().topLeft(), part)
        whole = QImage(hud.size(), QImage.Format.Format_RGB32)
        QWidget.render(hud, whole)
        far = np.abs(pixels(shown).astype(int) - pixels(whole)).max(axis=2)
        assert far.max() <= ROUNDING, number
    assert small
