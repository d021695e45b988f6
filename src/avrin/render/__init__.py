"""Layout, display lists, text and SVG. Knows no Qt."""
