"""The sample is built again in the window alone, from its recordings and pictures, by mouse and keys; the files are compared.

What is wanted is read from the sample's own file, so that whatever it comes to say has to be said by a gesture.
"""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QMenu, QWidget

from avrin.editor.selecting import select_variable
from gestures import CTRL, LEFT, PLAIN, Hand, Key
from window_fixtures import opened_over, qapp  # noqa: F401

FIELDS = {"options": 0, "look": 1}  # of a kind, on the card


class Builder(Hand):
    """A hand that repeats by gestures what a file contains."""

    def __init__(self, window: Any) -> None:
        super().__init__(window)
        self.groups: set[str] = set()  # that are there
        self.groups_wanted: dict[str, dict[str, Any]] = {}

    def into(self, field: QWidget, value: Any) -> None:
        """Set a field of any type: choose one of several words, or type a text."""
        if isinstance(field, QComboBox):
            at = next(n for n in range(field.count()) if field.itemData(n) == value)
            field.showPopup()
            QApplication.processEvents()
            view = field.view()
            index = field.model().index(at, 0)
            view.scrollTo(index)
            QTest.mouseClick(view.viewport(), LEFT, PLAIN, view.visualRect(index).center())
            QApplication.processEvents()
            return
        text = ", ".join(f"{one:g}" for one in value) if isinstance(value, list) else str(value)
        if text:
            self.paste_into(field, text)
        else:
            self.type_into(field, "")

    def wake(self) -> None:
        """The window has the keys again."""
        self.window.activateWindow()
        QApplication.processEvents()

    @property
    def card(self) -> Any:
        return self.window.desk.card

    # -- what is declared ----------------------------------------------------------------------------------------------

    def variable(self, wanted: dict[str, Any], full: str = "") -> None:
        self.window.editor.do(select_variable, full or wanted["name"])
        self.wake()
        self.key(Key.Key_E, CTRL)
        editor = self.window.desk.lanes.form
        QTest.mouseClick(editor._links[wanted["type"]], LEFT)
        for name in ("low", "high", "unit", "start", "note"):
            if editor._fields[name].isEnabled():
                self.into(editor._fields[name], "" if wanted.get(name) is None else wanted[name])
        if bool(wanted.get("keeps")) != self.window.editor.now.project.all_variables()[full or wanted["name"]].keeps:
            QTest.mouseClick(editor._keeps, LEFT)
        editor.close_it()

    def event(self, wanted: dict[str, Any]) -> None:
        self.command("new event")
        self.into(self.card.event_lines.name, wanted["name"])
        for argument, type_ in wanted.get("args", {}).items():
            if argument not in self.card.event_lines.types:
                self.into(self.card.event_lines.more, argument)
            self.into(self.card.event_lines.types[argument], type_)
        self.into(self.card.event_lines.note, wanted.get("note", ""))

    def derived(self, wanted: dict[str, Any]) -> None:
        self.pressed("+ derived")
        self.into(self.card._derived.rule.edit, wanted["rule"])
        self.into(self.card._derived.note, wanted.get("note", ""))
        self.into(self.card._derived.name, wanted["name"])

    def action(self, wanted: dict[str, Any]) -> None:
        desk = self.window.desk
        edit, first = desk.action_edit, wanted["does"][0]
        edit.open_for("")
        self.into(edit.line, f"{wanted['label']} {wanted['key']} {first['set']} = {first['to']}")
        if not edit.isHidden():
            return
        edit.open_for(wanted["label"])
        for number, change in enumerate(wanted["does"]):
            if f"set{number}" not in edit.fields:
                self.pressed("+ set another")
            self.into(edit.fields[f"set{number}"], change["set"])
            self.into(edit.rows[number].edit, change["to"])
        edit.close_it()

    # -- widgets ---------------------------------------------------------------------------------------------------------

    def made(self, wanted: dict[str, Any]) -> None:
        """A widget, by its kind, its rules, what its kind knows, its bands, its place."""
        self.pressed("+ widget")
        self.menu(f"{wanted['kind']}\t")
        self.wake()
        self.key(Key.Key_R, CTRL)
        place = self.window.desk.place_edit
        self.into(place.name, wanted["id"])
        self.placed(place, wanted["place"])
        QTest.keyClick(place, Key.Key_Escape)
        for name, rule in wanted.get("inputs", {}).items():
            self.rule("inputs", name, rule, f"+ {name}")
        if wanted.get("style"):
            self.into(self.card._belongs.choices["style"], wanted["style"])
        self.options(wanted.get("options", {}))
        self.bands(wanted)
        for name, value in wanted.get("look", {}).items():
            if name != "bands":
                self.into(self.card._structs[FIELDS["look"]].fields[name], value)
        if wanted.get("group") and wanted["group"] not in self.groups:
            self.group(self.groups_wanted[wanted["group"]])
            self.groups.add(wanted["group"])
        elif wanted.get("group"):
            self.into(self.card._belongs.choices["group"], wanted["group"])

    def placed(self, edit: Any, wanted: dict[str, Any]) -> None:
        """What it hangs from on the nine dots, and its exact numbers."""
        for dots, name in ((edit.anchor, "anchor"), (edit.pivot, "pivot")):
            dots.setFocus()
            for key in (Key.Key_Up, Key.Key_Up, Key.Key_Left, Key.Key_Left):
                QTest.keyClick(dots, key)
            said = wanted.get(name, "top-left")
            down = {"top": 0, "bottom": 2}.get(said.split("-")[0], 1)
            right = {"left": 0, "right": 2}.get(said.split("-")[-1], 1)
            for _ in range(down):
                QTest.keyClick(dots, Key.Key_Down)
            for _ in range(right):
                QTest.keyClick(dots, Key.Key_Right)
        x, y = wanted.get("offset", [0, 0])
        wide, high = wanted.get("size", [200, 40])
        for name, number in (("wide", wide), ("high", high), ("x", x), ("y", y)):
            self.into(edit.numbers[name], f"{number:g}")

    def row(self, part: str, name: str, field: str = "") -> Any:
        """The card's row of a rule; None if the card shows no such rule."""
        places = ((row, row.place) for row in self.card.rows)
        return next((row for row, at in places if (at.part, at.name, at.field) == (part, name, field)), None)

    def rule(self, part: str, name: str, text: str, adding: str = "", field: str = "") -> None:
        if self.row(part, name, field) is None:
            self.pressed(adding)
        self.into(self.row(part, name, field).edit, text)

    def options(self, wanted: dict[str, Any]) -> None:
        for name, value in wanted.items():
            parts = self.card._structs[FIELDS["options"]]
            if name == "roster":
                self.pressed(f"rows of {value}")
            elif name == "columns":
                for number, column in enumerate(value):
                    self.pressed(f"+ {column['text'].split('.')[-1].split('}')[0].split(' ')[0]}")
                    self.rule("options", f"columns.{number}.text", column["text"])
                    titles = [f for f in self.card.findChildren(QWidget) if f.accessibleName() == "title"]
                    self.into(titles[number], column["title"])
            elif name in ("sort_by", "mark"):
                self.rule("options", name, value, {"sort_by": "+ sorting", "mark": "+ marked row"}[name])
            elif name == "lines":
                for event, text in value.items():
                    self.rule("options", f"lines.{event}", text, f"+ {event}")
            elif name == "does":
                self.does(value)
            elif isinstance(value, dict):
                if not any(known.startswith(f"{name}.") for known in parts.fields):
                    self.pressed(f"+ {name}")
                for key, one in value.items():
                    if f"{name}.{key}" not in self.card._structs[FIELDS["options"]].fields:
                        self.pressed(f"+ other {name}")
                        self.into(self.card._structs[FIELDS["options"]].names[name], key)
                    self.into(self.card._structs[FIELDS["options"]].fields[f"{name}.{key}"], one)
            else:
                self.into(parts.fields[name], value)

    def does(self, wanted: list[dict[str, str]]) -> None:
        for number, change in enumerate(wanted):
            if self.row("options", f"does.{number}.to") is None:
                self.pressed("+ set a value")
            for part in ("set", "to"):
                row = self.row("options", f"does.{number}.{part}")
                if row is not None:
                    self.into(row.edit, change[part])

    def bands(self, wanted: dict[str, Any]) -> None:
        looks = wanted.get("look", {}).get("bands", {})
        for number, band in enumerate(wanted.get("bands", ())):
            self.pressed("+ band with a condition" if band.get("when") else "+ band")
            line = self.card.band_lines[-1] if band.get("when") else self.card.band_lines[number]
            self.into(line.name, band["name"])
            for field in ("below", "above", "when"):
                if field in band:
                    self.rule("bands", band["name"], band[field], field=field)
            if "back" in band:
                self.band_menu(band["name"], "Left beyond")
                self.rule("bands", band["name"], band["back"], field="back")
            if "held" in band:
                self.band_menu(band["name"], "Entered after")
                self.rule("bands", band["name"], band["held"], field="held")
        for name, look in looks.items():
            self.into(self.named("band whose look is shown"), f"when {name}")
            for part, value in look.items():
                self.into(self.card._structs[FIELDS["look"]].fields[part], value)
        if looks:
            self.into(self.named("band whose look is shown"), "outside all bands")

    def named(self, name: str) -> Any:
        """A control of the card by what it is called."""
        return next(one for one in self.card.findChildren(QWidget) if one.accessibleName() == name and one.isVisible())

    def band_menu(self, band: str, begins: str) -> None:
        line = next(line for line in self.card.band_lines if line.band.name == band)
        QTest.mouseClick(line.more, LEFT)
        self.menu(begins)

    def style(self, name: str, look: dict[str, Any]) -> None:
        """A style of a widget's look; the widget goes again."""
        self.pressed("+ widget")
        self.menu("pips\t")
        for part, value in look.items():
            self.into(self.card._structs[FIELDS["look"]].fields[part], value)
        self.into(self.card._belongs.choices["style"], "new …")
        self.into(self.card._belongs.style_name, name)
        self.key(Key.Key_Delete)

    def group(self, wanted: dict[str, Any]) -> None:
        """What is chosen comes into a new group."""
        self.wake()
        self.key(Key.Key_G, CTRL)
        self.pressed("edit it")
        edit = self.window.desk.group_edit
        self.into(edit.name, wanted["id"])
        self.into(edit.rules["visible"], wanted["visible"])
        edit.close_it()

    # -- surroundings ---------------------------------------------------------------------------------------------------

    def plate(self, wanted: dict[str, Any]) -> None:
        """A picture that is dropped; its zones drawn, and put exactly by their numbers."""
        self.drop(self.folder.parent / (wanted.get("film") or wanted["picture"]))
        if "picture" in wanted:
            self.menu("Add as a plate")
        edit = self.window.popups.plate
        self.window.header.pick_plate()
        self.menu("Name, ")
        self.into(edit.name, wanted["name"])
        if "film" in wanted:
            self.into(edit.offset, wanted["offset"])
            self.into(edit.recording, Path(wanted["trace"]).stem)
        for number, zone in enumerate(wanted.get("keep_clear", ())):
            self.drag(QPoint(60, 330 + 10 * number), QPoint(80, 50))
            for field, side in zip(edit.box, zone, strict=True):
                self.into(field, side)
        edit.close_it()

    def outcome(self, wanted: dict[str, Any]) -> None:
        """What the HUD warns of, said where it is asked."""
        self.window.show_desk("Ladder")
        desk: Any = self.window.desks.currentWidget()
        QTest.mouseClick(desk.face_links["warning"], LEFT)
        QApplication.processEvents()
        self.into(desk.warning.outcome.rule, wanted["rule"])
        self.into(desk.warning.outcome.called, wanted["name"])
        desk.wait()
        self.window.show_desk("Bind")

    def language(self, wanted: dict[str, Any]) -> None:
        self.window.show_desk("Screens")
        desk: Any = self.window.desks.currentWidget()
        desk.texts.open_under(desk.texts_link, "")
        self.into(desk.texts.new_code, wanted["code"])
        if wanted.get("mirror"):
            QTest.mouseClick(desk.texts.mirror, LEFT)
        desk.texts.close_it()
        self.window.show_desk("Bind")

    def screen(self, wanted: dict[str, Any]) -> None:
        self.window.header.pick_screen()
        QApplication.processEvents()
        found = QApplication.activePopupWidget()
        assert isinstance(found, QMenu)
        sizes: Any = next(one.menu() for one in found.actions() if one.text() == "Add one")
        sizes.actions()[0].trigger()
        found.close()
        self.wake()
        edit = self.window.popups.screen
        edit.open_under(self.window.header.screen_link)
        self.into(edit.name, wanted["name"])
        self.into(edit.wide, wanted["size"][0])
        self.into(edit.high, wanted["size"][1])
        self.into(edit.safe, f"{100 * wanted.get('safe', 0):g}")
        edit.close_it()

    def recording(self, wanted: dict[str, Any]) -> None:
        """What is said of a recording, once it is looked at."""
        self.window.header.pick_trace()
        self.menu(wanted["path"].split("/")[-1].split(".")[0])
        edit = self.window.popups.recording
        edit.open_it()
        for name in ("name", "note"):
            self.into(edit.fields[name], wanted.get(name, ""))
        edit.close_it()


@pytest.fixture
def bare(demo: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Builder]:
    """Recordings and pictures alone, from an empty home; the first recording is open."""
    game = tmp_path / "game"
    for name in ("traces", "plates", "films"):
        shutil.copytree(demo.parent / name, game / name)
    with opened_over(game / "traces" / "leaky-dive.csv", tmp_path / "home", monkeypatch, game / demo.name) as made:
        yield Builder(made)


@pytest.mark.long
def test_the_sample_is_built_again_by_mouse_and_keys(bare: Builder, demo: Path) -> None:
    wanted = json.loads(demo.read_text("utf-8"))
    for variable in wanted["variables"]:
        bare.variable(variable)
    for roster in wanted["rosters"]:
        for field in roster["fields"]:
            bare.variable(field, f"{roster['name']}[0].{field['name']}")
    for event in wanted["events"]:
        bare.event(event)
    for derived in wanted["derived"]:
        bare.derived(derived)
    found = bare.file()
    for part in ("variables", "rosters", "events", "derived"):
        assert found[part] == wanted[part]
    for action in wanted["actions"]:
        bare.action(action)
    assert bare.file()["actions"] == wanted["actions"]
    for name, look in wanted["styles"].items():
        bare.style(name, look)
    assert bare.file()["styles"] == wanted["styles"]
    bare.groups_wanted = {group["id"]: group for group in wanted["groups"]}
    for number, widget in enumerate(wanted["widgets"]):
        bare.made(widget)
        assert bare.file()["widgets"][number] == widget
    bare.drop(*(bare.folder.parent / one["path"] for one in wanted["traces"][1:]))
    for recording in wanted["traces"]:
        bare.recording(recording)
    for plate in wanted["plates"]:
        bare.plate(plate)
    for screen in wanted["screens"]:
        bare.screen(screen)
    for language in wanted["languages"]:
        bare.language(language)
    for outcome in wanted["outcomes"]:
        bare.outcome(outcome)
    bare.wake()
    bare.key(Key.Key_I, CTRL)
    bare.into(bare.window.popups.project.title, wanted["title"])
    bare.window.popups.project.close_it()
    assert bare.file() == wanted
