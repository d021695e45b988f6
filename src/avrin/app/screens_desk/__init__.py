"""The Screens desk: the HUD at the playhead on every screen, plate, colour vision and size at once."""
