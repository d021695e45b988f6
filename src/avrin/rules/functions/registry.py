"""All functions of the rule language. To add a function, add an entry to a module of this package."""

from avrin.rules.functions import events, over_time, plain, smooth, so_far, texts
from avrin.rules.functions.spec import Function

__all__ = ["FUNCTIONS"]

FUNCTIONS: dict[str, Function] = {
    f.name: f for module in (plain, over_time, so_far, smooth, events, texts) for f in module.FUNCTIONS
}
