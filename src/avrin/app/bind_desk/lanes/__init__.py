"""The lanes: variables and widgets over a common time axis."""
