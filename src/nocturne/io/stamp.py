"""What a file was when it was read or written, to notice that somebody else has written it since."""

import hashlib
import os
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Stamp:
    """When a file was last written, its size, and a hash of what is in it."""

    changed_ns: int
    size: int
    digest: bytes

    @staticmethod
    def of(path: Path) -> "Stamp | None":
        """Return the stamp of a file as it is, None if it cannot be read."""
        try:
            about = os.stat(path)
            return Stamp(about.st_mtime_ns, about.st_size, hashlib.sha256(path.read_bytes()).digest())
        except OSError:
            return None

    def is_old(self, path: Path) -> bool:
        """Return True if something else is in the file by now; a file that is gone, or only touched, is not that."""
        try:
            about = os.stat(path)
        except OSError:
            return False
        if (about.st_mtime_ns, about.st_size) == (self.changed_ns, self.size):
            return False
        now = Stamp.of(path)
        return now is not None and now.digest != self.digest
