"""Hints from variable names: a caption, whether players should see it, which end is dangerous.

Names come second: behaviour is considered first (`avrin.trace.behaviour`).
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from typing import Literal

__all__ = ["COUNTS", "DOERS", "MAXIMUM", "MESSAGES", "SUFFERERS", "Danger", "danger", "likely", "plain_title", "tokens"]

Danger = Literal["", "low", "high"]
MAXIMUM = frozenset(("max", "maximum", "cap", "capacity", "limit", "full"))
UNITS = frozenset(
    (
        "s",
        "sec",
        "secs",
        "seconds",
        "ms",
        "msec",
        "millis",
        "pct",
        "percent",
        "m",
        "km",
        "deg",
        "degrees",
        "kmh",
        "kph",
        "mph",
    )
)
SHORT = frozenset(("hp", "xp", "mp", "ap", "sp", "rpm", "dps", "ko", "pvp", "npc", "id", "fps", "hud"))
MOST_LETTERS = 40  # characters of a caption


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


VITALS = _words(
    """
    health hp hull life lives shield shields armor armour stamina energy fuel gas air oxygen breath mana magic mp
    sp ammo clip magazine rounds battery charge boost nitro turbo hunger food thirst drink drinks rest sleep hygiene comfort water
    sanity morale integrity
    durability condition warmth heat hearts cells rage focus endurance vitality
    """
)
SCORES = _words(
    """
    score points kills frags deaths coins gold money cash credits gems xp exp experience level lap laps wave combo
    streak scrap wood stone goals stars keys place rank position saves lines cleared loot
    population rescued collected assists wins tricks
    """
)
READINGS = _words(
    """
    speed rpm depth altitude height gear heading distance velocity pressure
    """
)
TIMES = _words(
    """
    time timer countdown remaining left cooldown duration
    """
)
SAYINGS = _words(
    """
    phase mode weapon objective quest zone area biome region name stance item tool crop stage
    """
)
ASKING = _words(
    """
    can near nearby prompt ready available interact interactable reach inrange
    """
)
ENDINGS = _words(
    """
    won lost win lose dead victory defeat finished gameover failed paused over
    """
)
INSIDE = _words(
    """
    fps ping latency dt delta frame frames tick ticks seed id uid guid hash mem memory cpu gpu draw draws
    drawcalls build version debug dbg cam camera mouse stick input axis vel vx vy vz ax ay az accel acceleration
    rot rotation yaw pitch roll quat norm normal rng rand random net packet packets anim animation nav collision
    grounded x y z w sin cos physics jitter buffer queue thread alloc heap gc tris verts batch batches chunk
    chunks fov cursor sync checksum no nr num number index idx lod px pz py dx dy dz entities particles raycast
    internal tmp
    temp_ dbgflag
    """
)
DOERS = _words("killer attacker winner scorer shooter by from who player source actor slayer hitter striker thrower")
SUFFERERS = _words("victim loser target whom killed dead to defender receiver prey beaten")
MESSAGES = _words("event message msg log news feed announcement notice notification ticker said says")
COUNTS = _words("id count counter total num number no n seq sequence index last latest")
LOW_IS_DANGER = _words(
    """
    health hp hull life lives shield shields armor armour stamina energy fuel gas air oxygen breath ammo clip
    magazine rounds battery food water sanity morale integrity durability condition warmth hearts cells vitality
    hunger thirst drink drinks rest sleep hygiene comfort
    """
)
HIGH_IS_DANGER = _words(
    """
    heat temperature overheat radiation stress fatigue hunger thirst toxicity infection wanted alarm alert
    suspicion poison corruption
    """
)


@lru_cache(maxsize=20_000)
def tokens(name: str) -> tuple[str, ...]:
    """Split a name into lower-case words: `player[2].maxHealth_pct` gives max, health, pct, without the slot's roster."""
    bare = name.rsplit("].", 1)[-1]
    parts = re.findall(r"[^\W\d_]+|\d+", re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", " ", bare))
    return tuple(unicodedata.normalize("NFC", part).lower() for part in parts)


def plain_title(name: str) -> str:
    """Return a variable's name as a title: `tank.air_left_s` gives "Air left", `hp` HP; a prefix up to a dot is dropped."""
    last = name.rsplit(".", 1)[-1]
    words = list(tokens(last))
    if len(words) > 1 and words[-1] in UNITS:
        words.pop()
    if not words:
        return name
    said = [word.upper() if word in SHORT else word for word in words]
    said[0] = said[0] if said[0].isupper() else said[0][:1].upper() + said[0][1:]
    return " ".join(said)[:MOST_LETTERS]


def is_inside(name: str) -> bool:
    """Return whether a name is internal to the program."""
    return any(word in INSIDE for word in tokens(name))


def likely(name: str) -> float:
    """Return how likely players are to see a name: from -1, a programmer's name, over 0, unknown, to 1."""
    words = tokens(name)
    if not words:
        return 0.0
    if is_inside(name):
        return -1.0
    known = VITALS | SCORES | TIMES | ASKING | SAYINGS | ENDINGS
    if any(word in known for word in words):
        return 1.0
    return 0.5 if any(word in READINGS for word in words) else 0.0


def is_vital(name: str) -> bool:
    """Return whether a name is that of a vital."""
    return any(word in VITALS for word in tokens(name)) and not is_inside(name)


def is_reading(name: str) -> bool:
    """Return whether a name is that of a neutral measure."""
    words = tokens(name)
    return any(word in READINGS for word in words) and not any(word in VITALS for word in words)


def is_score(name: str) -> bool:
    """Return whether a name is that of a score."""
    return any(word in SCORES for word in tokens(name))


def asks(name: str) -> bool:
    """Return whether a flag's name says that the player can do something."""
    return any(word in ASKING for word in tokens(name))


def ends(name: str) -> bool:
    """Return whether a flag's name says that the game is over."""
    return any(word in ENDINGS for word in tokens(name))


def danger(name: str, *, begins_full: bool) -> Danger:
    """Return which end is dangerous, judged by a name. begins_full: whether it starts at its upper end and falls."""
    words = tokens(name)
    if is_reading(name) or is_inside(name):
        return ""
    if any(word in LOW_IS_DANGER for word in words) and (begins_full or not any(w in HIGH_IS_DANGER for w in words)):
        return "low"
    return "high" if any(word in HIGH_IS_DANGER for word in words) and not begins_full else ""
