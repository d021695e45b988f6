"""Lazy packages: a package's modules are loaded when one of their names is first used.

`from avrin.rules import parse` loads one module of the package instead of all of them, which cuts a third of the start.
A package lists its exports in `__init__` as ordinary imports from its own modules. They are recorded when the package is
loaded and resolved on first access (PEP 562).
"""

from __future__ import annotations

import builtins
import sys
from collections.abc import Mapping, Sequence
from importlib import import_module
from importlib.machinery import ModuleSpec, PathFinder, SourceFileLoader
from types import ModuleType

__all__ = ["open_when_wanted"]


def open_when_wanted(package: str) -> None:
    """Load the packages inside `whole` lazily from now on."""
    sys.meta_path.insert(0, _Finder(f"{package}."))


class _Finder:
    """Find the lazy packages and nothing else."""

    def __init__(self, prefix: str) -> None:
        self._prefix = prefix

    def find_spec(
        self, name: str, path: Sequence[str] | None = None, target: ModuleType | None = None
    ) -> ModuleSpec | None:
        if not name.startswith(self._prefix):
            return None
        spec = PathFinder.find_spec(name, path, target)
        if spec is not None and spec.submodule_search_locations and isinstance(spec.loader, SourceFileLoader):
            spec.loader = _Room(spec.loader.name, spec.loader.path)
        return spec


class _Note:
    """A placeholder for a name of a module that is not loaded yet."""

    def __init__(self, module: str, name: str) -> None:
        self.module, self.name = module, name


class _Notes:
    """A placeholder for a module that names are imported from."""

    def __init__(self, module: str) -> None:
        self._module = module

    def __getattr__(self, name: str) -> _Note:
        return _Note(self._module, name)


class _Room(SourceFileLoader):
    """Load a package without its modules."""

    def exec_module(self, module: ModuleType) -> None:
        own, names = f"{module.__name__}.", vars(module)

        def noted(
            name: str, globals_: Mapping[str, object] | None = None, locals_: Mapping[str, object] | None = None,
            fromlist: Sequence[str] = (), level: int = 0,
        ) -> object:  # fmt: skip
            if fromlist and name.startswith(own):
                return _Notes(name)
            return builtins.__import__(name, globals_, locals_, fromlist, level)

        names["__builtins__"] = {**vars(builtins), "__import__": noted}
        super().exec_module(module)
        names["__builtins__"] = builtins
        notes = {name: value for name, value in names.items() if isinstance(value, _Note)}
        for name in notes:
            del names[name]
        names["_notes"] = notes
        module.__class__ = _OpenRoom


class _OpenRoom(ModuleType):
    """A package some of whose modules may not be loaded yet."""

    _notes: dict[str, _Note]

    def __getattr__(self, name: str) -> object:
        note = self._notes.get(name)
        if note is None:
            raise AttributeError(f"module {self.__name__!r} has no attribute {name!r}")
        vars(self)[name] = value = getattr(import_module(note.module), note.name)
        return value

    def __setattr__(self, name: str, value: object) -> None:
        if not (
            isinstance(value, ModuleType) and name in self._notes
        ):  # a submodule with the name of an export must not hide it
            super().__setattr__(name, value)

    def __dir__(self) -> list[str]:
        return sorted({*vars(self), *self._notes})
