"""The view state of a project on this machine: stored with the user's data, not in the project's file."""

from __future__ import annotations

import hashlib
import logging
from pathlib import Path
from typing import Literal

import msgspec

from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_write
from avrin.storage.folders import folder_for, state_folder

__all__ = ["LANE_ORDERS", "LaneOrder", "ViewState", "load_view_state", "save_view_state"]

log = logging.getLogger(__name__)

LaneOrder = Literal["as in the project", "by kind", "by trouble", "by hand"]
LANE_ORDERS: tuple[LaneOrder, ...] = ("as in the project", "by kind", "by trouble", "by hand")


class ViewState(msgspec.Struct, frozen=True, omit_defaults=True):
    """hidden, locked: ids of widgets that are hidden or locked in the editor.

    unfolded: rosters whose lanes are expanded. order: how lanes are sorted; by_hand: their keys in the manual order.
    """

    hidden: tuple[str, ...] = ()
    locked: tuple[str, ...] = ()
    unfolded: tuple[str, ...] = ()
    order: LaneOrder = "as in the project"
    by_hand: tuple[str, ...] = ()


def _file(project: Path) -> Path:
    named = hashlib.blake2b(str(project.absolute()).encode(), digest_size=12).hexdigest()
    return state_folder() / "projects" / f"{named}.json"


def load_view_state(project: Path) -> ViewState:
    """Return the saved view state of a project, or the default if it is missing or damaged."""
    try:
        return msgspec.json.decode(_file(project).read_bytes(), type=ViewState)
    except FileNotFoundError:
        return ViewState()
    except (OSError, msgspec.MsgspecError) as error:
        log.warning("the view state of %s cannot be used: %s", project.name, error)
        return ViewState()


def save_view_state(project: Path, own: ViewState) -> None:
    """Save the view state. A failed write is only logged: it loses no work."""
    try:
        file = _file(project)
        if own == ViewState():
            file.unlink(missing_ok=True)
        else:
            atomic_write(folder_for(file), msgspec.json.encode(own))
    except (OSError, AvrinError) as error:
        log.warning("the view state of %s was not saved: %s", project.name, error)
