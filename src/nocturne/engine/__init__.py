"""Document to light on film: arrays, Embree scenes, compiled kernels.

Importing this package points Numba's cache at a folder of its own, named by a hash of the kernel sources and of the
versions that compile them, so that a cached kernel is never stale (Numba does not notice a changed callee).
"""

from nocturne.engine.cache import use_cache_folder

use_cache_folder()
