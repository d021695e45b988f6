"""Commands of the command line with more than a few lines, one module each, and what they share."""
