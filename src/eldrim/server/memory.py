"""What a process holds for as long as it runs."""

import gc


def keep_loaded() -> None:
    """Set aside what is loaded by now: looking for what is done with passes it over from here on.

    Modules and tables are some two hundred thousand objects; to look through them all holds a
    request up for a tenth of a second.
    """
    gc.collect()
    gc.freeze()
