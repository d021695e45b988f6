"""Add pictures and films as plates: copied into the project's folder, large ones in the background."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from avrin.app.session.jobs import Started
from avrin.app.session.journaling import OWN_SIZE, Ask
from avrin.edits.scenery import film_added, plate_added, screen_added
from avrin.model.assets import FILM, take_in
from avrin.model.errors import AvrinError
from avrin.model.project import USUAL_SCREEN, Plate
from avrin.render.plates import plate_size
from avrin.video.numbered import take_in_numbered
from avrin.video.open_video import open_footage

if TYPE_CHECKING:
    from avrin.app.session.session import Session

__all__ = ["add_plates"]

MAX_SCREEN_PX = 16_384  # of a screen's side
AT_ONCE = 16_000_000  # bytes copied synchronously


def add_plates(session: Session, files: Sequence[Path], *, as_film: bool = False) -> None:
    """Add files as plates and show the last one; one undo step. as_film: they are numbered pictures of one film.

    An unusable file is reported, and then nothing has changed.
    """
    if session.path is None:
        session.reported.emit("Save the project first: pictures are copied into its folder", True)
        return
    folder = session.folder
    try:
        size = sum(file.stat().st_size for file in files if file.exists())
        if size <= AT_ONCE:
            _show(session, _copied(files, folder, as_film))
            return
    except AvrinError as error:
        session.reported.emit(str(error), True)
        return
    title = f"Copying {files[0].name}" if len(files) == 1 else f"Copying {len(files)} files"

    def copy(started: Started) -> list[tuple[str, bool]]:
        done = 0

        def report_progress(more: int) -> None:
            nonlocal done
            started.breathe()
            done += more
            session.files.progressed.emit(f"{title}, {done / size:.0%} of {size / 1e6:,.0f} MB …  Esc stops it")

        return _copied(files, folder, as_film, report_progress)

    session.reported.emit(f"{title}, {size / 1e6:,.0f} MB …  Esc stops it", False)
    session.files.jobs.submit(copy, lambda names, _: _show(session, names))


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


def _show(session: Session, names: Sequence[tuple[str, bool]]) -> None:
    project = session.project
    for name, is_film in names:
        project, _ = film_added(project, name, session.trace_name) if is_film else plate_added(project, name)
    first = not session.project.plates
    session.seal()
    session.edit(project, f"plate {project.plates[-1].name}")
    session.show_over(project.plates[-1])
    if first:
        _offer_screen(session, project.plates[-1])


def _offer_screen(session: Session, plate: Plate) -> None:
    """Offer to add the first plate's size as a screen, if the project has none of that size."""
    size = plate_size(plate, session.folder)
    known = {screen.size for screen in session.project.whole_screens or (USUAL_SCREEN,)}
    if size is None or max(size) > MAX_SCREEN_PX or (width := round(size[0]), height := round(size[1])) in known:
        return

    def add() -> None:
        session.files.journaling.answered.emit(OWN_SIZE)
        if plate.name not in {one.name for one in session.project.plates}:
            return  # it was undone
        made, _ = screen_added(session.project, plate.name, (width, height))
        session.seal()
        session.edit(made, f"screen {plate.name}")
        session.show_on(session.project.whole_screens[-1])

    text = f"{plate.name} is {width} × {height}, and no screen of the project has that size"
    choices = (("add it as a screen", add), ("dismiss", lambda: session.files.journaling.answered.emit(OWN_SIZE)))
    session.files.journaling.asked.emit(Ask(OWN_SIZE, text, choices))
