"""Commands that set values by hand: pins that hold a variable constant, and drives recorded as a new trace."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from avrin.binding.live import Live
from avrin.binding.tracks import Tracks
from avrin.editor.edits import edit
from avrin.editor.evaluation import bound_over, with_tracks
from avrin.editor.opening import held, over, set_trace_name
from avrin.editor.playback import set_playing
from avrin.editor.snapshot import Drive, Snapshot
from avrin.project.project import Recording
from avrin.trace.frames import Trace, Value

__all__ = ["advance_drive", "drive_saved", "pin", "press_action", "restart_drive", "start_drive", "stop_drive", "unpin"]

MOST_FRAMES = 60  # caught up at once after the window was blocked


def pin(now: Snapshot, name: str, value: Value) -> Snapshot:
    """Pin a variable to a value over the whole trace. A derived value cannot be pinned."""
    if now.is_derived(name):
        return now.said(f"{name} is computed by its rule: pin its variables instead", error=True)
    if name in now.pins and now.pins[name] == value:
        return now
    return _hold(now, {**now.pins, name: value}, frozenset({name}))


def unpin(now: Snapshot, *names: str) -> Snapshot:
    """Unpin variables; all of them if none is named."""
    gone = frozenset(names or now.pins) & frozenset(now.pins)
    kept = {name: value for name, value in now.pins.items() if name not in gone}
    return _hold(now, kept, gone) if gone else now


def _hold(now: Snapshot, pins: Mapping[str, Value], moved: frozenset[str]) -> Snapshot:
    """moved: those whose values change."""
    trace, bound = held(now, now.recorded, pins), bound_over(now, now.recorded)
    return with_tracks(now, bound, Tracks(bound, trace, now.tracks, moved=moved), pins=dict(pins), trace=trace)


def start_drive(now: Snapshot) -> Snapshot:
    """Start driving at the playhead, with the clock running and without pins. At the end of a drive, continue it."""
    if now.live is not None:
        return now
    now = set_playing(now, playing=False)
    drive = now.drive
    if drive is not None and now.trace is drive.live.trace and now.frame == len(now.trace) - 1:
        drive.live.bind(now.bound)
        drive = replace(drive, pending=0.0, running=True)
    else:
        drive = Drive(Live(now.bound, now.trace, now.frame, "by hand"))
    trace = drive.live.trace
    now = over(
        now.replaced(pins={}) if now.pins else now, trace, "", len(trace) - 1, growing=True
    )  # the playhead stays at its end
    return set_playing(now.replaced(drive=drive), playing=True)


def advance_drive(now: Snapshot, seconds: float) -> Snapshot:
    """Advance by some seconds of the clock; the playhead stays at the end."""
    if now.drive is None or not now.drive.running:
        return now
    pending = now.drive.pending + seconds
    frames = int(pending / now.trace.frame_time)
    drive = replace(now.drive, pending=pending - frames * now.trace.frame_time)
    if frames <= 0:
        return replace(now, drive=drive)  # nothing to see yet
    drive.live.go_on(min(frames, MOST_FRAMES))
    return _grown(replace(now, drive=drive), drive.live.trace)


def _grown(now: Snapshot, trace: Trace) -> Snapshot:
    return now.replaced(
        grown=True, recorded=trace, trace=trace, tracks=now.tracks.grown(trace), frame=len(trace) - 1,
    )  # fmt: skip


def press_action(now: Snapshot, label: str) -> Snapshot:
    """Perform one of the project's actions in the drive; it shows with the next frame."""
    if now.live is not None:
        now.live.press(label)
    return now


def restart_drive(now: Snapshot) -> Snapshot:
    """Begin a new run in the drive."""
    if now.live is not None:
        now.live.restart()
    return now


def stop_drive(now: Snapshot) -> Snapshot:
    """Stop driving; the recorded drive stays visible and can be saved."""
    if now.drive is None or not now.drive.running:
        return now
    trace = now.drive.live.trace
    stopped = now.replaced(drive=replace(now.drive, running=False), unkept=True)
    return over(set_playing(stopped, playing=False), trace, "", now.frame)


def drive_saved(now: Snapshot, path: str) -> Snapshot:
    """List the drive, which was saved at a path in the project's folder."""
    traces = (*now.project.traces, Recording(path=path))
    return set_trace_name(edit(now.replaced(unkept=False), replace(now.project, traces=traces), "save the drive"), path)
