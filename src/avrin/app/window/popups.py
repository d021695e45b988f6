"""The window's popups, each created on first use, because most sessions need few of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:
    from avrin.app.bind_desk.picture.hud_view import HudView
    from avrin.app.services.workspace import Workspace
    from avrin.app.window.command_finder import CommandFinder
    from avrin.app.window.commands import Action
    from avrin.app.window.comments_edit import CommentsEdit
    from avrin.app.window.history_strip import HistoryPopup
    from avrin.app.window.options_edit import OptionsEdit
    from avrin.app.window.project_edit import ProjectEdit
    from avrin.app.window.recording_edit import TraceEdit
    from avrin.app.window.scenery_edit import PlateEdit, ScreenEdit

__all__ = ["WindowPopups"]


class WindowPopups:
    """Editors of what has no place on a desk, the visual history, and the command palette."""

    def __init__(
        self,
        parent: QWidget,
        workspace: Workspace,
        hud: HudView,
        actions: Sequence[Action],
        compare: Callable[[int], object],
    ) -> None:
        """compare: compares with a step of the history, by index."""
        self._parent = parent
        self._workspace = workspace
        self._editor = workspace.editor
        self._hud = hud
        self._actions = actions
        self._compare = compare

    @cached_property
    def project(self) -> ProjectEdit:
        """The editor of the project's settings."""
        from avrin.app.window.project_edit import ProjectEdit  # late: 2 ms

        return ProjectEdit(self._editor, self._parent)

    @cached_property
    def plate(self) -> PlateEdit:
        """The editor of the visible plate."""
        from avrin.app.window.scenery_edit import PlateEdit  # late: 4 ms

        return PlateEdit(self._editor, self._workspace.files, self._workspace.video, self._hud, self._parent)

    @cached_property
    def screen(self) -> ScreenEdit:
        """The editor of the visible screen."""
        from avrin.app.window.scenery_edit import ScreenEdit  # late: 4 ms

        return ScreenEdit(self._editor, self._parent)

    @cached_property
    def options(self) -> OptionsEdit:
        """The editor of the player's options."""
        from avrin.app.window.options_edit import OptionsEdit  # late: 2 ms

        return OptionsEdit(self._editor, self._parent)

    @cached_property
    def comments(self) -> CommentsEdit:
        """The list of comments."""
        from avrin.app.window.comments_edit import CommentsEdit  # late: 3 ms

        return CommentsEdit(self._editor, self._workspace.traces, self._parent)

    @cached_property
    def recording(self) -> TraceEdit:
        """The editor of the visible recording's entry."""
        from avrin.app.window.recording_edit import TraceEdit  # late: 1 ms

        return TraceEdit(self._editor, self._workspace.traces, self._parent)

    @cached_property
    def history(self) -> HistoryPopup:
        """The visual history."""
        from avrin.app.window.history_strip import HistoryPopup  # late: 1 ms

        popup = HistoryPopup(self._editor, self._parent)
        popup.compared.connect(self._compare)
        return popup

    @cached_property
    def finder(self) -> CommandFinder:
        """The command palette."""
        from avrin.app.window.command_finder import CommandFinder  # late: 14 ms

        palette = CommandFinder(self._actions, self._parent)
        palette.exited.connect(self._hud.setFocus)
        return palette
