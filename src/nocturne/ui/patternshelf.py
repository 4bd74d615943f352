"""The shelf of own patterns as the window has it: read and written beside it."""

from collections.abc import Callable, Iterator
from pathlib import Path

from nocturne.io import ownpatterns
from nocturne.io.ownpatterns import OwnPattern
from nocturne.jobs import Update
from nocturne.scene.patterns import Step
from nocturne.ui.files import Files
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session

KIND = "Own patterns"


class PatternShelf:
    """Own patterns that can be put into any material."""

    def __init__(self, session: Session, runner: Runner, files: Files) -> None:
        self.session, self.runner, self.files = session, runner, files
        self.patterns: tuple[OwnPattern, ...] = ()

    def read(self) -> None:
        """Read what is on the shelf."""
        self.runner.submit(KIND, _after(lambda: None), self._show, replace=False)

    def keep(self, step: Step, name: str) -> None:
        """Keep a step for all projects."""
        folder = self.files.folder()

        def done(found: tuple) -> None:
            self._show(found)
            self.session.said.emit(f"Kept as own pattern “{name}”: it is under “Drive a parameter with…”.", False)

        self.runner.submit(KIND, _after(lambda: ownpatterns.keep(step, name, folder)), done, replace=False)

    def remove(self, pattern: OwnPattern) -> None:
        """Take a pattern off the shelf."""
        self.runner.submit(KIND, _after(lambda: ownpatterns.remove(pattern)), self._show, replace=False)

    def step_of(self, pattern: OwnPattern) -> Step:
        """Return a kept step as this project names its pictures."""
        return ownpatterns.with_paths(pattern.step, lambda path: self.files.relative(Path(path)) if path else path)

    def _show(self, found: tuple[tuple[OwnPattern, ...], list]) -> None:
        self.patterns, refused = found
        for error in refused:
            self.session.said.emit(str(error), True)


def _after(what: Callable[[], object]) -> Iterator[Update]:
    """Do something with the shelf, then read it."""
    yield Update(0, 1, KIND)
    what()
    yield Update(1, 1, KIND, result=ownpatterns.own())
