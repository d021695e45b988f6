"""JUnit XML, the report of tests that build servers read."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from avrin.printable import xml_text

__all__ = ["JunitCase", "junit_xml"]


class JunitCase(Struct, frozen=True):
    """One test case; it fails if it has failures. failures: message and type of each. output: further lines."""

    name: str
    failures: tuple[tuple[str, str], ...] = ()
    output: str = ""


def junit_xml(title: str, cases: Iterable[JunitCase]) -> str:
    """Return one suite of test cases as JUnit XML, valid whatever characters the texts have."""
    import junitparser as ju  # late: 32 ms

    suite = ju.TestSuite(title)
    for case in cases:
        written = ju.TestCase(case.name, f"avrin.{title}")
        written.result = [ju.Failure(message, kind) for message, kind in case.failures]
        if case.output:
            written.system_out = case.output
        suite.add_testcase(written)
    suites = ju.JUnitXml(title)
    suites.add_testsuite(suite)
    suites.update_statistics()  # type: ignore[no-untyped-call]
    made = suites.tostring()  # type: ignore[no-untyped-call]
    return xml_text(made.decode("utf-8", "surrogatepass") if isinstance(made, bytes) else str(made))
