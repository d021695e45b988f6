"""Findings: probable problems of a project over its recordings."""
