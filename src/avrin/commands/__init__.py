"""Commands that have more to do than a few lines: a module each, and what they share."""
