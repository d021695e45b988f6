"""The Screens desk: the HUD at the playhead on every screen, over every plate, by every eye, at every size, at once."""

from avrin.app.screens_desk.desk import ScreensDesk

__all__ = ["ScreensDesk"]
