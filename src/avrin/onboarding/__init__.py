"""From recordings to a first HUD: names and rosters, declarations, placed widgets. Knows no Qt."""
