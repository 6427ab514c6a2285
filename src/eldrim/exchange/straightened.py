"""A photo as it lies over the plan: straightened, cut to the plan, pixels and nothing else."""

import io

import numpy as np
from PIL import Image

from eldrim.core.capture.straighten import Matrix
from eldrim.exchange.photo import MAX_SIDE_PX

# More tells no more of a plan.
PIXELS_PER_MM = 2.0
# Where the photo does not reach: the paper of the plan.
PAPER = (245, 242, 233)


def straightened(
    data: bytes, to_plan: Matrix, plan: tuple[float, float]
) -> tuple[bytes, tuple[int, int]]:
    """The part of a photo that lies on the plan, as JPEG with its width and height in pixels.

    ``to_plan`` maps pixels of the photo to millimetres of the plan, whose size is ``plan``.
    """
    scale = min(PIXELS_PER_MM, MAX_SIDE_PX / max(plan))
    size = (max(1, round(plan[0] * scale)), max(1, round(plan[1] * scale)))
    # Pillow asks for each pixel of the result where it comes from.
    back = np.linalg.inv(to_plan) @ np.diag([1 / scale, 1 / scale, 1])
    back /= back[2, 2]
    with Image.open(io.BytesIO(data), formats=("JPEG",)) as photo:
        laid = photo.convert("RGB").transform(
            size,
            Image.Transform.PERSPECTIVE,
            back.flatten()[:8].tolist(),
            Image.Resampling.BILINEAR,
            fillcolor=PAPER,
        )
    out = io.BytesIO()
    laid.save(out, "JPEG", quality=80, optimize=True)
    return out.getvalue(), size
