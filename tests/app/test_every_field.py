"""Every field of the project file can be set in the window: a gesture for each field of the schema, read back from the file.

A field the schema gains without a gesture fails here.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit

from avrin.kinds.schema import project_schema
from films import pictures
from gestures import CTRL, LEFT, Hand, Key
from window_fixtures import qapp, window  # noqa: F401

SCHEMA: dict[str, Any] = project_schema()
DEFINED: dict[str, dict[str, Any]] = {name: found.get("properties", {}) for name, found in SCHEMA["$defs"].items()}
KINDS = sorted({name.split(".")[0] for name in DEFINED if "." in name})


@pytest.fixture
def hand(window: Any) -> Hand:
    return Hand(window)


# -- what only a kind knows ---------------------------------------------------------------------------------------------


def texts_of(widget: dict[str, Any], which: str) -> Iterator[str]:
    """Everything that a widget's options, or its look, say in the file, nested names with dots."""
    for name, value in widget.get(which, {}).items():
        yield name
        inner = value[0] if isinstance(value, list) and value and isinstance(value[0], dict) else value
        if isinstance(inner, dict):
            yield from (f"{name}.{key}" for key in inner)


def change(hand: Hand, field: Any) -> None:
    """Another value in a field of the card."""
    if isinstance(field, QComboBox):
        field.setFocus()
        QTest.keyClick(field, Key.Key_Up if field.currentIndex() == field.count() - 1 else Key.Key_Down)
        QApplication.processEvents()
        return
    assert isinstance(field, QLineEdit)
    now = field.text()
    if now.startswith("#") or field.accessibleName().split(", ")[-1] in COLOURS:
        text = "#123456"
    elif "," in now:
        text = "3, 4"
    elif now.replace(".", "").replace("-", "").isdigit():
        text = f"{float(now) + 1:g}"
    elif "flash" in field.accessibleName():
        text = "2s"
    else:
        text = f"{now}x" if now else "skull"
    hand.type_into(field, text)


def is_colour(schema: dict[str, Any]) -> bool:
    return "rrggbb" in str(schema.get("description", ""))


COLOURS = {name for fields in DEFINED.values() for name, schema in fields.items() if is_colour(schema)}


@pytest.mark.parametrize("kind", KINDS)
def test_all_that_a_kind_knows_is_said_on_its_card(hand: Hand, kind: str) -> None:
    hand.press(hand.at("scrap"))
    hand.command(f"make it a {kind}")
    hand.pressed("+ band with a condition")
    card = hand.window.desk.card
    for part in ("+ trail", "+ face"):
        hand.press_if_there(part)
    for adding in ("rows of crew", "+ name", "+ sorting", "+ marked row", "+ hauled", "+ set a value"):
        hand.press_if_there(adding)
    for number, which in enumerate(("options", "look")):
        for name in list(card._structs[number].fields):
            change(hand, card._structs[number].fields[name])
        said = set(texts_of(hand.widget("scrap"), which))
        part = card._structs[number].struct.__name__
        for name in DEFINED.get(f"{kind}.{part}", {}):
            assert name in said, f"no gesture writes {kind} {which} {name}"
    again = hand.file()
    hand.window.workspace.files.open(hand.folder)
    assert hand.file() == again, "what was said comes back"


# -- what the project says of itself, and of all that is in it ----------------------------------------------------------


def item(hand: Hand, part: str, at: int = -1) -> dict[str, Any]:
    found: dict[str, Any] = hand.file()[part][at]
    return found


def project_fields(hand: Hand) -> dict[str, Any]:
    hand.window.activateWindow()
    hand.key(Key.Key_I, CTRL)
    edit = hand.window.popups.project
    hand.type_into(edit.title, "Another dive")
    hand.type_into(edit.wide, "1600")
    hand.type_into(edit.high, "900")
    hand.type_into(edit.placeholder, "?")
    change(hand, edit.fit)
    hand.type_into(edit.device, "held_device")
    assert edit.problem.isVisibleTo(edit)
    hand.type_into(edit.device, "phase")
    assert not edit.problem.isVisibleTo(edit)
    hand.type_into(edit.legible, "20")
    change(hand, edit.players)
    hand.command("options of the player")
    hand.pressed("+ option")
    file = hand.file()
    assert (file["title"], file["reference"], file["placeholder"]) == ("Another dive", [1600, 900], "?")
    assert file["players"] == "crew"
    return file


def option_fields(hand: Hand) -> dict[str, Any]:
    hand.command("options of the player")
    hand.pressed("+ option")
    edit = hand.window.popups.options
    hand.type_into(edit.fields[0]["name"], "calm and blue")
    hand.type_into(edit.fields[0]["scale"], "125")
    change(hand, edit.fields[0]["flash"])
    hand.type_into(edit.fields[0]["colours"], "#c7473c #0072b2, #d68f2c")
    assert "in pairs" in hand.window.message.text()
    hand.type_into(edit.fields[0]["colours"], "#c7473c #0072b2")
    made = item(hand, "options")
    assert made == {"name": "calm and blue", "scale": 1.25, "flash": False, "colours": {"#c7473c": "#0072b2"}}
    return made


def variable_fields(hand: Hand) -> dict[str, Any]:
    hand.pressed("+ variable")
    editor = hand.window.desk.lanes.form
    for name, text in (
        ("name", "fuel"), ("low", "2"), ("high", "80"), ("unit", "l"), ("start", "40"), ("owner", "boat"),
        ("note", "what is left"),
    ):  # fmt: skip
        hand.type_into(editor._fields[name], text)
    QTest.mouseClick(editor._keeps, LEFT)
    made = item(hand, "variables")
    expected = {"name": "fuel", "type": "float", "start": 40, "low": 2, "high": 80, "unit": "l", "owner": "boat"}
    assert made == {**expected, "keeps": True, "note": "what is left"}
    return made


def roster_fields(hand: Hand) -> dict[str, Any]:
    hand.pressed("+ roster")
    edit = hand.window.desk.roster_edit
    hand.type_into(edit.fields["name"], "boats")
    hand.type_into(edit.fields["slots"], "3")
    hand.pressed("create it")
    edit.open_for("boats")
    hand.type_into(edit.fields["field"], "speed")
    hand.type_into(edit.fields["slots"], "5")
    made = item(hand, "rosters")
    assert (made["name"], made["slots"], [field["name"] for field in made["fields"]]) == (
        "boats",
        5,
        ["score", "speed"],
    )
    return made


def event_fields(hand: Hand) -> dict[str, Any]:
    hand.command("new event")
    hand.type_into(hand.window.desk.card.event_lines.name, "docked")
    hand.type_into(hand.window.desk.card.event_lines.more, "where")
    change(hand, hand.window.desk.card.event_lines.types["where"])
    hand.type_into(hand.window.desk.card.event_lines.note, "back at the quay")
    hand.pressed("+ when it happens, by a rule")
    QTest.keyClicks(hand.window.focusWidget(), 'changed(phase) and phase == "dock"')
    hand.type_into(hand.window.desk.card.event_lines.more, "hull")
    lines = hand.window.desk.card.event_lines
    change(hand, lines.over)
    rules = {row.place.within: row.edit for row in hand.window.desk.card.event_lines.rows}
    assert list(rules) == ["when", "times", "values.where", "values.hull"]
    for name, text in (("times", "2"), ("values.where", "phase")):
        rules[name].setFocus()
        QTest.keyClicks(rules[name], text)
    made = item(hand, "events")
    assert (made["name"], made["note"], made["over"]) == ("docked", "back at the quay", "crew")
    assert (made["when"], made["times"]) == ('changed(phase) and phase == "dock"', "2")
    assert made["values"] == {"where": "phase", "hull": "hull"}, "an argument named like a variable has its value"
    assert made["args"]["hull"] == "float"
    return made


def comment_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_Right)
    hand.key(Key.Key_C)
    QTest.keyClicks(hand.window.focusWidget(), "larger, please")
    QTest.keyClick(hand.window.focusWidget(), Key.Key_Return)
    hand.pressed("resolve")
    made = item(hand, "comments")
    assert (made["text"], made["widget"], made["resolved"]) == ("larger, please", "scrap", True)
    return made


def derived_fields(hand: Hand) -> dict[str, Any]:
    hand.pressed("+ derived")
    QTest.keyClicks(hand.window.focusWidget(), "hull / hull_max")
    lines = hand.window.desk.card._derived
    hand.type_into(lines.note, "how whole she is")
    hand.type_into(lines.name, "wholeness")
    made = item(hand, "derived")
    assert made == {"name": "wholeness", "rule": "hull / hull_max", "note": "how whole she is"}
    return made


def group_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    hand.command("group")
    hand.pressed("edit it")
    edit = hand.window.desk.group_edit
    hand.type_into(edit.name, "sold")
    hand.type_into(edit.rules["visible"], "diving")
    hand.type_into(edit.rules["opacity"], "0.8")
    hand.type_into(edit.offset[1], "7")
    change(hand, edit.outer)
    made = item(hand, "groups")
    assert (made["id"], made["visible"], made["opacity"], made["offset"]) == ("sold", "diving", "0.8", [0, 7])
    return made


def widget_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    hand.window.activateWindow()
    hand.key(Key.Key_R, CTRL)
    place = hand.window.desk.place_edit
    hand.type_into(place.title, "Sold")
    hand.type_into(place.name, "sold")
    QTest.keyClick(place, Key.Key_Escape)
    hand.command("group")
    card = hand.window.desk.card
    hand.type_into(card._belongs.note, "what it brought")
    change(hand, card._belongs.choices["repeat"])
    choice = card._missing.choice
    choice.setFocus()
    QTest.keyClick(choice, Key.Key_Down)
    QApplication.processEvents()
    hand.type_into(card._missing.field, "none yet")
    change(hand, card._structs[0].fields["roll"])
    change(hand, card._structs[1].fields["text"])
    change(hand, card._belongs.choices["style"])
    for part in ("enter", "leave"):
        change(hand, card._passing.choices[part])
    hand.pressed("+ pop")
    made = hand.widget("sold")
    assert (made["title"], made["missing"], made["note"]) == ("Sold", {"text": "none yet"}, "what it brought")
    return made


def hidden_while_missing(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    choice = hand.window.desk.card._missing.choice
    for _ in range(2):
        choice.setFocus()
        QTest.keyClick(choice, Key.Key_Down)
        QApplication.processEvents()
    found: dict[str, Any] = hand.widget("scrap")["missing"]
    assert found == {"hide": True}
    return {**found, "text": ""}  # which is written where it is shown: see above


def place_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    change(hand, hand.window.desk.card._belongs.choices["repeat"])
    hand.window.activateWindow()
    hand.key(Key.Key_P, CTRL)
    place = hand.window.desk.place_edit
    hand.type_into(place.numbers["x"], "-33")
    hand.type_into(place.numbers["wide"], "222")
    hand.type_into(place.step[0], "40")
    QTest.keyClick(place.anchor, Key.Key_Up)
    QTest.keyClick(place.pivot, Key.Key_Left)
    hand.type_into(place.rules["x"], "depth")
    found: dict[str, Any] = hand.widget("scrap")["place"]
    assert found["step"] == [40, -140]
    return found


def follow_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    hand.window.activateWindow()
    hand.key(Key.Key_P, CTRL)
    place = hand.window.desk.place_edit
    hand.type_into(place.rules["x"], "100 + depth")
    hand.type_into(place.rules["y"], "200")
    change(hand, place.arrow)
    found: dict[str, Any] = hand.widget("scrap")["place"]["follow"]
    assert (found["x"], found["y"]) == ("100 + depth", "200")
    return found


def band_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    said: dict[str, Any] = {}
    QTest.mouseClick(hand.window.desk.card.bands, LEFT, pos=QPoint(200, 40))
    hand.pressed("+ band with a condition")
    QTest.keyClicks(hand.window.focusWidget(), "leak")
    for band in hand.widget("hull_bar")["bands"]:
        said.update(band)
    assert said["when"] == "leak"
    QTest.mouseClick(hand.window.desk.card.band_lines[0].more, LEFT)
    hand.menu("Entered after")
    said["held"] = hand.widget("hull_bar")["bands"][0]["held"]
    assert said["held"] == "300ms"
    hand.press(hand.at("scrap"))
    hand.command("make it a bar")
    hand.pressed("+ band")
    said.update(next(iter(hand.widget("scrap")["bands"])))
    return {**said, "above": said.get("above", "")}  # of the other side, as where there are such bands


def plate_fields(hand: Hand) -> dict[str, Any]:
    hand.window.popups.plate.open_under(hand.window.header.plate)
    hand.type_into(hand.window.popups.plate.name, "the wreck")
    hand.type_into(hand.window.popups.plate.when, "depth > 20")
    hand.window.popups.plate.proportions.setFocus()
    QTest.keyClick(hand.window.popups.plate.proportions, Key.Key_Down)
    QApplication.processEvents()
    hand.drag(QPoint(80, 330), QPoint(100, 50))
    found = item(hand, "plates", 0)
    assert found["name"] == "the wreck"
    assert found["proportions"] == "cover", "the next one"
    return found


def film_plate_fields(hand: Hand) -> dict[str, Any]:
    """All of a plate: those of a picture, then those of a film beside it."""
    picture = plate_fields(hand)
    hand.window.popups.plate.close_it()
    hand.drop(*pictures(hand.folder.parent.parent / "shots", range(9)))
    hand.menu("Add a film")
    hand.window.popups.plate.open_under(hand.window.header.plate)
    edit = hand.window.popups.plate
    hand.type_into(edit.offset, "2,5")
    hand.type_into(edit.rate, "12")
    film = hand.file()["plates"][-1]
    assert (film["offset"], film["rate"], film["trace"]) == (2.5, 12, "traces/leaky-dive.csv")
    edit.recording.setFocus()
    QTest.keyClick(edit.recording, Key.Key_Up)
    QApplication.processEvents()
    assert "trace" not in hand.file()["plates"][-1]
    edit.close_it()
    return {**picture, **film}


def zone_fields(hand: Hand) -> dict[str, Any]:
    plate_fields(hand)
    hand.type_into(hand.window.popups.plate.zone, "the cabin")
    for axis, rule in (("x", "960 + depth"), ("y", "depth * 8")):
        hand.type_into(hand.window.popups.plate.follows[axis], rule)
    found: dict[str, Any] = item(hand, "plates", 0)["keep_clear"][-1]
    assert found["name"] == "the cabin"
    return found


def screen_fields(hand: Hand) -> dict[str, Any]:
    hand.window.popups.screen.open_under(hand.window.header.screen_link)
    edit = hand.window.popups.screen
    for field, text in ((edit.name, "tv"), (edit.wide, "1280"), (edit.high, "720"), (edit.safe, "4")):
        hand.type_into(field, text)
    for what, text in (("scale", "125"), ("inches", "50"), ("metres", "2,5")):
        hand.type_into(edit.seen[what], text)
    found = item(hand, "screens", 0)
    seen = {"scale": 1.25, "inches": 50, "metres": 2.5}
    views = [region_fields(hand), {"name": "right", "box": [0.5, 0, 0.5, 1], "slot": 1}]
    found = item(hand, "screens", 0)
    assert found.pop("views") == views
    assert found == {"name": "tv", "size": [1280, 720], "safe": 0.04, **seen}
    return {**found, "views": views}


def region_fields(hand: Hand) -> dict[str, Any]:
    """A part of a split screen."""
    edit = hand.window.popups.screen
    if not edit.isVisible():
        edit.open_under(hand.window.header.screen_link)
    edit.split.setFocus()
    QTest.keyClick(edit.split, Key.Key_Down)
    QApplication.processEvents()
    first = edit.views[0].fields
    for what, text in (("name", "mine"), ("slot", "3"), ("box", "0, 0, 40, 100 %")):
        hand.type_into(first[what], text)
    found: dict[str, Any] = item(hand, "screens", 0)["views"][0]
    assert found == {"name": "mine", "slot": 3, "box": [0, 0, 0.4, 1]}
    return found


def outcome_fields(hand: Hand) -> dict[str, Any]:
    from avrin.app.ladder_desk.desk import LadderDesk

    hand.window.show_desk("Ladder")
    desk = hand.window.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    QTest.mouseClick(desk.face_links["warning"], LEFT)
    desk.warning.outcome.choice.taken.emit("another …")
    hand.type_into(desk.warning.outcome.rule, "air <= 0")
    hand.type_into(desk.warning.outcome.called, "drowned")
    desk.wait()
    found = item(hand, "outcomes")
    assert found == {"name": "drowned", "rule": "air <= 0"}
    return found


def language_fields(hand: Hand) -> dict[str, Any]:
    from avrin.app.screens_desk.desk import ScreensDesk

    hand.window.show_desk("Screens")
    desk = hand.window.desks.currentWidget()
    assert isinstance(desk, ScreensDesk)
    desk.texts.open_under(desk.texts_link, "")
    hand.type_into(desk.texts.new_code, "fr")
    hand.type_into(desk.texts.font_field, "letters.ttf")
    QTest.mouseClick(desk.texts.mirror, LEFT)
    return item(hand, "languages")


def recording_fields(hand: Hand) -> dict[str, Any]:
    edit = hand.window.popups.recording
    edit.open_it()
    hand.pressed("add a variant")
    for name, text in (
        ("name", "the leaky one"),
        ("note", "by hand"),
        ("starts", "hull 50"),
        ("time", "t"),
        ("run", "run"),
    ):
        hand.type_into(edit.fields[name], text)
    QTest.mouseClick(edit._units["s"], LEFT)
    found = next(one for one in hand.file()["traces"] if isinstance(one, dict) and one.get("case"))
    assert (found["name"], found["note"], found["starts"]) == ("the leaky one", "by hand", {"hull": 50})
    edit.close_it()
    return found


def action_fields(hand: Hand) -> dict[str, Any]:
    desk = hand.window.desk
    hand.pressed("+ action")
    hand.type_into(desk.action_edit.line, "Push 9 air -1")
    desk.action_edit.open_for("Push")
    fields = desk.action_edit.fields
    hand.type_into(fields["label"], "Shove")
    hand.type_into(fields["key"], "J")
    hand.type_into(fields["set0"], "air")
    found = item(hand, "actions")
    assert (found["label"], found["key"], found["does"][0]["set"]) == ("Shove", "J", "air")
    return found


def change_fields(hand: Hand) -> dict[str, Any]:
    found: dict[str, Any] = action_fields(hand)["does"][0]
    return found


def passage_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    passing = hand.window.desk.card._passing
    for part, downs in (("enter", 2), ("leave", 3)):
        for _ in range(downs):
            passing.choices[part].setFocus()
            QTest.keyClick(passing.choices[part], Key.Key_Down)
            QApplication.processEvents()
        hand.type_into(passing.fields[part, "seconds"], "0.5")
    found = hand.widget("scrap")
    assert found["enter"] == {"how": "slide", "seconds": 0.5}
    assert found["leave"] == {"how": "grow", "seconds": 0.5}
    return dict(found["enter"])


def pop_fields(hand: Hand) -> dict[str, Any]:
    hand.press(hand.at("scrap"))
    hand.pressed("+ pop")
    card = hand.window.desk.card
    assert card._passing.row.edit.hasFocus(), "the rule can be written over at once"
    hand.type_into(card._passing.fields["pop", "size"], "1.5")
    hand.type_into(card._passing.fields["pop", "seconds"], "0,8")
    found: dict[str, Any] = hand.widget("scrap")["pop"]
    assert found == {"when": "change(scrap) != 0", "seconds": 0.8, "size": 1.5}
    return found


GESTURES: dict[str, Callable[[Hand], dict[str, Any]]] = {
    "Project": project_fields, "Variable": variable_fields, "Roster": roster_fields, "EventKind": event_fields,
    "Derived": derived_fields, "Group": group_fields, "Widget": widget_fields, "Place": place_fields,
    "Follow": follow_fields, "Band": band_fields, "WhileMissing": hidden_while_missing, "Plate": film_plate_fields,
    "Screen": screen_fields, "Locale": language_fields, "Recording": recording_fields, "Action": action_fields,
    "Assignment": change_fields, "Passage": passage_fields, "Pop": pop_fields, "Zone": zone_fields, "Region": region_fields,
    "Outcome": outcome_fields, "PlayerOption": option_fields, "Comment": comment_fields,
}  # fmt: skip
ELSEWHERE = {
    ("Comment", "author"): "git's user name: test_comments",
    ("Comment", "run"): "of a moment in a later run: test_comments",
    ("Project", "comments"): "said by the gestures of Comment",
    ("Project", "conflicts"): "written by a merge, decided in the window: test_conflicts",
    ("Project", "hush"): "said on the Findings desk, with a reason: test_findings_desk",
    ("Variable", "guessed"): "set by the program until the range is edited",
    ("Recording", "names"): "put right where a recording's names are matched: test_begin",
    ("Recording", "rate"): "of frames per second, where a unit of frames is said: test_window",
    ("Band", "above"): "the strip's other side: tests/arrange/test_bands",
}


@pytest.mark.parametrize("record", [name for name in DEFINED if "." not in name and name != "Conflict"])
def test_all_that_a_record_can_say_is_said_by_a_gesture(hand: Hand, record: str) -> None:
    said = GESTURES[record](hand)
    missing = [name for name in DEFINED[record] if name not in said and (record, name) not in ELSEWHERE]
    assert not missing, f"no gesture writes {missing} of {record}"
    again = hand.file()
    hand.window.workspace.files.open(hand.folder)
    assert hand.file() == again, "what was said comes back"
