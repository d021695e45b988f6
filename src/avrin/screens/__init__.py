"""The HUD on every screen, plate, colour vision and size at once. Knows no Qt."""
