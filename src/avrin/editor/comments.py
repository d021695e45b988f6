"""Comments on widgets at moments: add, resolve, remove, and where each belongs in the visible recording."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.editor.edits import edit, seal
from avrin.editor.playback import go_to
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.project.project import Comment, Project
from avrin.render.values import clock

__all__ = [
    "about", "comment", "comment_frame", "comment_frames", "comment_here", "comment_place", "remove_comment",
    "resolve_comment", "visit_comment",
]  # fmt: skip

MAX_LETTERS = 2000  # letters of a comment


def comment(now: Snapshot, text: str, author: str, date: str) -> Snapshot:
    """Add a comment on the selected widget at the playhead, in order of date and author. Raises AvrinError without a text."""
    plain = text.strip()
    if not plain or len(plain) > MAX_LETTERS:
        raise AvrinError(
            f"a comment has 1 to {MAX_LETTERS:,} letters", advice="Write what should be different, or is good"
        )
    made = replace(comment_here(now), text=plain, author=author, date=date)
    comments = sorted((*now.project.comments, made), key=Comment.order)
    return edit(seal(now), replace(now.project, comments=tuple(comments)), f"comment on {about(now.project, made)}")


def comment_here(now: Snapshot) -> Comment:
    """Return a comment, still without its text, on the selected widget at the playhead."""
    made = Comment(text="…", widget=now.selection.widget, trace=now.trace_name)
    if not len(now.trace):
        return made
    return replace(made, run=int(now.trace.run[now.frame]), t=round(float(now.trace.t[now.frame]), 6))


def resolve_comment(now: Snapshot, number: int, *, resolved: bool = True) -> Snapshot:
    """Mark a comment, by its index, as resolved or open."""
    comments = tuple(
        replace(one, resolved=resolved) if i == number else one for i, one in enumerate(now.project.comments)
    )
    word = "resolve" if resolved else "reopen"
    return edit(
        seal(now),
        replace(now.project, comments=comments),
        f"{word} the comment on {about(now.project, comments[number])}",
    )


def remove_comment(now: Snapshot, number: int) -> Snapshot:
    """Remove a comment, by its index."""
    gone = now.project.comments[number]
    comments = tuple(one for i, one in enumerate(now.project.comments) if i != number)
    return edit(seal(now), replace(now.project, comments=comments), f"remove the comment on {about(now.project, gone)}")


def visit_comment(now: Snapshot, number: int) -> Snapshot:
    """Select a comment's widget, and go to its moment if it belongs to the visible recording."""
    one = now.project.comments[number]
    frame = comment_frame(now, one)
    if frame is not None:
        now = go_to(now, frame)
    return select_widget(now, one.widget) if any(w.id == one.widget for w in now.project.widgets) else now


def comment_frame(now: Snapshot, one: Comment) -> int | None:
    """Return the frame of a comment in the visible recording; None if it belongs to another one or to none of its runs."""
    if one.trace != now.trace_name:
        return None
    run = next(((first, end) for number, first, end in now.trace.runs() if number == one.run), None)
    if run is None:
        return None
    first, end = run
    return min(end - 1, first + int(now.trace.t[first:end].searchsorted(one.t - 1e-6)))


def comment_frames(now: Snapshot) -> list[tuple[int, Comment]]:
    """Return the open comments of the visible recording, each with its frame, in order."""
    found = [(comment_frame(now, one), one) for one in now.project.comments if not one.resolved]
    return sorted(((frame, one) for frame, one in found if frame is not None), key=lambda pair: pair[0])


def about(project: Project, one: Comment) -> str:
    """Return what a comment is about: its widget's title; the id of one that is gone."""
    return next((w.title for w in project.widgets if w.id == one.widget), one.widget or "the HUD")


def comment_place(now: Snapshot, one: Comment) -> str:
    """Describe what a comment is about, and when: `Hull bar at 1:58.00 of leaky-dive`."""
    title = about(now.project, one)
    if one.widget and all(w.id != one.widget for w in now.project.widgets):
        title = f"{title}, which is gone"
    frame = comment_frame(now, one)
    if frame is not None:
        return f"{title} at {clock(float(now.trace.axis[frame]))}"
    return f"{title} at {clock(one.t)} of {now.project.recording_name(one.trace)}" if one.trace else title
