"""The curves of a warning as a table."""

from __future__ import annotations

import csv
import io
import math

from avrin.tuning.curves import COLUMNS, Curves

__all__ = ["table"]


def table(curves: Curves) -> str:
    """Return CSV with a row per value; a cell without a value is empty."""
    file = io.StringIO()
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(COLUMNS)
    for row in zip(*(getattr(curves, name).tolist() for name in COLUMNS), strict=True):
        writer.writerow("" if math.isnan(one) else _plain(one) for one in row)
    return file.getvalue()


def _plain(number: float) -> str:
    """Return the shortest text that parses back to the same number."""
    return repr(int(number)) if float(number).is_integer() and abs(number) < 2**53 else repr(number)
