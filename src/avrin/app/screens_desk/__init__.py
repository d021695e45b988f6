"""The Screens desk: the HUD at the playhead on every screen, plate, colour vision and size at once."""

from avrin.app.screens_desk.desk import ScreensDesk

__all__ = ["ScreensDesk"]
