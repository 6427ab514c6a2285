"""A photo as it is kept: upright, no larger than a page needs, with nothing about where or who."""

import io

from PIL import Image, ImageOps, UnidentifiedImageError

from eldrim.core.errors import Problem, ProblemsError

MAX_BYTES = 12_000_000
MAX_PIXELS = 50_000_000
MAX_SIDE_PX = 1600


def read_photo(data: bytes) -> tuple[bytes, tuple[int, int]]:
    """Return the photo as JPEG with width and height in pixels.

    What the camera wrote beside the picture (place, time, device) is left behind. Raises
    :class:`ProblemsError` for what is no photo, or too large.
    """
    if len(data) > MAX_BYTES:
        raise ProblemsError([Problem("photo", "the photo is over 12 MB", "take a smaller one")])
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP")) as opened:
            if opened.width * opened.height > MAX_PIXELS:
                fix = "take a smaller one"
                raise ProblemsError([Problem("photo", "over 50 million pixels", fix)])
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError, SyntaxError) as error:
        fix = "choose a JPEG, PNG or WebP file"
        raise ProblemsError([Problem("photo", "this is not a photo", fix)]) from error
    upright.thumbnail((MAX_SIDE_PX, MAX_SIDE_PX))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=84, optimize=True)
    return out.getvalue(), upright.size
