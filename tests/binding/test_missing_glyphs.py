"""Characters that are not there are found whichever frame writes them, and at the first that does."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.missing_glyphs import missing_glyphs
from avrin.binding.tracks import Tracks
from avrin.project.project import Project, Variable, Widget
from avrin.trace.frames import Column, Trace, Value

numbers = st.one_of(st.none(), st.floats(-2000, 2000), st.sampled_from([float("inf"), 7.0, 0.25]))
words = st.one_of(st.none(), st.sampled_from(["", "air", "Ð 7", "x,y"]))


@given(
    st.lists(st.tuples(numbers, words, st.booleans()), min_size=1, max_size=12),
    st.sets(st.sampled_from("0123456789.,:-−+%∞ mairxyÐ—H")), st.sampled_from(["0", "0.00", "#,##0", "m:ss", "0%"]),
)  # fmt: skip
def test_they_are_what_each_frame_writes(
    frames: list[tuple[Value, Value, bool]], expected: set[str], shape: str
) -> None:
    text = f"H {{hull | {shape}}} m {{word}}"
    label = Widget(id="w", kind="label", inputs={"text": text, "visible": "there"})
    variables = (
        Variable(name="hull", type="float"), Variable(name="word", type="text"), Variable(name="there", type="bool"),
    )  # fmt: skip
    bound = bind(Project(variables=variables, widgets=(label,)))
    columns = {
        "hull": Column.of([0.0, *(one for one, _, _ in frames)]), "word": Column.of(["a", *(one for _, one, _ in frames)]),
        "there": Column.of([False, *(one for _, _, one in frames)]),
    }  # fmt: skip
    tracks = Tracks(bound, Trace.make("t", [float(i) for i in range(len(frames) + 1)], columns))
    widget = bound.widgets["w"]
    wanted: dict[str, int] = {}
    for frame in range(len(tracks.trace)):
        state = tracks.state_apart(widget, frame)
        for character in str(state["text"] or "") if state["visible"] else "":
            if character.isprintable() and character not in expected:
                wanted.setdefault(character, frame)
    assert missing_glyphs(tracks, widget, "text", expected.__contains__) == wanted
