"""The Findings desk: what the checks found, each with its moment, to walk through, mend, or live with."""

from avrin.app.findings.desk import FindingsDesk

__all__ = ["FindingsDesk"]
