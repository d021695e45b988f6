"""The main window: header, commands, opening and saving of files."""
