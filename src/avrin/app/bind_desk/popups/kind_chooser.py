"""A bar of the kinds that suit a dropped variable."""

from __future__ import annotations

from PySide6.QtCore import QPoint
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from avrin.app.bind_desk.binding_drag import BindingDrag
from avrin.app.bind_desk.picture.hud_view import HudView
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import paint_frame
from avrin.app.controls.theme import theme
from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.kinds.registry import KINDS
from avrin.project.project import Widget
from avrin.render.scene import widget_rect

__all__ = ["KindChooser"]


class KindChooser(QFrame):
    """After a drop: the kinds that suit the variable, to switch with one press."""

    def __init__(self, editor: Editor, hud: HudView, drag: BindingDrag, parent: QWidget) -> None:
        super().__init__(parent)
        self._editor = editor
        self._hud = hud
        self._desk = parent
        self._drag = drag
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(10, 3, 6, 3)
        self._row.setSpacing(0)
        self.links: list[Link] = []
        self.hide()
        drag.offered.connect(self._show)
        editor.follow("popups", self)
        self._for = ""

    def on_change(self, change: Change) -> None:
        """Close with another selection."""
        if change.of("selection") and self._editor.now.selection.widget != self._for:
            self.hide()

    def _show(self, offered: list[Widget], chosen: int) -> None:
        while self._row.count():
            item = self._row.takeAt(0)
            if item is not None and (part := item.widget()) is not None:
                part.deleteLater()
        self._row.addWidget(text_label("show as", size="small"))
        self.links = []
        for i, widget in enumerate(offered):
            link = Link(widget.kind, lambda i=i: self._drag.take(offered, i), bold=i == chosen)  # type: ignore[misc]
            link.setToolTip(KINDS[widget.kind].help)
            self.links.append(link)
            self._row.addWidget(link)
        self._for = offered[chosen].id
        self.adjustSize()
        self._place(offered[chosen])
        self.setVisible(len(offered) > 1)
        self.raise_()

    def _place(self, widget: Widget) -> None:
        """Move below the widget's tag, inside the picture."""
        now, hud = self._editor.now, self._hud
        rect = hud.to_view(widget_rect(now.project, widget, now.view.screen))
        origin = hud.mapTo(self._desk, QPoint(0, 0))
        area = hud.seen_rect()
        below = rect.bottom() + 32 if rect.bottom() + 66 < area.bottom() else rect.top() - 62
        x = min(max(rect.x(), 4.0), area.right() - self.width() - 4)
        self.move(origin + QPoint(round(x), round(below)))

    def paintEvent(self, _event: QPaintEvent) -> None:
        paint_frame(self, theme().raised, 5)
