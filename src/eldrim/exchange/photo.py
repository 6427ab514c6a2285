"""A photo as it is kept: upright, no larger than a page needs, with nothing about where or who."""

import io
from threading import Lock

from PIL import Image, ImageOps, UnidentifiedImageError

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.words.messages import gettext

MAX_BYTES = 12_000_000
MAX_PIXELS = 50_000_000
MAX_SIDE_PX = 1600


def read_photo(data: bytes) -> tuple[bytes, tuple[int, int]]:
    """Return the photo as JPEG with width and height in pixels.

    What the camera wrote beside the picture (place, time, device) is left behind. Raises
    :class:`ProblemsError` for what is no photo, or too large.
    """
    if len(data) > MAX_BYTES:
        raise ProblemsError(
            [Problem("photo", gettext("the photo is over 12 MB"), gettext("take a smaller one"))]
        )
    with _one_at_a_time:
        return _read(data)


# A photo of 50 million pixels takes 150 MB while it is read.
_one_at_a_time = Lock()


def _read(data: bytes) -> tuple[bytes, tuple[int, int]]:
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP")) as opened:
            if opened.width * opened.height > MAX_PIXELS:
                fix = gettext("take a smaller one")
                raise ProblemsError([Problem("photo", gettext("over 50 million pixels"), fix)])
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError, SyntaxError) as error:
        fix = gettext("choose a JPEG, PNG or WebP file")
        raise ProblemsError([Problem("photo", gettext("this is not a photo"), fix)]) from error
    upright.thumbnail((MAX_SIDE_PX, MAX_SIDE_PX))
    # A comment would be written along.
    upright.info.clear()
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=84, optimize=True)
    return out.getvalue(), upright.size


# Segments of a JPEG that make up its picture; the rest say where, when, with what, or anything.
_PICTURE = {0xC0, 0xC1, 0xC2, 0xC4, 0xDB, 0xDD, 0xDA, 0xE0}
_END = b"\xff\xd9"


def holds_only_its_picture(data: bytes) -> bool:
    """Whether a JPEG is a whole picture: no place, time or comment beside it, nothing after it.

    How its colours are meant is part of it: photos kept by earlier versions say so.
    """
    at = 2
    while data[:2] == b"\xff\xd8" and data[at : at + 1] == b"\xff" and len(data) > at + 4:
        kind, size = data[at + 1], int.from_bytes(data[at + 2 : at + 4])
        # The head may carry a small picture of its own; ours never does.
        colours = kind == 0xE2 and data[at + 4 : at + 16] == b"ICC_PROFILE\0"
        known = kind in _PICTURE and (kind != 0xE0 or size == 16)
        if not (known or colours) or size < 2:
            return False
        if kind == 0xDA:
            return data.find(_END, at) == len(data) - 2 and _decodes(data)
        at += 2 + size
    return False


def _decodes(data: bytes) -> bool:
    try:
        with _one_at_a_time, Image.open(io.BytesIO(data), formats=("JPEG",)) as opened:
            if opened.width * opened.height > MAX_PIXELS:
                return False
            opened.load()
    except (OSError, Image.DecompressionBombError, SyntaxError):
        return False
    return True
