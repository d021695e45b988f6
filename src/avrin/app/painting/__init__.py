"""Paint display lists, texts, curves and marks with QPainter. Knows nothing of the editor."""
