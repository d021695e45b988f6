"""Display lists, texts, curves and marks onto Qt painters. Knows nothing of what is open."""
