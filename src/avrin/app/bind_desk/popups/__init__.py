"""Popups over the Bind desk: places, groups, actions, rosters, borders, cells, colours."""
