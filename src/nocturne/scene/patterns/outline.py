"""Steps as an outline: where each stands, and what can be done to one of them. Everything returns new steps.

A path leads to a step: its number among the material's, then among that step's own, and so on.
"""

from collections.abc import Iterator
from typing import NamedTuple

from nocturne.scene.patterns.adjust import Mix
from nocturne.scene.patterns.step import MOST_DEEP, Step, depth_of

Path = tuple[int, ...]
Steps = tuple[Step, ...]


class Place(NamedTuple):
    """A step and where it stands."""

    path: Path
    step: Step
    owner: Step | None  # whose number or colour it drives; None: the material's

    @property
    def depth(self) -> int:
        """Return how deep it stands: 0 for what drives the material itself."""
        return len(self.path) - 1


def places(steps: Steps, *, above: Path = (), owner: Step | None = None) -> Iterator[Place]:
    """Yield the steps from the result down to the sources: what lies on top first, what drives it below it."""
    order = {parameter: k for k, parameter in enumerate(dict.fromkeys(s.parameter for s in steps))}
    for k in sorted(range(len(steps)), key=lambda k: (order[steps[k].parameter], -k)):
        yield Place((*above, k), steps[k], owner)
        yield from places(steps[k].steps, above=(*above, k), owner=steps[k])


def at(steps: Steps, path: Path) -> Step | None:
    """Return the step that a path leads to, None if it leads nowhere."""
    if not path or not 0 <= path[0] < len(steps):
        return None
    step = steps[path[0]]
    return step if len(path) == 1 else at(step.steps, path[1:])


def exchanged(steps: Steps, path: Path, *new: Step) -> Steps:
    """Return steps with others, or none, in the place of one."""
    k = path[0]
    if len(path) == 1:
        return (*steps[:k], *new, *steps[k + 1 :])
    inner = exchanged(steps[k].steps, path[1:], *new)
    return (*steps[:k], with_steps(steps[k], inner), *steps[k + 1 :])


def with_steps(step: Step, inner: Steps) -> Step:
    """Return a step with others inside of it, checked."""
    fields = {name: getattr(step, name) for name in type(step).model_fields}
    return type(step)(**{**fields, "steps": inner})


def added(steps: Steps, owner: Path, new: Step) -> Steps:
    """Return steps with one more, on top: the material's own, or inside of the step that a path leads to.

    As they are where that would go too deep.
    """
    if not owner:
        return (*steps, new)
    step = at(steps, owner)
    is_too_deep = len(owner) + depth_of(new) > MOST_DEEP
    return steps if step is None or is_too_deep else exchanged(steps, owner, with_steps(step, (*step.steps, new)))


def shifted(steps: Steps, path: Path, by: int) -> Steps:
    """Return steps with one brought above (1, or more) or below (-1, or less) others that drive the same."""
    *above, k = path
    siblings = steps if not above else at(steps, tuple(above)).steps
    same = [i for i, step in enumerate(siblings) if step.parameter == siblings[k].parameter]
    at_now = same.index(k)
    to = min(max(at_now + by, 0), len(same) - 1)
    if to == at_now:
        return steps
    moved = [siblings[i] for i in same]
    moved.insert(to, moved.pop(at_now))
    order = list(siblings)
    for i, step in zip(same, moved):
        order[i] = step
    if not above:
        return tuple(order)
    return exchanged(steps, tuple(above), with_steps(at(steps, tuple(above)), tuple(order)))


def mixed(steps: Steps, path: Path) -> Steps:
    """Return steps with one become the first of two that are mixed, ready for the second and for a mask."""
    step = at(steps, path)
    if step is None or len(path) + depth_of(step) > MOST_DEEP:
        return steps
    kept = {"amount": step.amount, "blend": step.blend, "on": step.on}
    inner = step.model_copy(update={"parameter": "bg", "amount": 1.0, "blend": "replace"})
    return exchanged(steps, path, Mix(parameter=step.parameter, steps=(inner,), **kept))


def unmixed(steps: Steps, path: Path) -> Steps:
    """Return steps with the steps inside of one in its place, driving what it drove: the way back from `mixed`."""
    step = at(steps, path)
    if step is None or not step.steps:
        return steps
    first = step.steps[0]
    kept = {"parameter": step.parameter, "amount": step.amount, "blend": step.blend}
    return exchanged(steps, path, first.model_copy(update=kept))
