"""OpenUSD's library is there before Python imports it, and other threads go on meanwhile."""

import subprocess
import sys

LOADED = """
import sys, threading
import numpy as np
from nocturne.io.models import usdlibrary
going = True
def work():
    a = np.ones(300_000)
    while going:
        (a * 2.0) * 3.0 + (a + 1.0)
thread = threading.Thread(target=work)
thread.start()
usdlibrary.ready()
assert "pxr" not in sys.modules
assert "libusd" in open("/proc/self/maps").read(), "the library is loaded"
from pxr import Usd
going = False
thread.join()
assert Usd.Stage.CreateInMemory() is not None
usdlibrary.ready()
"""


def test_the_library_is_loaded_before_it_is_imported_beside_other_work():
    done = subprocess.run([sys.executable, "-c", LOADED], timeout=120, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
