"""Lane layout: at any scroll position no two lanes overlap, and the wanted lane is visible if there is room."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from avrin.app.bind_desk.lanes.stack import Stack
from avrin.editor.lanes import Lane

heights = st.lists(st.integers(20, 60), min_size=1, max_size=30)


def stack_of(tall: list[int], wanted: list[int], shift: int, room: int) -> Stack:
    stack = Stack()
    stack.show([Lane(str(number), "variable", height) for number, height in enumerate(tall)])
    stack.look(shift, room, 500)
    stack.keep([(str(number), "variable") for number in wanted])
    return stack


@given(heights, st.data(), st.integers(100, 500))
def test_every_height_is_of_one_lane_and_wanted_ones_come_first(
    tall: list[int], data: st.DataObject, room: int
) -> None:
    shift = data.draw(st.integers(0, max(0, sum(tall) - room)))
    wanted = data.draw(st.lists(st.integers(0, len(tall) - 1), max_size=4, unique=True))
    stack = stack_of(tall, wanted, shift, room)
    for y in range(0, min(room, sum(tall)), 7):
        found = stack.at(y)
        assert found is not None, "every height belongs to a lane"
        assert found[1] <= y < found[1] + found[0].height
    if wanted:
        place = stack.place(str(wanted[0]), "variable")
        assert place is not None
        assert place.y() >= 0, "the most wanted is seen wholly"
        assert place.bottom() < room
    assert stack.held <= max(0.6 * room, 60)
    held = [lane.name for lane, _ in stack.stays()]
    assert held == [str(number) for number in wanted if str(number) in held], "in the order they are wanted"


@given(heights, st.data(), st.integers(60, 300))
def test_a_lane_is_brought_into_sight_by_the_least_that_does_it(
    tall: list[int], data: st.DataObject, room: int
) -> None:
    most = max(0, sum(tall) - room)
    shift, number = data.draw(st.integers(0, most)), data.draw(st.integers(0, len(tall) - 1))
    stack = stack_of(tall, [], shift, room)
    top = sum(tall[:number])
    brought = stack.bring(str(number), "variable")
    assert brought <= top
    assert top + tall[number] <= brought + room
    if shift <= top and top + tall[number] <= shift + room:
        assert brought == shift


def test_as_worked_by_hand() -> None:
    stack = stack_of([30, 40, 50, 30, 40], [3, 0], 60, 100)  # 3 is at 60, fully visible; 0 is scrolled out
    assert [(lane.name, top) for lane, top in stack.stays()] == [("0", 0)]
    assert stack.held == 30
    assert [(lane.name, top) for lane, top in stack.scrolled()] == [("2", 10), ("3", 60), ("4", 90)]
    assert stack.place("3", "variable").getRect() == (0, 60, 500, 30)  # type: ignore[union-attr]
    assert stack.place("0", "variable").getRect() == (0, 0, 500, 30)  # type: ignore[union-attr]
    assert stack.place("0", "widget") is None
    assert stack.tall == 190
