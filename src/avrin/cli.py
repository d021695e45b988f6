"""The command line. Errors go to standard error as one clear line, and the exit status is 2."""

from __future__ import annotations

import argparse
import gc
import json
import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from avrin import __version__
from avrin.checking import add_check
from avrin.laddering import add_ladder
from avrin.model import AvrinError

if TYPE_CHECKING:
    from avrin.model import Plate, Project, Screen
    from avrin.trace import Trace
    from avrin.widgets import Bound, Tracks

__all__ = ["main"]


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command. Returns the exit status: 0 done, 2 could not be done."""
    arguments = _parser().parse_args(argv)
    try:
        return int(arguments.run(arguments))
    except AvrinError as error:
        print(f"avrin: {error}", file=sys.stderr)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())  # the reader has seen enough
        return 0
    except KeyboardInterrupt:
        print("avrin: stopped", file=sys.stderr)
    except Exception as error:
        print(f"avrin: {_kept(error)}", file=sys.stderr)
    return 2


class _Parser(argparse.ArgumentParser):
    """Tells usage errors in one line, as all others."""

    def error(self, message: str) -> Any:
        print(f"avrin: {message}. Run `{self.prog} --help`", file=sys.stderr)
        raise SystemExit(2)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="avrin", description="Bind HUD widgets to gameplay variables and see them over recorded play."
    )
    parser.add_argument("--version", action="version", version=f"avrin {__version__}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", required=True, parser_class=_Parser)

    def command(name: str, run: Callable[[argparse.Namespace], int], help_: str, to: Any = commands) -> Any:
        made = to.add_parser(name, help=help_, description=help_)
        made.set_defaults(run=run)
        return made

    demo = command("demo", _demo, "Open the sample project; without a display, paint its views instead.")
    demo.add_argument("--shots", type=Path, metavar="DIR", help="drive the window and write its views as PNG there")
    demo.add_argument(
        "--troubled", action="store_true", help="the same HUD with many faults, to walk through its findings"
    )
    opened = command("open", _open, "Open a project in the window.")
    opened.add_argument("file", type=Path, metavar="FILE")
    rule = command("eval", _eval, "Evaluate a rule over a trace: columns t and value.")
    rule.add_argument("rule", metavar="RULE")
    _add_trace(rule)
    rule.add_argument("--project", type=Path, metavar="P", help="its declarations and derived values")
    rule.add_argument("--out", type=Path, metavar="F", help=f"a {_TABLES} file; standard output if unsaid")
    track = command("track", _track, "The states of all widgets over a trace.")
    track.add_argument("project", type=Path, metavar="P")
    _add_trace(track)
    track.add_argument("--every", choices=("frame", "change"), default="frame")
    track.add_argument("--out", type=Path, metavar="F", help=f"a {_TABLES} file; standard output if unsaid")
    frame = command("frame", _frame, "A picture of the HUD at a time.")
    frame.add_argument("project", type=Path, metavar="P")
    _add_trace(frame)
    frame.add_argument("--at", metavar="S,S", help="seconds from the trace's beginning; several: one picture each")
    frame.add_argument("--moments", action="store_true", help="a picture of every moment something visible changes")
    frame.add_argument("--screen", metavar="WxH", help="a size in pixels, or a screen's name; the first if unsaid")
    frame.add_argument("--plate", metavar="NAME", help="a plate's name; a plain ground if unsaid")
    frame.add_argument(
        "--out",
        type=Path,
        required=True,
        metavar="F",
        help="a .png or .svg file; of several its name, with each one's time",
    )
    check = command("check", _nothing, "Look for what is wrong; the exit status is 1 where something is.")
    add_check(check, _progress)
    ladder = command("ladder", _nothing, "Every widget just below, at and just above every threshold.")
    add_ladder(ladder, _progress)
    trace = command("trace", _nothing, "Look at recordings.")
    kinds = trace.add_subparsers(metavar="COMMAND", required=True, parser_class=_Parser)
    info = command("info", _trace_info, "What a recording holds.", kinds)
    info.add_argument("file", type=Path, metavar="F")
    _add_clock(info)
    convert = command("convert", _trace_convert, "Write a recording in another format; everything is kept.", kinds)
    convert.add_argument("file", type=Path, metavar="IN")
    convert.add_argument("out", type=Path, metavar="OUT", help=f"a {_TABLES} file")
    convert.add_argument("--project", type=Path, metavar="P", help="its declarations say what columns hold")
    _add_clock(convert)
    make = command("make", _trace_make, "Make a trace from a project's declarations alone.", kinds)
    make.add_argument("project", type=Path, metavar="P")
    make.add_argument("--out", type=Path, required=True, metavar="F", help=f"a {_TABLES} file")
    make.add_argument("--parts", default="ramps,steps,jumps,restart,walks", metavar="A,B", help="those of %(default)s")
    make.add_argument("--seconds", type=float, default=4.0, metavar="S", help="of a ramp (4)")
    make.add_argument("--rate", type=float, default=60.0, metavar="N", help="frames a second (60)")
    make.add_argument("--seed", type=int, default=1, metavar="N", help="of the random walks (1)")
    command("schema", _schema, "Print the JSON Schema of project files.")
    return parser


_TABLES = ".csv, .parquet or .jsonl"


def _add_trace(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--trace", type=Path, required=True, metavar="T", help=f"a recording, {_TABLES}")
    _add_clock(parser)


def _add_clock(parser: argparse.ArgumentParser) -> None:
    """What can be said of a recording's time, where a guess would be wrong."""
    parser.add_argument("--time", default="", metavar="COL", help="the column that tells the time")
    parser.add_argument("--unit", default="", choices=("s", "ms", "us", "frames"), help="what its time is in")
    parser.add_argument("--rate", type=float, default=0.0, metavar="N", help="frames a second, of a time in frames")
    parser.add_argument("--run", dest="runs", default="", metavar="COL", help="the column that tells runs apart")


def _nothing(_arguments: argparse.Namespace) -> int:
    return 2


# -- the window -----------------------------------------------------------------------------------------------------


def _display() -> bool:
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def _demo(arguments: argparse.Namespace) -> int:
    from avrin.demo import install_demo

    if arguments.shots is None and _display():
        return _window(install_demo(troubled=arguments.troubled))
    folder: Path = arguments.shots or Path("avrin-demo")
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from avrin.app.shots import take_shots

    if arguments.shots is None:
        print("There is no display; painting the window's views instead.")
    for path in take_shots(folder):
        print(path)
    return 0


def _open(arguments: argparse.Namespace) -> int:
    from avrin.model import load

    if not _display() and os.environ.get("QT_QPA_PLATFORM") != "offscreen":
        load(arguments.file)
        raise AvrinError("there is no display to open a window on", advice="Use track or frame to look at the project")
    return _window(arguments.file)


def _window(path: Path) -> int:
    gc.disable()  # looking for rubbish among what starting makes would take a tenth of the start
    from avrin.app.main import run

    return run(path)


# -- values ---------------------------------------------------------------------------------------------------------


def _eval(arguments: argparse.Namespace) -> int:
    from avrin.rules import RuleError, Scope, as_column, evaluate
    from avrin.trace import Trace
    from avrin.widgets import bind

    project = _project(arguments.project) if arguments.project else None
    trace = _opened(arguments, project)
    kinds = {name: column.kind for name, column in trace.columns.items()}
    if project is None:
        scope = Scope(kinds, events=trace.event_kinds)
    else:
        scope = bind(project, seen=trace.event_kinds).scope.knowing(kinds)
    try:
        step = scope.rule(arguments.rule)
    except RuleError as error:
        raise error.within("rule") from None
    (values,) = evaluate([step], trace, scope.graph)
    column = as_column(step, values, scope.graph)
    _write(Trace(trace.name, trace.t, trace.run, {"value": column}), arguments.out, runs=False)
    return 0


def _opened(arguments: argparse.Namespace, project: Project | None) -> Trace:
    """The recording of the command line, told the time by as it says, or else as the project does."""
    from avrin.trace import Clock, open_trace

    path: Path = arguments.trace if "trace" in arguments else arguments.file
    clock = Clock(arguments.time, arguments.unit, arguments.rate, arguments.runs)
    if clock == Clock() and project is not None and arguments.project.parent in path.absolute().parents:
        listed = project.recording(path.absolute().relative_to(arguments.project.parent.absolute()).as_posix())
        clock = Clock.of(listed) if listed is not None else clock
    return open_trace(path, project.all_variables() if project else {}, clock)


def _track(arguments: argparse.Namespace) -> int:
    from avrin.handoff import at_changes
    from avrin.widgets import track

    project = _project(arguments.project)
    trace = _opened(arguments, project)
    states = track(_bound(project, arguments.project, trace), trace)
    _write(at_changes(states) if arguments.every == "change" else states, arguments.out)
    return 0


def _write(trace: Trace, out: Path | None, *, runs: bool = True) -> None:
    """A table to a file or to standard output."""
    from avrin.trace import save_trace, write_table

    if out is not None:
        save_trace(trace, out, runs=runs)
        return
    sys.stdout.flush()
    write_table(trace, sys.stdout.buffer, runs=runs)
    sys.stdout.flush()


# -- pictures -------------------------------------------------------------------------------------------------------


def _frame(arguments: argparse.Namespace) -> int:
    from avrin.widgets import Tracks

    project = _project(arguments.project)
    trace = _opened(arguments, project)
    bound = _bound(project, arguments.project, trace)
    screen = _screen(project, arguments.screen)
    plate = _plate(project, arguments.plate)
    tracks = Tracks(bound, trace)
    frames = _frames(arguments, tracks)
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtGui import QGuiApplication

    from avrin.app.export import frame_shapes, save_frame

    application = QGuiApplication.instance() or QGuiApplication([])
    outs = _names(arguments.out, frames, trace)
    for done, (frame, out) in enumerate(zip(frames, outs, strict=True), 1):
        shapes = frame_shapes(tracks, frame, screen, plate, arguments.project.parent)
        save_frame(shapes, screen, out)
        _progress(done, len(frames))
    del application
    return 0


def _frames(arguments: argparse.Namespace, tracks: Tracks) -> list[int]:
    """The frames of the command line's times, or all at which something visible changes."""
    trace = tracks.trace
    if arguments.moments:
        return [int(frame) for frame in tracks.moments()]
    found = []
    for word in str(arguments.at or "").split(","):
        try:
            at = float(word)
        except ValueError:
            raise AvrinError(
                f"--at '{word}' is no number of seconds" if word else "says no time",
                advice="Write --at 12.5, several as --at 1,2.5,9, or --moments",
            ) from None
        if not 0 <= at <= trace.length:
            raise AvrinError(f"--at {at:g} lies outside the recording, which ends at {trace.length:g} s")
        found.append(trace.frame_at(at))
    return found


def _names(out: Path, frames: list[int], trace: Trace) -> list[Path]:
    """A file for each frame: `out` itself for one; for several `out` with each one's time, as its name."""
    if len(frames) == 1:
        return [out]
    return [out.with_name(f"{out.stem}-{trace.axis[frame]:09.3f}{out.suffix}") for frame in frames]


def _progress(done: int, of: int) -> None:
    """A bar on the terminal while many things are made; nothing where nobody looks."""
    if of < 2 or not sys.stderr.isatty():
        return
    wide = 40
    filled = round(wide * done / of)
    end = "\n" if done == of else ""
    print(f"\r{'█' * filled}{'░' * (wide - filled)} {done} of {of}", end=end, file=sys.stderr, flush=True)


def _screen(project: Project, wanted: str | None) -> Screen:
    from avrin.model import Screen, nearest

    if wanted is None:
        width, height = project.reference
        return project.screens[0] if project.screens else Screen(name="reference", size=(width, height))
    named = {screen.name: screen for screen in project.screens}
    if wanted in named:
        return named[wanted]
    parts = wanted.lower().split("x")
    if len(parts) == 2 and all(part.isdecimal() and 16 <= int(part) <= 16_384 for part in parts):
        return Screen(name=wanted, size=(int(parts[0]), int(parts[1])))
    close = nearest(wanted, named)
    raise AvrinError(
        f"--screen '{wanted}' is neither a size nor a screen of the project"
        + (f": did you mean '{close}'?" if close else ""),
        advice="" if close else "Write for example 1920x1080; sides are 16 to 16384 pixels",
    )


def _plate(project: Project, wanted: str | None) -> Plate | None:
    from avrin.model import nearest

    if wanted is None:
        return None
    named = {plate.name: plate for plate in project.plates}
    if wanted not in named:
        close = nearest(wanted, named)
        hint = f"There are {', '.join(named)}" if named else "The project has none"
        raise AvrinError(
            f"there is no plate '{wanted}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else hint,
        )
    return named[wanted]


# -- looking at files -----------------------------------------------------------------------------------------------


def _trace_info(arguments: argparse.Namespace) -> int:
    from avrin.trace import summarise

    trace = _opened(arguments, None)
    lengths = [f"{trace.t[end - 1] - trace.t[start]:.2f} s" for _, start, end in trace.runs()]
    runs = f"runs: {len(lengths)}" + (
        f" ({', '.join(lengths[:8])}{' …' if len(lengths) > 8 else ''})" if lengths[1:] else ""
    )
    recorded = sum(float(trace.t[end - 1] - trace.t[start]) for _, start, end in trace.runs())
    rate = f"{(len(trace) - len(lengths)) / recorded:.4g} a second" if recorded else "all at one time"
    print(f"{arguments.file.name}: {len(trace):,} frames, {trace.length:.2f} s, {rate}, {runs}")
    if trace.clock is not None:
        print(trace.clock)
    rows = [("column", "type", "least", "most", "missing", "changes")]
    for c in summarise(trace):
        words = ", ".join(c.words[:4]) + (" …" if len(c.words) > 4 else "")
        low, high = ("" if end is None else f"{end:g}" for end in (c.low, c.high))
        rows.append((c.name, c.type, low or words, high, f"{c.missing:.1%}" if c.missing else "", f"{c.changes:,}"))
    _print_table(rows, left=(0, 1), words=2)
    if trace.events:
        print()
        told = [("event", "times", "first", "arguments")]
        for name, args in trace.event_kinds.items():
            mine = [event for event in trace.events if event.name == name]
            told.append((name, f"{len(mine):,}", f"{mine[0].t:.2f} s", ", ".join(f"{a}: {k}" for a, k in args.items())))
        _print_table(told, left=(0, 3))
    return 0


def _print_table(rows: Sequence[tuple[str, ...]], left: tuple[int, ...], words: int = -1) -> None:
    """Columns lined up: `left` ones to the left, numbers to the right. words: a column that may hold either."""
    widths = [max(len(row[i]) for row in rows) for i in range(len(rows[0]))]
    for row in rows:
        to_left = [i in left or (i == words and not row[i + 1]) for i in range(len(row))]
        cells = [c.ljust(w) if lies else c.rjust(w) for c, w, lies in zip(row, widths, to_left, strict=True)]
        print("  ".join(cells).rstrip())


def _trace_convert(arguments: argparse.Namespace) -> int:
    from avrin.trace import save_trace

    project = _project(arguments.project) if arguments.project else None
    save_trace(_opened(arguments, project), arguments.out)
    return 0


def _trace_make(arguments: argparse.Namespace) -> int:
    from avrin.ladder import made_for
    from avrin.trace import Plan, save_trace

    project = _project(arguments.project)
    parts = tuple(part.strip() for part in arguments.parts.split(",") if part.strip())
    plan = Plan(parts, seconds=arguments.seconds, rate=arguments.rate, seed=arguments.seed)
    save_trace(made_for(_bound(project, arguments.project), plan, arguments.out.stem), arguments.out)
    return 0


def _schema(_arguments: argparse.Namespace) -> int:
    from avrin.widgets import project_schema

    print(json.dumps(project_schema(), indent=1, ensure_ascii=False))
    return 0


# -- shared ---------------------------------------------------------------------------------------------------------


def _project(path: Path) -> Project:
    from avrin.model import load

    project, warnings = load(path)
    for warning in warnings:
        print(f"avrin: {path.name}: {warning}", file=sys.stderr)
    return project


def _bound(project: Project, path: Path, trace: Trace | None = None) -> Bound:
    """A project all of whose rules can be used over a trace. path: its file, for what is said of it."""
    from avrin.widgets import bind

    seen = trace.event_kinds if trace is not None else None
    bound = bind(project, seen=seen, folder=path.absolute().parent)
    for warning in bound.warnings:
        print(f"avrin: {path.name}: {warning}", file=sys.stderr)
    try:
        bound.raise_first()
    except AvrinError as error:
        raise error.within(path.name) from None
    return bound


def _kept(error: Exception) -> str:
    """A fault of our own: its trace goes to a file, its first line to the user."""
    import traceback

    from avrin.model import cache_folder

    path = cache_folder() / "faults.log"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with path.open("a", encoding="utf-8") as file:
            traceback.print_exception(error, file=file)
    except OSError:
        return f"a fault inside Avrin: {error}"
    return f"a fault inside Avrin: {error}. Details: {path}"
