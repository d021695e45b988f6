"""The command line. Errors go to standard error as one line, and the exit status is 2."""

from __future__ import annotations

import argparse
import functools
import gc
import logging
import os
import sys
from collections.abc import Callable, Sequence
from importlib import import_module
from pathlib import Path
from typing import Any, NoReturn

from avrin import __version__
from avrin.commands.arguments import progress
from avrin.errors import AvrinError, reason_of
from avrin.logs import begin_logging, describe_fault, log_file
from avrin.printable import one_line
from avrin.storage.atomic import check_target, protecting
from avrin.storage.files import load
from avrin.storage.reading import plain_file
from avrin.trace.copying import beside

__all__ = ["main"]

log = logging.getLogger(__name__)


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command and return its exit status: 0 on success, 2 on failure."""
    if sys.stdout is None:  # the parent process closed it, so nobody reads the output
        sys.stdout = Path(os.devnull).open("w", encoding="utf-8")  # noqa: SIM115  (to the end)
    arguments = _parser().parse_args(argv)
    begin_logging(verbose=arguments.verbose)
    try:
        with protecting(_read_by(arguments)):
            if isinstance(out := vars(arguments).get("out"), Path):
                check_target(out)  # before minutes of work that it would lose
            status = int(arguments.run(arguments))
        sys.stdout.flush()  # report a failed write here rather than in the interpreter's own shutdown
        return status
    except AvrinError as error:
        _say_error(error.on_command_line())
    except BrokenPipeError:
        _write_no_more()  # the reader closed the pipe
        return 0
    except OSError as error:
        where = error.filename if error.filename is not None else "standard output"
        _say_error(f"{where} cannot be written ({reason_of(error)})")
        _write_no_more()
    except KeyboardInterrupt:
        print("avrin: stopped", file=sys.stderr)
    except Exception as error:
        log.exception("a fault")
        _say_error(describe_fault(error))
    return 2


def _say_error(text: str) -> None:
    """Print one line on standard error, whatever the text quotes."""
    print(f"avrin: {one_line(text)}", file=sys.stderr)


def _read_by(arguments: argparse.Namespace) -> list[Path]:
    """Return the files a writing command reads: its arguments, files next to them and files the project lists."""
    told = vars(arguments)
    if told.get("out") is None:
        return []
    named = [value for name, value in told.items() if name != "out"]
    paths = [one for value in named for one in (value if isinstance(value, list) else [value]) if isinstance(one, Path)]
    found = []
    for path in paths:
        if not path.name:  # a folder, such as the current one
            continue
        found += [path, beside(path)]
        if path.suffix.lower() == ".avrin":
            try:
                project, _ = load(path)
            except AvrinError:
                continue  # reported when the file is read
            listed = [path.parent / recording.path for recording in project.traces]
            from avrin.video.open_video import footage_files  # late: 118 ms

            pictures = [path.parent / (plate.film or plate.picture) for plate in project.plates]
            found += [*listed, *map(beside, listed), *(file for one in pictures for file in footage_files(one))]
    return found


def _write_no_more() -> None:
    """Discard whatever is still to be written to standard output."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


class _Parser(argparse.ArgumentParser):
    """Report usage errors in one line, like all other errors.

    fill: adds the arguments of the command in use; the arguments of other commands are never built.
    """

    fill: Callable[[argparse.ArgumentParser], object] | None = None

    def parse_known_args(self, args: Any = None, namespace: Any = None) -> Any:  # noqa: ANN401  (as argparse has it)
        fill, self.fill = self.fill, None
        if fill is not None:
            fill(self)
        return super().parse_known_args(args, namespace)

    def error(self, message: str) -> NoReturn:
        _say_error(f"{message}. Run `{self.prog} --help`")
        raise SystemExit(2)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="avrin", description="Bind HUD widgets to gameplay variables and see them over recorded play."
    )
    parser.set_defaults(verbose=False)
    parser.add_argument(
        "--verbose", action="store_true", help=f"report progress in detail; the full log is {log_file()}"
    )
    parser.add_argument("--version", action="version", version=f"avrin {__version__}")
    parser.set_defaults(run=_first_page)
    every = parser.add_subparsers(title="commands", metavar="COMMAND", parser_class=_Parser)

    def command(
        name: str,
        help_: str,
        run: Callable[[argparse.Namespace], int] | None = None,
        fill: Callable[[argparse.ArgumentParser], object] | None = None,
        to: Any = every,  # noqa: ANN401  (what argparse gives has no public name)
    ) -> argparse.ArgumentParser:
        made: _Parser = to.add_parser(name, help=help_, description=help_)
        made.fill = fill
        made.add_argument("--verbose", action="store_true", default=argparse.SUPPRESS, help="report progress in detail")
        made.set_defaults(run=run)
        return made

    def inner(parser: argparse.ArgumentParser) -> Callable[..., argparse.ArgumentParser]:
        """Return a parser factory for the subcommands of this command."""
        return functools.partial(
            command, to=parser.add_subparsers(metavar="COMMAND", required=True, parser_class=_Parser)
        )

    command("demo", "Open the sample project, or paint its views if there is no display.", _demo, _add_demo)
    command("open", "Open a project, or recordings to begin one; without either, the first page.", _open, _add_open)
    command("new", "Write a new project that declares everything in recordings.", None, _arguments_of("new"))
    command("eval", "Evaluate a rule over a trace into columns t and value.", None, _arguments_of("eval"))
    command("track", "Write the states of all widgets over a trace.", None, _arguments_of("track"))
    command("frame", "Draw the HUD at a moment.", None, _arguments_of("frame"))
    command("check", "Check a project; exits with 1 if there are findings.", None, _arguments_of("check"))
    command("ladder", "Draw every widget just below, at and just above its thresholds.", None, _arguments_of("ladder"))
    command(
        "screens", "Draw the HUD on every screen, plate or language on one sheet.", None,
        _arguments_of("screens"),
    )  # fmt: skip
    command(
        "diff", "Compare two versions, in the file and over recordings; exits with 1 if they differ.",
        None, _arguments_of("diff"),
    )  # fmt: skip
    command(
        "merge", "Merge two versions of a project; exits with 1 if both changed the same.", None, _arguments_of("merge"),
    )  # fmt: skip
    command("tune", "Measure a warning at each limit over all recordings.", None, _arguments_of("tune"))
    command(
        "sweep", "Summarise thousands of recordings; exits with 1 if one cannot be read.", None,
        _arguments_of("sweep"),
    )  # fmt: skip
    command("texts", "Exchange the HUD's texts with translators.", None, _arguments_of("texts", inner))
    command("trace", "Inspect, convert and generate recordings.", None, _arguments_of("trace", inner))
    command("schema", "Print the JSON Schema of project files.", None, _arguments_of("schema"))
    return parser


def _arguments_of(
    name: str, parent: Callable[[argparse.ArgumentParser], object] = lambda parser: parser
) -> Callable[[argparse.ArgumentParser], object]:
    """Return a function that adds a command's arguments; its module is loaded only if that command is used.

    parent: turns the command's parser into what `add_arguments` receives, such as a factory of subcommands.
    """
    return lambda parser: import_module(f"avrin.commands.{name}").add_arguments(parent(parser))


def _add_open(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("files", type=Path, nargs="*", metavar="FILE")


def _add_demo(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--shots", type=Path, metavar="DIR", help="drive the window and write its views there as PNG")
    parser.add_argument(
        "--troubled", action="store_true", help="the same HUD with many faults, to explore its findings"
    )


# -- the window -----------------------------------------------------------------------------------------------------


def _display() -> bool:
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def _demo(arguments: argparse.Namespace) -> int:
    from avrin.demo.install import install_demo  # late: 21 ms

    if arguments.shots is None and _display():
        return _window(install_demo(troubled=arguments.troubled))
    folder: Path = arguments.shots or Path("avrin-demo")
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from avrin.app.shots import VIEWS, take_shots  # late: 413 ms

    if arguments.shots is None:
        print("No display found; painting the window's views instead.")
    for done, path in enumerate(take_shots(folder), 1):
        print(path, flush=True)
        progress(done, len(VIEWS))
    return 0


def _open(arguments: argparse.Namespace) -> int:
    files: list[Path] = arguments.files
    projects = [file for file in files if file.suffix.lower() == ".avrin"]
    if projects and len(files) > 1:
        raise AvrinError("only one project can be opened, or several recordings", advice="Name only one")
    if not _display() and os.environ.get("QT_QPA_PLATFORM") != "offscreen":
        if projects:
            load(projects[0])
        raise AvrinError(
            "cannot open a window: no display found",
            advice="Use track or frame to inspect a project, new to begin one",
        )
    for file in files:
        plain_file(file)
    return _window(*files)


def _first_page(_arguments: argparse.Namespace) -> int:
    if not _display() and os.environ.get("QT_QPA_PLATFORM") != "offscreen":
        raise AvrinError(
            "cannot open a window: no display found", advice="Run `avrin --help` for commands that need no display"
        )
    return _window()


def _window(*paths: Path) -> int:
    gc.disable()  # collecting garbage during the start would take a tenth of its time
    from avrin.app.main import run  # late: 306 ms

    return run(*paths)
