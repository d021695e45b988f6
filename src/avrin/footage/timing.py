"""Which second of its film a plate shows at a moment of a recording."""

from __future__ import annotations

from avrin.model import Plate, Project

__all__ = ["film_second"]


def film_second(project: Project, plate: Plate, trace: str, seconds: float) -> float | None:
    """The film's second at so many seconds from a recording's beginning; None over a recording that it was not made with.

    trace: what the recording is called in the project. The film may begin later or have ended: then it is below 0, or beyond
    its end.
    """
    if plate.trace and project.called(plate.trace) != trace:
        return None
    return seconds + plate.offset
