"""Time of a plate's film at a moment of a recording."""

from __future__ import annotations

from avrin.project.project import Plate, Project

__all__ = ["film_second"]


def film_second(project: Project, plate: Plate, trace: str, seconds: float) -> float | None:
    """Return the film's time at some seconds of a recording; None over a recording it does not belong to.

    trace: the recording's key in the project. The result may be negative or beyond the film's end.
    """
    if plate.trace and project.recording_name(plate.trace) != trace:
        return None
    return seconds + plate.offset
