"""What is loaded is looked through no more; what is done with is still found."""

import subprocess
import sys

PROGRAM = """
import gc, weakref
from eldrim.server.memory import keep_loaded

class Ring:
    pass

loaded = len(gc.get_objects())
keep_loaded()
assert len(gc.get_objects()) < loaded / 10, (len(gc.get_objects()), loaded)
ring = Ring()
ring.me, seen = ring, weakref.ref(ring)
del ring
gc.collect()
assert seen() is None
"""


def test_what_is_loaded_is_set_aside() -> None:
    """In a process of its own, since what is set aside stays so."""
    ended = subprocess.run([sys.executable, "-c", PROGRAM], capture_output=True, text=True)
    assert ended.returncode == 0, ended.stderr
