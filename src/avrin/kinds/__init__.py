"""Widget kinds: their inputs, options and looks, and how each state turns into shapes. Knows no layout, fonts or Qt."""
