"""Documents of MaterialX, read and checked by its own library; nothing beside the file itself is opened."""

from functools import cache
from pathlib import Path
from typing import Any

from nocturne.errors import BadFile

_MOST_BYTES = 16_000_000


@cache
def _standard() -> Any:
    import MaterialX as mx

    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    return library


def empty() -> Any:
    """Return a document that knows the standard's nodes."""
    import MaterialX as mx

    document = mx.createDocument()
    document.setDataLibrary(_standard())
    return document


def opened(path: Path) -> Any:
    """Return the document of a file; versions from 1.36 on are brought up to the newest.

    Raises
    ------
    FileError
        If it is damaged, or too large.
    """
    import MaterialX as mx

    if path.stat().st_size > _MOST_BYTES:
        raise BadFile(path, "it is larger than 16 MB.", hint="Split it into several files.")
    document = empty()
    options = mx.XmlReadOptions()
    # By itself the library opens whatever file a document names.
    options.readXIncludeFunction = None
    try:
        mx.readFromXmlString(document, path.read_text(encoding="utf-8"), mx.FileSearchPath(), options)
    except (mx.ExceptionParseError, mx.ExceptionFileMissing, mx.Exception, UnicodeDecodeError) as error:
        raise BadFile(path, f"it is no MaterialX ({str(error)[:160]}).", hint="Export it again.") from error
    return document


def includes(path: Path) -> list[str]:
    """Return the files that a document wants to take in; they are not opened."""
    import re

    text = path.read_text(encoding="utf-8", errors="replace")
    return re.findall(r"<xi:include[^>]*href=\"([^\"]+)\"", text)


def written(document: Any) -> str:
    """Return a document as text, without the standard's library.

    Raises
    ------
    ValueError
        If the library finds it invalid: this is a fault of whoever wrote it.
    """
    import MaterialX as mx

    is_valid, words = document.validate()
    if not is_valid:
        raise ValueError(f"invalid MaterialX: {words}")
    return mx.writeToXmlString(document)
