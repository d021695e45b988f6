"""Who is notified of a change, in which order, and what is painted anew."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QApplication, QWidget

from avrin.app.main import application
from avrin.app.services import followers
from avrin.app.services.followers import ORDER, Follower
from avrin.app.window.window import Window
from avrin.editor.changes import PARTS, Change
from avrin.editor.edits import seal, set_widget
from avrin.editor.playback import go_to
from window_fixtures import handle_deletions, qapp, window  # noqa: F401


class Painted(QObject):
    """Notes the widgets that are painted."""

    def __init__(self) -> None:
        super().__init__()
        self.seen: list[QObject] = []

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:  # noqa: N802
        if event.type() is QEvent.Type.Paint:
            self.seen.append(watched)
        return False


def names(window: Window) -> dict[int, str]:
    """Return the followers of a window, by identity."""
    named = window.editor._followers._named
    return {id(one): name for name, ones in named.items() for ref in ones if (one := ref()) is not None}


@pytest.fixture
def notified(window: Window, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The names of those who are notified, in order; jobs and popups, of which there are many, once."""
    heard: list[str] = []
    notify = followers._notify

    def note(follower: Follower, change: Change) -> None:
        name = names(window).get(id(follower), "")
        if name and heard[-1:] != [name]:
            heard.append(name)
        notify(follower, change)

    monkeypatch.setattr(followers, "_notify", note)
    return heard


def settle(window: Window) -> None:
    assert window.desk.card
    assert window.desk.footer
    window.workspace.wait()
    window.workspace.checking.wait()
    window.workspace.extents.wait()
    application().processEvents()


def test_another_colour_of_one_widget_notifies_and_repaints_by_name(window: Window, notified: list[str]) -> None:
    settle(window)
    editor, painted = window.editor, Painted()
    hull = editor.now.project.widget("hull_bar")
    del notified[:]
    QApplication.instance().installEventFilter(painted)  # type: ignore[union-attr]
    editor.do(set_widget, replace(hull, look={**hull.look, "fill": "#123456"}), "fill")
    first = [*notified]
    application().processEvents()
    QApplication.instance().removeEventFilter(painted)  # type: ignore[union-attr]
    assert first == [
        "jobs", "recordings", "drafts", "journal", "conflicts", "art", "extent", "findings", "suggestions", "comparison",
        "window", "picture", "header", "ruler", "lanes", "card", "footer", "bind desk", "popups",
        "picture", "card",  # the extent is unknown meanwhile
    ]  # fmt: skip
    known = names(window)
    views = {known[id(one)] for one in painted.seen if id(one) in known}
    views |= {known[id(one.parent())] for one in painted.seen if isinstance(one, QWidget) and id(one.parent()) in known}
    behind = {"window", "bind desk", "ruler"}  # painted with what lies over it
    assert views - behind == {"picture", "lanes", "card", "ladder strip", "header"}


def test_another_frame_notifies_what_shows_it_and_nobody_else(window: Window, notified: list[str]) -> None:
    settle(window)
    del notified[:]
    window.editor.do(go_to, window.editor.now.frame + 1)
    assert notified == ["jobs", "picture", "header", "ruler", "lanes", "card", "ladder strip", "shelf", "popups"]


def test_what_changes_nothing_notifies_nobody(window: Window, notified: list[str]) -> None:
    settle(window)
    del notified[:]
    window.editor.do(go_to, window.editor.now.frame)
    window.editor.do(seal)
    assert notified == []


def test_everything_that_can_change_notifies_somebody() -> None:
    concerned = {part for name, parts in ORDER.items() if name != "jobs" for part in parts}
    assert {*PARTS} - concerned == {"trace", "pins"}, "the tracks over them are others too"


class Broken(QObject):
    """A view with a fault."""

    def on_change(self, _change: Change) -> None:
        raise ValueError("spoilt")


def test_a_view_that_fails_is_reported_and_the_others_are_notified(
    window: Window,
    notified: list[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    settle(window)
    broken, reported = Broken(window), list[BaseException]()
    window.editor.follow("header", broken)
    monkeypatch.setattr("sys.excepthook", lambda _kind, error, _trace: reported.append(error))
    del notified[:]
    window.editor.do(go_to, window.editor.now.frame + 1)
    assert [str(error) for error in reported] == ["spoilt"]
    assert "lanes" in notified
    broken.deleteLater()
    handle_deletions()
    del reported[:]
    window.editor.do(go_to, window.editor.now.frame + 1)
    assert reported == [], "what is deleted is not notified"
