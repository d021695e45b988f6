"""The Bind desk: the HUD picture, the card of what is selected, and the lanes."""
