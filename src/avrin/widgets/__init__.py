"""Widget kinds: inputs, tracks and shapes; binding of projects to rules. Knows no layout, fonts or Qt."""
