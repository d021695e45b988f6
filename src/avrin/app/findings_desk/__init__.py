"""The Findings desk: the list of findings, each with its moment, to fix or ignore."""
