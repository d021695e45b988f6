"""Add pictures and films as plates: copied into the project's folder, large ones in the background."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from avrin.app.services.files import Files
from avrin.app.services.jobs import Started
from avrin.app.services.journaling import OWN_SIZE, Ask
from avrin.editor.edits import edit, seal
from avrin.editor.viewing import show_on, show_over
from avrin.edits.scenery import film_added, plate_added, screen_added
from avrin.errors import AvrinError
from avrin.project.project import USUAL_SCREEN, Plate
from avrin.render.plates import plate_size
from avrin.storage.assets import FILM, PICTURE, take_in
from avrin.video.numbered import numbered_name, take_in_numbered
from avrin.video.open_video import open_footage

if TYPE_CHECKING:
    from avrin.app.services.editor import Editor

__all__ = ["add_plates", "dropped_kind"]

MAX_SCREEN_PX = 16_384  # of a screen's side
AT_ONCE = 16_000_000  # bytes copied synchronously


def dropped_kind(paths: Sequence[Path]) -> Literal["films", "numbered", "pictures", "recordings"]:
    """Return what dropped files can become. numbered: pictures of one film in a format that widgets do not have."""
    endings = [path.suffix.lower() for path in paths]
    if not paths:
        return "recordings"
    if all(ending in FILM.ends for ending in endings):
        return "films"
    if all(ending in PICTURE.ends for ending in endings):
        return "pictures"
    if numbered_name(paths) is not None and not set(endings) & set(PICTURE.ends):
        return "numbered"
    return "recordings"


def add_plates(editor: Editor, files: Files, paths: Sequence[Path], *, as_film: bool = False) -> None:
    """Add pictures and films as plates and show the last one; one undo step. as_film: they are numbered pictures of one film.

    An unusable file is reported, and then nothing has changed.
    """
    if editor.now.path is None:
        editor.say("Save the project first: pictures are copied into its folder", error=True)
        return
    folder = editor.now.folder
    try:
        size = sum(file.stat().st_size for file in paths if file.exists())
        if size <= AT_ONCE:
            _show(editor, files, _copied(paths, folder, as_film))
            return
    except AvrinError as error:
        editor.say(str(error), error=True)
        return
    title = f"Copying {paths[0].name}" if len(paths) == 1 else f"Copying {len(paths)} files"

    def copy(started: Started) -> list[tuple[str, bool]]:
        done = 0

        def report_progress(more: int) -> None:
            nonlocal done
            started.breathe()
            done += more
            files.progressed.emit(f"{title}, {done / size:.0%} of {size / 1e6:,.0f} MB …  Esc stops it")

        return _copied(paths, folder, as_film, report_progress)

    editor.say(f"{title}, {size / 1e6:,.0f} MB …  Esc stops it")
    files.jobs.submit(copy, lambda names, _: _show(editor, files, names))


def _copied(
    files: Sequence[Path], folder: Path, as_film: bool, report_progress: Callable[[int], None] = lambda _: None
) -> list[tuple[str, bool]]:
    """Return the copies' names in the project, each with whether it is a film. Raises AvrinError."""
    if as_film:
        return [(take_in_numbered(files, folder, report_progress), True)]
    found = []
    for file in files:
        is_film = file.suffix.lower() in FILM.ends
        if is_film:
            open_footage(file).close()  # before it is copied
        found.append(
            (
                take_in(file, folder, FILM, report_progress)
                if is_film
                else take_in(file, folder, progress=report_progress),
                is_film,
            )
        )
    return found


def _show(editor: Editor, files: Files, names: Sequence[tuple[str, bool]]) -> None:
    project = editor.now.project
    for name, is_film in names:
        project, _ = film_added(project, name, editor.now.trace_name) if is_film else plate_added(project, name)
    first = not editor.now.project.plates
    editor.do(seal)
    editor.do(edit, project, f"plate {project.plates[-1].name}")
    editor.do(show_over, project.plates[-1])
    if first:
        _offer_screen(editor, files, project.plates[-1])


def _offer_screen(editor: Editor, files: Files, plate: Plate) -> None:
    """Offer to add the first plate's size as a screen, if the project has none of that size."""
    size = plate_size(plate, editor.now.folder)
    known = {screen.size for screen in editor.now.project.whole_screens or (USUAL_SCREEN,)}
    if size is None or max(size) > MAX_SCREEN_PX or (width := round(size[0]), height := round(size[1])) in known:
        return

    def add() -> None:
        files.journaling.answered.emit(OWN_SIZE)
        if plate.name not in {one.name for one in editor.now.project.plates}:
            return  # it was undone
        made, _ = screen_added(editor.now.project, plate.name, (width, height))
        editor.do(seal)
        editor.do(edit, made, f"screen {plate.name}")
        editor.do(show_on, editor.now.project.whole_screens[-1])

    text = f"{plate.name} is {width} × {height}, and no screen of the project has that size"
    choices = (("add it as a screen", add), ("dismiss", lambda: files.journaling.answered.emit(OWN_SIZE)))
    files.journaling.asked.emit(Ask(OWN_SIZE, text, choices))
