"""Loading OpenUSD's library before Python imports it, so that no two threads wait for each other.

While the library is loaded, its own start lets go of the interpreter's lock and takes it again, and the system's lock
on loading is held all the while. NumPy looks up addresses, which needs that lock, with the interpreter's in hand: an
import of the library on one thread and a product of large arrays on another have been seen to wait for each other for
good. Loaded by a call that does not hold the interpreter's lock, the library's start has nothing to let go of.
"""

import ctypes
import importlib.util
import os
import sys
from pathlib import Path


def ready() -> None:
    """Load the library, if that was not done before; where it lies elsewhere, the import will do it."""
    if "pxr" in sys.modules:
        return
    found = importlib.util.find_spec("pxr")
    if found is None or not found.submodule_search_locations:
        return
    folder = Path(next(iter(found.submodule_search_locations))).parent / "usd_core.libs"
    load = ctypes.CDLL(None).dlopen
    load.argtypes, load.restype = (ctypes.c_char_p, ctypes.c_int), ctypes.c_void_p
    # What the library itself needs has to be there first: it does not know where to look.
    for path in sorted(folder.glob("*.so*"), key=lambda path: path.name.startswith("libusd")):
        load(os.fsencode(path), os.RTLD_NOW)
