"""Choose colours of widgets and bands in a popup with live preview in the picture."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from avrin.app.bind_desk.card.colour_wish import ColourWish
from avrin.app.bind_desk.picture.hud_view import HudView
from avrin.app.controls.colour_chooser import ColourChooser
from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.editor.edits import seal, set_widget
from avrin.edits.colours import colours_of

__all__ = ["Colouring"]


class Colouring:
    """One popup for the desk. Dragging through shades is one undo step."""

    def __init__(self, editor: Editor, hud: HudView, parent: QWidget) -> None:
        self.editor = editor
        self.hud = hud
        self.wish: ColourWish | None = None
        self.chooser = ColourChooser(parent)
        self.chooser.chosen.connect(self._chosen)
        self.chooser.dropper_wanted.connect(self._drop)
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Close with another selection."""
        if change.of("selection"):
            self.chooser.hide()

    def open_for(self, wish: ColourWish) -> None:
        """Open the chooser."""
        self.wish = wish
        self.editor.do(seal)
        self.chooser.open_for(
            wish.at, wish.colour, colours_of(self.editor.now.project), self.hud.behind(wish.ident),
            name=wish.what,
        )  # fmt: skip

    def _chosen(self, colour: str, done: bool) -> None:
        wish, editor = self.wish, self.editor
        if wish is None or all(widget.id != wish.ident for widget in editor.now.project.widgets):
            return
        widget = editor.now.project.widget(wish.ident)
        editor.do(
            set_widget,
            wish.recoloured(widget, colour),
            f"{wish.what} of {widget.title}",
            f"colour {wish.ident} {wish.what}",
        )
        if done:
            editor.do(seal)

    def _drop(self) -> None:
        """Take the colour of the next press in the picture."""

        def taken(colour: str) -> None:
            self.chooser.show_colour(colour)
            self._chosen(colour, True)
            self.chooser.show()

        self.chooser.hide()
        self.hud.take_colour(taken)
        self.editor.say("Press the colour in the picture.  Esc cancels")
