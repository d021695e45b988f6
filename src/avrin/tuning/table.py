"""The curves of a warning as a table."""

from __future__ import annotations

import csv
import io
import math

from avrin.tuning.curves import COLUMNS, Curves

__all__ = ["table"]


def table(told: Curves) -> str:
    """CSV, a line a value; a cell is empty where there is nothing to tell."""
    file = io.StringIO()
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(COLUMNS)
    for row in zip(*(getattr(told, name).tolist() for name in COLUMNS), strict=True):
        writer.writerow("" if math.isnan(one) else _plain(one) for one in row)
    return file.getvalue()


def _plain(number: float) -> str:
    """The shortest form that reads back the same."""
    return repr(int(number)) if float(number).is_integer() and abs(number) < 2**53 else repr(number)
