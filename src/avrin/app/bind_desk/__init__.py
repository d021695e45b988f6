"""The Bind desk: the HUD picture, the card of the selection, and the lanes."""
