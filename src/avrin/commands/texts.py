"""`avrin texts`: a HUD's texts as gettext catalogues: extract, update, check."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.commands.shared import loaded, recordings
from avrin.errors import AvrinError, reason_of
from avrin.i18n.catalogue import FOLDER, codes_in, kept_po
from avrin.i18n.extraction import template, updated
from avrin.i18n.languages import language_codes, translation
from avrin.i18n.own_language import OWN
from avrin.i18n.pseudo import MADE_UP
from avrin.printable import one_line
from avrin.storage.files import inside, write
from avrin.trace.store import open_listed

__all__ = ["add_arguments"]


def add_arguments(command: Callable[..., Any]) -> None:
    """Add the subcommands. command: creates one from a name, its help and its function."""
    extract = command("extract", "Write all texts into a template and update all catalogues.", _extract)
    update = command("update", "Update or create catalogues.", _update)
    check = command("check", "Check catalogues; exits with 1 if one has a fault.", _check)
    for one in (extract, update, check):
        one.add_argument("project", type=Path, metavar="P")
    for one in (update, check):
        one.add_argument("languages", nargs="*", metavar="LANG", help="such as de or pt_BR; all catalogues by default")


def _bound(path: Path) -> Bound:
    return bind(loaded(path), folder=path.absolute().parent)


def _tracks(bound: Bound, path: Path) -> list[Tracks]:
    """Return the project over its recordings; missing ones are skipped."""
    found, project = [], bound.project
    for file, listed, name in recordings(project, path, None):
        try:
            found.append(Tracks(bound, open_listed(file, project.all_variables(), listed, name)))
        except AvrinError as error:
            print(f"avrin: {one_line(str(error))}", file=sys.stderr)
    return found


def _extract(arguments: argparse.Namespace) -> int:
    path: Path = arguments.project
    bound = _bound(path)
    made = template(bound, _tracks(bound, path))
    files = updated(bound, made, codes_in(bound.folder))  # read all before writing one
    _keep({inside(bound.folder, f"{FOLDER}/{path.stem}.pot"): kept_po(made), **files})
    return 0


def _update(arguments: argparse.Namespace) -> int:
    path: Path = arguments.project
    bound = _bound(path)
    codes = arguments.languages or codes_in(bound.folder)
    if not codes:
        raise AvrinError("there is no catalogue yet", advice=f"Write `avrin texts update {path} de` for a German one")
    _keep(updated(bound, template(bound, _tracks(bound, path)), codes))
    return 0


def _keep(files: dict[Path, bytes]) -> None:
    """Write changed files; a new creation date alone does not count."""
    for path, data in files.items():
        if not path.exists() or _timeless(path.read_bytes()) != _timeless(data):
            try:
                path.parent.mkdir(exist_ok=True)
            except OSError as error:
                raise AvrinError(
                    f"cannot be made ({reason_of(error)})", place=(str(path.parent),),
                    advice="Choose a folder you can write to",
                ) from None  # fmt: skip
            write(path, data)
            print(path)


def _timeless(data: bytes) -> list[bytes]:
    return [line for line in data.splitlines() if not line.startswith((b'"POT-Creation-Date:', b'"PO-Revision-Date:'))]


def _check(arguments: argparse.Namespace) -> int:
    path: Path = arguments.project
    bound = _bound(path)
    there = [code for code in language_codes(bound.project, bound.folder) if code != OWN and code not in MADE_UP]
    wrong = 0
    for code in arguments.languages or there:
        read = translation(bound, code)
        print(f"{code}: {len(read.language.translations)} of {len(read.messages)} texts")
        for fault in read.faults:
            print(f"  {fault.sort}: {one_line(fault.text)}: {one_line(fault.why)}")
        wrong += len(read.faults)
    return int(wrong > 0)
