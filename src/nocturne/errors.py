"""Every error a user may see.

NocturneError                 message for a user, plus .hint: what to do about it
  SceneError   .where         the document contradicts itself, e.g. "lights/key/size"
  FileError    .path          UnknownFormat, BadFile, NewerVersion, MissingFile
  RenderError                 OutOfMemory, NotSupported
Cancelled                     not a NocturneError, so no dialog can show it; raised only by jobs.run
"""

from pathlib import Path


class NocturneError(Exception):
    """Something went wrong that a user can understand and mend."""

    def __init__(self, message: str, *, hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint

    def __str__(self) -> str:
        """Return the message and, after it, what to do."""
        return f"{self.message} {self.hint}".strip()


class SceneError(NocturneError):
    """The document contradicts itself at `where`."""

    def __init__(self, message: str, *, where: str = "", hint: str = "") -> None:
        super().__init__(message, hint=hint)
        self.where = where


class FileError(NocturneError):
    """A file could not be read or written."""

    def __init__(self, path: Path | str, message: str, *, hint: str = "") -> None:
        super().__init__(f"{path}: {message}", hint=hint)
        self.path = Path(path)


class UnknownFormat(FileError):
    """No reader or writer knows this kind of file."""


class BadFile(FileError):
    """The file is damaged or is not what its name says."""


class NewerVersion(FileError):
    """The file was written by a newer Nocturne."""


class MissingFile(FileError):
    """The file is not there."""


class RenderError(NocturneError):
    """The picture could not be computed."""


class OutOfMemory(RenderError):
    """The picture needs more memory than there is."""


class NotSupported(RenderError):
    """The engine cannot compute what was asked for."""


class Cancelled(Exception):
    """Work was stopped by the user."""
