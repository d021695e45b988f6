"""The HUD picture of the Bind desk: painting, selecting, dragging, snapping, zones."""
