"""Films behind the HUD that never run during a recording: their recording was removed, or the offset is wrong."""

from __future__ import annotations

from collections.abc import Iterator

from avrin.errors import AvrinError
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding
from avrin.render.values import clock
from avrin.storage.files import inside
from avrin.video.stills import footage_seconds
from avrin.video.timing import film_second

__all__ = ["CHECKS"]


def _out_of_step(case: Case) -> Iterator[Finding]:
    for plate in case.project.plates:
        if not plate.film:
            continue
        if plate.trace and case.project.recording(plate.trace) is None:
            yield Finding(
                "", f"{plate.name} has no recording", f"The film of {plate.name} was made with {plate.trace},"
                " which the project does not list", "Choose the recording it was made with", about=plate.trace,
                plate=plate.name,
            )  # fmt: skip
            continue
        try:
            seconds = footage_seconds(inside(case.bound.folder, plate.film), plate.rate)
        except AvrinError:
            continue  # reported as missing
        for tracks in case.tracks:
            begins = film_second(case.project, plate, tracks.trace.name, 0.0)
            if begins is None or (begins < seconds and begins + tracks.trace.length > 0):
                continue
            where = (
                f"from {_time_text(-begins)} to {_time_text(seconds - begins)}"
                if begins < 0
                else "over before the recording begins"
            )
            yield Finding(
                "", f"{plate.name} never runs", f"The film of {plate.name} runs {where}, and {tracks.trace.name} lasts"
                f" {_time_text(tracks.trace.length)}: none of it is visible", "Drag it into the recording",
                about=plate.film, trace=tracks.trace.name, plate=plate.name,
            )  # fmt: skip


def _time_text(seconds: float) -> str:
    return clock(seconds, hundredths=False)


CHECKS = (
    Check("film-out-of-step", "warning", "A plate's film never runs while its recording does.", project=_out_of_step),
)  # fmt: skip
