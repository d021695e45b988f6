"""The Findings desk: the list of findings, each with its moment, to fix or ignore."""

from avrin.app.findings_desk.desk import FindingsDesk

__all__ = ["FindingsDesk"]
