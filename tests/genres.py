"""Recordings of made-up games in eight genres, with the names and the behaviour such games have, and what is true of them.

Each has ten columns or more that no player should see. What is true is written down by hand: which columns are vitals, what
each is full at, where danger lies, which rosters there are.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from avrin.trace.frames import Column, Trace

RATE = 20
Cells = dict[str, list[float | str | bool | None]]


@dataclass(frozen=True)
class Genre:
    """vitals: what a player lives by, with what it is full at: a column of the recording, or a number.

    calm: numbers for which no end is dangerous. rosters: slots and fields by name. hidden: what nobody should see.
    """

    name: str
    trace: Trace
    vitals: Mapping[str, str | float]
    calm: frozenset[str]
    hidden: frozenset[str]
    rosters: Mapping[str, tuple[int, frozenset[str]]] = field(default_factory=dict)


class Sim:
    """Writes frames down. Each run is a life."""

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.cells: Cells = {}
        self.t: list[float] = []
        self.runs: list[int] = []
        self.run = 1

    def chance(self, a_second: float) -> bool:
        return bool(self.rng.random() < a_second / RATE)

    def put(self, **values: float | str | bool | None) -> None:
        self.row(values)

    def row(self, values: Mapping[str, float | str | bool | None]) -> None:
        self.t.append(len(self.t) / RATE)
        self.runs.append(self.run)
        for name, value in values.items():
            self.cells.setdefault(name, []).append(value)

    def trace(self, name: str) -> Trace:
        columns = {key: Column.of(cells) for key, cells in self.cells.items()}
        return Trace.make(name, self.t, columns, self.runs)

    def inside(self, frame: int) -> dict[str, float | str | bool | None]:
        """What the program itself goes through, and no player."""
        r = self.rng
        return {
            "fps": round(59 + r.normal(0, 1.5), 1), "frame_id": float(frame),
            "draw_calls": float(800 + r.integers(0, 300)),
            "mem_mb": round(512 + frame * 0.003 + r.random(), 2), "cam_yaw": round(180 * np.sin(frame / 90), 2),
            "cam_pitch": round(20 * np.sin(frame / 40), 2), "stick_x": round(float(np.sin(frame / 13)), 3),
            "stick_y": round(float(np.cos(frame / 17)), 3), "rng_seed": 48211.0,
        }  # fmt: skip


INSIDE = frozenset(
    ("fps", "frame_id", "draw_calls", "mem_mb", "cam_yaw", "cam_pitch", "stick_x", "stick_y", "rng_seed")
)


def shooter() -> Genre:
    s, frame, frags = Sim(1), 0, [0.0] * 8
    names = ["Vell", "Oda", "Rusk", "Tamm", "Ibe", "Korr", "Sunn", "Pell"]
    for life in range(7):
        s.run = life + 1
        health, armour, clip, spare, kills = 100.0, 50.0, 30.0, 120.0, 0.0
        x, y, left = 200.0 + 10 * life, -80.0, 0.0
        while True:
            frame += 1
            x, y = x + s.rng.normal(0, 2.5), y + s.rng.normal(0, 2.5)
            if s.chance(0.4):
                hit = float(s.rng.integers(4, 40))
                armour, health = max(0.0, armour - hit / 2), health - hit / (2 if armour > 0 else 1)
                health = float(round(health))
            if s.chance(0.05):
                health = min(100.0, health + 25)
            if s.chance(0.04):
                armour = min(50.0, armour + 25)
            if left > 0:
                left = max(0.0, left - 1 / RATE)
                if left == 0:
                    taken = min(30.0 - clip, spare)
                    clip, spare = clip + taken, spare - taken
            elif clip == 0 and spare > 0:
                left = 1.8
            elif s.chance(2.5) and clip > 0:
                clip -= 1
                if s.chance(3):
                    kills += 1
                    frags[0] += 1
            for i in range(1, 8):
                frags[i] += s.chance(0.06)
            s.row(
                {
                    "Player Health": health, "Armour": armour, "clip": clip, "ammo_9mm": spare, "ammo_45mm": 40.0,
                    "kills": kills, "pos_x": x, "pos_y": y, "pos_z": 2.0 + 0.4 * np.sin(frame / 9),
                    "vel_x": s.rng.normal(0, 3), "ping_ms": 30.0 + s.rng.integers(0, 25), "reloading": left > 0,
                    "weapon": "rifle" if spare > 60 else "pistol",
                    **{f"player{i + 1}_name": names[i] if i < 6 or frame > 900 else None for i in range(8)},
                    **{f"player{i + 1}_frags": frags[i] for i in range(8)}, **s.inside(frame),
                }
            )  # fmt: skip
            if health <= 0 or (life == 6 and len(s.t) > 5000):
                break
    hidden = INSIDE | {"pos_x", "pos_y", "pos_z", "vel_x", "ping_ms"}
    return Genre(
        "shooter", s.trace("shooter"),
        {"player_health": 100.0, "Armour": 50.0, "clip": 30.0, "ammo_9mm": 120.0},
        frozenset(("kills",)), hidden, {"player": (8, frozenset(("name", "frags")))},
    )  # fmt: skip


def racing() -> Genre:
    s = Sim(2)
    for race in range(3):
        s.run = race + 1
        fuel, tyres, nitro, lap, lap_time, damage = 48.0, 1.0, 0.0, 1.0, 0.0, 0.0
        speed, x, y = 0.0, 0.0, 0.0
        places = [float(i + 1) for i in range(6)]
        for i in range(2400):
            speed += (180 - speed) * 0.01 + s.rng.normal(0, 2) if i % 400 < 330 else -3.5
            speed = float(np.clip(speed, 0, 240))
            fuel -= speed / 240 * 0.014
            tyres = max(0.0, tyres - speed * 1e-6 * 1.1)
            nitro = max(0.0, nitro - 1.2) if 100 < i % 500 < 180 else min(100.0, nitro + 0.3)
            if s.chance(0.08):
                damage = min(100.0, damage + float(s.rng.integers(2, 9)))
            lap_time += 1000 / RATE
            if i % 800 == 799:
                lap, lap_time = lap + 1, 0.0
            if s.chance(0.06):
                a = int(s.rng.integers(0, 5))
                places[a], places[a + 1] = places[a + 1], places[a]
            angle = i / 800 * 2 * np.pi
            x, y = 4000 * np.cos(angle), 2500 * np.sin(angle)
            s.row(
                {
                    "speed_kmh": round(speed, 1), "engineRpm": round(900 + speed * 28 % 6000),
                    "gear": float(1 + int(speed // 45)),
                    "fuelLitres": round(fuel, 3), "tyreCondition": round(tyres, 4), "nitro": round(nitro, 1),
                    "damage_pct": damage, "lap": lap, "lap_time_ms": round(lap_time), "world_x": x, "world_y": y,
                    "world_z": 3.0, "steer_input": float(np.sin(i / 21)), "throttle_axis": float(i % 400 < 330),
                    "slip_angle_rad": s.rng.normal(0, 0.1), "track": "Harbour loop",
                    **{f"car{n}_place": places[n] for n in range(6)}, **s.inside(i),
                }
            )  # fmt: skip
    hidden = INSIDE | {"world_x", "world_y", "world_z", "steer_input", "throttle_axis", "slip_angle_rad"}
    return Genre(
        "racing", s.trace("racing"), {"fuelLitres": 48.0, "tyreCondition": 1.0, "nitro": 100.0},
        frozenset(("speed_kmh", "engineRpm", "gear", "lap", "nitro")), hidden, {"car": (6, frozenset(("place",)))},
    )  # fmt: skip


def strategy() -> Genre:
    s = Sim(3)
    ore, wood, supply, most, hall, era, workers = 50.0, 80.0, 6.0, 10.0, 1500.0, 1, 6.0
    towers = [300.0, 300.0, 300.0]
    for i in range(6000):
        ore += 0.35 * workers / 6
        wood += 0.2 if s.chance(8) else 0.0
        if s.chance(0.1) and ore >= 100:
            ore -= 100
            supply = min(most, supply + 1)
            workers = min(40.0, workers + 1)
        if s.chance(0.03) and wood >= 60:
            wood -= 60
            most = min(60.0, most + 6)
        if s.chance(0.15) and i > 1500:
            hall = max(0.0, hall - float(s.rng.integers(10, 80)))
        elif i % 4 == 0:
            hall = min(1500.0, hall + 1.0)
        for n in range(3):
            if s.chance(0.1):
                towers[n] = max(0.0, towers[n] - float(s.rng.integers(5, 60)))
            elif s.chance(0.3):
                towers[n] = min(300.0, towers[n] + 15)
        era = 1 + (i > 1800) + (i > 4000)
        s.row(
            {
                "res.ore": float(int(ore)), "res.wood": float(int(wood)), "supply": supply, "supply_cap": most,
                "workers": workers, "townhall_hp": hall, "era": ("hamlet", "village", "town")[era - 1],
                "camera_x": 900 + 400 * np.sin(i / 300), "camera_y": 500 + 200 * np.cos(i / 210), "zoom_level_cam": 1.4,
                "selected_id": float(s.rng.integers(0, 300)), "net_packets": float(i * 3), "ai_ticks": float(i // 3),
                "cursor_x": s.rng.random() * 1920, "cursor_y": s.rng.random() * 1080, "underAttack": i % 900 > 780,
                "tower[0].hp": towers[0], "tower[1].hp": towers[1], "tower[2].hp": towers[2], **s.inside(i),
            }
        )  # fmt: skip
    hidden = INSIDE | {"camera_x", "camera_y", "zoom_level_cam", "selected_id", "net_packets", "cursor_x", "cursor_y"}
    return Genre(
        "strategy", s.trace("strategy"), {"tower[slot].hp": 300.0},  # the hall loses less than a quarter: a bar would hardly move
        frozenset(("res.ore", "res.wood", "supply", "workers")), hidden, {"tower": (3, frozenset(("hp",)))},
    )  # fmt: skip


def platformer() -> Genre:
    s, frame = Sim(4), 0
    for game in range(3):
        s.run = game + 1
        lives, hearts, coins, level, x, y, vy, left = 5.0, 3.0, 0.0, 1.0, 40.0, 600.0, 0.0, 200.0
        power = "none"
        for _ in range(2600):
            frame += 1
            x = (x + 3.1) % 6000
            grounded = y >= 600
            vy = -14.0 if grounded and s.chance(1.2) else vy + 0.7
            y = min(600.0, y + vy)
            vy = 0.0 if y >= 600 else vy
            coins += s.chance(0.7)
            left -= 1 / RATE
            if s.chance(0.09):
                hearts -= 1
            if s.chance(0.03):
                hearts = min(3.0, hearts + 1)
            if hearts <= 0 or left <= 0:
                lives, hearts, left = lives - 1, 3.0, 200.0
            if s.chance(0.012):
                level, left = level + 1, 200.0
            if s.chance(0.02):
                power = ("none", "spring", "glider")[int(s.rng.integers(0, 3))]
            s.row(
                {
                    "lives": lives, "hearts": hearts, "coins": coins, "stage": level, "timeLeft": round(left, 2),
                    "px": x, "py": y,
                    "vx": 3.1, "vy": round(vy, 2), "is_grounded": grounded, "coyote_frames": float(frame % 6),
                    "jump_buffer": float(frame % 5), "facing": "right" if frame % 400 < 300 else "left", "item": power,
                    "camera_x": x - 200, "tile_id": float(int(x // 32)), **s.inside(frame),
                }
            )  # fmt: skip
            if lives <= 0:
                break
    hidden = INSIDE | {"px", "py", "vx", "vy", "is_grounded", "coyote_frames", "jump_buffer", "camera_x", "tile_id"}
    return Genre(
        "platformer", s.trace("platformer"), {"lives": 5.0, "hearts": 3.0},
        frozenset(("coins", "stage")), hidden,
    )  # fmt: skip


def survival() -> Genre:
    s, frame = Sim(5), 0
    for life in range(3):
        s.run = life + 1
        health, food, water, warmth, stamina, rads, wood, day = 100.0, 100.0, 100.0, 37.0, 1.0, 0.0, 0.0, 1.0
        x, z = 0.0, 0.0
        for i in range(3000):
            frame += 1
            x, z = x + s.rng.normal(0, 1), z + s.rng.normal(0, 1)
            food, water = max(0.0, food - 0.035), max(0.0, water - 0.05)
            if s.chance(0.025):
                food = min(100.0, food + 40)
            if s.chance(0.035):
                water = min(100.0, water + 50)
            warmth += -0.004 if i % 1200 > 700 else 0.005
            warmth = float(np.clip(warmth, 30.0, 37.0))
            stamina = max(0.0, stamina - 0.012) if i % 160 < 60 else min(1.0, stamina + 0.015)
            rads = max(0.0, rads + (0.5 if 1400 < i < 1520 else -0.05))
            if s.chance(0.06) or food <= 0 or water <= 0:
                health -= float(s.rng.integers(1, 14)) if food > 0 and water > 0 else 0.15
            else:
                health = min(100.0, health + 0.02)
            wood += s.chance(0.2)
            day = 1.0 + i // 1200
            s.row(
                {
                    "vitals/health": round(health, 2), "vitals/food": round(food, 2), "vitals/water": round(water, 2),
                    "bodyTemp": round(warmth, 3), "stamina": round(stamina, 3), "radiation": round(rads, 2),
                    "wood": wood,
                    "day": day, "world_x": x, "world_y": 12.0, "world_z": z, "rot_y": 360 * (frame % 700 / 700),
                    "chunk_id": float(int(x // 16)), "lod_bias": 1.0, "biome": "dunes" if x > 0 else "fen",
                    "canDrink": i % 500 > 430, "net_jitter_ms": abs(s.rng.normal(0, 4)), **s.inside(frame),
                }
            )  # fmt: skip
            if health <= 0:
                break
    hidden = INSIDE | {"world_x", "world_y", "world_z", "rot_y", "chunk_id", "lod_bias", "net_jitter_ms"}
    return Genre(
        "survival", s.trace("survival"),
        {"vitals_health": 100.0, "vitals_food": 100.0, "vitals_water": 100.0, "stamina": 1.0},
        frozenset(("wood", "day")), hidden,
    )  # fmt: skip


def puzzle() -> Genre:
    s, frame = Sim(6), 0
    for attempt in range(6):
        s.run = attempt + 1
        moves, score, combo, energy, cleared = 25.0, 0.0, 0.0, 5.0, 0.0
        hint = 0
        for i in range(1200):
            frame += 1
            combo = max(0.0, combo - 1) if s.chance(1.5) else combo
            hint += 1
            if s.chance(0.45) and moves > 0:
                moves -= 1
                combo += float(s.rng.integers(0, 4))
                cleared += 3 + combo
                score += 30 * (1 + combo)
                hint = 0
            if s.chance(0.02):
                energy -= 1
            if s.chance(0.015):
                energy = min(5.0, energy + 1)
            s.row(
                {
                    "Moves Left": moves, "Score": score, "combo": combo, "energy": max(0.0, energy),
                    "tiles cleared": cleared,
                    "if": i > 600, "hint_ready": hint > 120, "board_hash": float(s.rng.integers(0, 99999)),
                    "cascade_depth_dbg": float(s.rng.integers(0, 3)), "mouse_x": s.rng.random() * 1080,
                    "mouse_y": s.rng.random() * 1920,
                    "anim_queue": float(s.rng.integers(0, 5)), "solver_id": 4.0,
                    "mood": "calm" if combo < 2 else "wild",
                    **s.inside(frame),
                }
            )  # fmt: skip
            if moves <= 0 or energy <= 0:
                break
    hidden = INSIDE | {"board_hash", "cascade_depth_dbg", "mouse_x", "mouse_y", "anim_queue", "solver_id"}
    return Genre(
        "puzzle", s.trace("puzzle"), {"moves_left": 25.0, "energy": 5.0}, frozenset(("Score", "combo",
        "tiles_cleared")), hidden,
    )  # fmt: skip


def sports() -> Genre:
    s = Sim(7)
    for half in range(2):
        s.run = half + 1
        home, away, left, shot = 0.0, 0.0, 300.0, 24.0
        breath = [100.0] * 5
        for i in range(6000):
            left = max(0.0, 300.0 - i / RATE)
            shot = shot - 1 / RATE
            if shot <= 0 or s.chance(0.05):
                shot = 24.0
                if s.chance(9):
                    home += 2.0
                elif s.chance(9):
                    away += 2.0
            for n in range(5):
                tired = (i + 130 * n) % 900 < 620
                breath[n] = max(0.0, breath[n] - 0.11) if tired else min(100.0, breath[n] + 0.22)
            s.row(
                {
                    "score.home": home, "score.away": away, "clock": round(left, 2), "shot_clock": round(shot, 2),
                    "possession": "home" if i % 700 < 400 else "away", "stamina": round(breath[0], 2),
                    "ball_x": 960 + 800 * np.sin(i / 70),
                    "ball_y": 540 + 400 * np.cos(i / 50), "ball_z": abs(3 * np.sin(i / 9)), "fouls": float(i // 1500),
                    **{f"p{n + 1}.stamina": round(breath[n], 2) for n in range(5)},
                    **{f"p{n + 1}.name": f"No {n + 4}" for n in range(5)},
                    "nav_cost": s.rng.random(), "physics_dt": 0.0166, "anim_state_id": float(i % 17), **s.inside(i),
                }
            )  # fmt: skip
    hidden = INSIDE | {"ball_x", "ball_y", "ball_z", "nav_cost", "physics_dt", "anim_state_id"}
    return Genre(
        "sports", s.trace("sports"), {"stamina": 100.0, "p[slot].stamina": 100.0},
        frozenset(("score.home", "score.away", "fouls")), hidden, {"p": (5, frozenset(("stamina", "name")))},
    )  # fmt: skip


def role_play() -> Genre:
    s = Sim(8)
    party, levels = [80.0, 60.0, 45.0], 1.0
    hp, mp, xp, gold, most = 120.0, 40.0, 0.0, 25.0, 120.0
    for i in range(6000):
        frame = i + 1
        fighting = i % 700 > 420
        if fighting and s.chance(0.5):
            hp = max(1.0, hp - float(s.rng.integers(3, 22)))
        if fighting and s.chance(0.4):
            mp = max(0.0, mp - float(s.rng.integers(2, 8)))
        if not fighting:
            hp, mp = min(most, hp + 0.25), min(40.0, mp + 0.08)
        for n, full in enumerate((80.0, 60.0, 45.0)):
            if fighting and s.chance(0.3):
                party[n] = max(0.0, party[n] - float(s.rng.integers(2, 15)))
            elif not fighting:
                party[n] = min(full, party[n] + 0.2)
        xp += 12 if fighting and s.chance(0.2) else 0
        if s.chance(0.08):
            gold += float(s.rng.integers(1, 9))
        elif s.chance(0.02):
            gold = max(0.0, gold - 15)
        if i in (2000, 4200):
            levels, most = levels + 1, most + 20
        s.row(
            {
                "hp": hp, "max_hp": most, "mp": mp, "max_mp": 40.0, "xp": xp, "level": levels, "gold": gold,
                "companion_0_hp": party[0], "companion_1_hp": party[1], "companion_3_hp": party[2],
                "zone": ("Fernhollow", "Saltmarch")[i > 3000], "quest": ("Find the well", "Ask the miller",
                "Go home")[i // 2001],
                "inCombat": fighting, "pos_x": 300 * np.sin(i / 400), "pos_y": 300 * np.cos(i / 300), "pos_z": 1.0,
                "str": 14.0,
                "dex": 11.0, "npc_id": float(i // 50), "nav_node": float(s.rng.integers(0, 400)),
                "path_cost_dbg": s.rng.random(),
                "2nd weapon": "sling", **s.inside(frame),
            }
        )  # fmt: skip
    hidden = INSIDE | {"pos_x", "pos_y", "pos_z", "npc_id", "nav_node", "path_cost_dbg"}
    return Genre(
        "role play", s.trace("role play"),
        {"hp": "max_hp", "mp": "max_mp", "companion[slot].hp": 80.0},
        frozenset(("xp", "level", "gold")), hidden, {"companion": (4, frozenset(("hp",)))},
    )  # fmt: skip


GENRES: Sequence[Callable[[], Genre]] = (shooter, racing, strategy, platformer, survival, puzzle, sports, role_play)
