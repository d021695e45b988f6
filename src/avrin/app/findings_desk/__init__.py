"""The Findings desk: what the checks found, each with its moment, to walk through, mend, or live with."""

from avrin.app.findings_desk.desk import FindingsDesk

__all__ = ["FindingsDesk"]
