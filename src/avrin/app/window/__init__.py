"""The window around the desks: its head, its commands, files opened and saved."""
