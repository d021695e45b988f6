"""A project around one sample widget of a kind, for the manual, tests and benchmarks."""

from __future__ import annotations

from avrin.kinds.kind import Kind, KindSample
from avrin.project.project import EventKind, Place, Project, Roster, Variable, Widget

__all__ = ["sample_project", "sample_widget"]

VARIABLES = (
    Variable(name="hull", type="float"),
    Variable(name="full", type="float"),
    Variable(name="words", type="text"),
)
FIELDS = (Variable(name="name", type="text"), Variable(name="scrap", type="int"))


def sample_widget(kind: Kind, sample: KindSample) -> Widget:
    """The widget `w` of a kind, in the middle of the screen."""
    return Widget(
        id="w", kind=kind.name, inputs=dict(sample.inputs), options=dict(sample.options), look=dict(sample.look),
        bands=sample.bands, place=Place(anchor="center", pivot="center", size=sample.size),
    )  # fmt: skip


def sample_project(*widgets: Widget, slots: int = 2) -> Project:
    """Return a project that declares everything samples use. slots: of the roster `crew`."""
    return Project(
        variables=VARIABLES,
        rosters=(Roster(name="crew", slots=slots, fields=FIELDS),),
        events=(EventKind(name="hit", args={"points": "float"}),),
        widgets=widgets,
    )
