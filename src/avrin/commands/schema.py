"""`avrin schema`: the JSON Schema of project files."""

from __future__ import annotations

import argparse
import json

from avrin.kinds.schema import project_schema

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_schema)


def _schema(_arguments: argparse.Namespace) -> int:
    print(json.dumps(project_schema(), indent=1, ensure_ascii=False))
    return 0
