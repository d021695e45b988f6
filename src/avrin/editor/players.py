"""Titles of players and of whose HUD is shown."""

from __future__ import annotations

from avrin.editor.snapshot import Snapshot

__all__ = ["AS_DESIGNED", "player_title", "viewer_title"]

AS_DESIGNED = "as designed"  # without an option of the player's


def player_title(now: Snapshot, slot: int) -> str:
    """Return a player's title: the name recorded at the playhead if the roster has a text, otherwise the number, from 1."""
    roster = next((one for one in now.project.rosters if one.name == now.project.players), None)
    field = next((one.name for one in roster.fields if one.type == "text"), "") if roster is not None else ""
    name = now.value(f"{now.project.players}[{slot}].{field}") if field else None
    return str(name) if name else f"player {slot + 1}"


def viewer_title(now: Snapshot) -> str:
    """Return whose HUD is shown and with which option: `as Ona, large text`."""
    players = bool(now.project.players) and now.bound.slot is not None
    whose = f"as {player_title(now, now.bound.slot or 0)}" if players else ""
    return ", ".join(part for part in (whose, now.bound.option) if part) or AS_DESIGNED
