"""A photo under the drawing board: taken in, marked, laid straight, shown, taken away."""

import io
import re

import numpy as np
import pytest
from PIL import Image, ImageDraw

from eldrim.core.capture.straighten import known_places
from eldrim.exchange.straightened import straightened
from tests.builders import tug
from tests.web.client import TestClient
from tests.web.test_web import sign_in

BOARD = "/capture/marlet-34-v6"
# How the camera saw the plan: half the size, turned a little, leaning.
LAID = np.array([[0.9, -0.12, 30.0], [0.1, 0.95, -20.0], [1e-4, -8e-5, 1.0]])


def camera(x: float, y: float) -> tuple[float, float]:
    """Where a place of the plan is in the photo, in pixels."""
    u, v, w = np.linalg.inv(LAID) @ (x, y, 1)
    return (float(u / w), float(v / w))


def a_photo() -> bytes:
    """White, with a red dot at each hole, and a place written beside the picture."""
    picture = Image.new("RGB", (900, 760), "white")
    pen = ImageDraw.Draw(picture)
    for _, well in tug().holes.values():
        x, y = camera(*well.at)
        pen.ellipse((x - 7, y - 7, x + 7, y + 7), fill=(200, 20, 20))
    out = io.BytesIO()
    about = Image.Exif()
    about[0x010E] = "behind hangar 4"
    picture.save(out, "JPEG", quality=95, exif=about)
    return out.getvalue()


@pytest.fixture
def trainer(client: TestClient) -> tuple[TestClient, str]:
    """A trainer with the engine on the board."""
    csrf = sign_in(client, "trainer")
    client.post("/engines/marlet-34-v6/capture", data={"csrf": csrf})
    return client, csrf


def taken(client: TestClient, csrf: str) -> str:
    """The address where the photo is marked."""
    answer = client.post(
        f"{BOARD}/photo",
        data={"csrf": csrf},
        files={"photo": ("engine.jpg", a_photo(), "image/jpeg")},
    )
    assert answer.status_code == 200
    return str(answer.url.path)


def marks(*names: str) -> dict[str, str]:
    """What is clicked for these places."""
    places = known_places(tug())
    found = {}
    for name in names:
        x, y = camera(*places[name])
        found |= {f"x-{name}": f"{x:.1f}", f"y-{name}": f"{y:.1f}"}
    return found


def number_of(client: TestClient) -> str:
    """The number of the present drawing."""
    found = re.search(r'data-number="(\d+)"', client.get(BOARD).text)
    assert found
    return found[1]


def test_a_marked_photo_lies_straight_under_the_drawing(trainer: tuple[TestClient, str]) -> None:
    """Each hole of the photo comes to lie where the sheet has it; nothing else is kept of it."""
    client, csrf = trainer
    address = taken(client, csrf)
    about = {"csrf": csrf, "number": number_of(client), **marks("1", "2", "5", "6")}
    board = client.post(address, data=about)
    assert board.url.path == BOARD
    shown = re.search(r'<image href="(/images/[0-9a-f]{64}\.jpg)"', board.text)
    assert shown
    data = client.get(shown[1]).content
    assert b"hangar" not in data
    picture = Image.open(io.BytesIO(data))
    width, height = tug().layout.plan
    for _, well in tug().holes.values():
        at = (
            round(well.at[0] * picture.width / width),
            round(well.at[1] * picture.height / height),
        )
        red, green, _ = picture.getpixel(at)  # type: ignore[misc]
        assert red > 150 > green, "the red dot of the photo is not where the hole is"


def test_a_place_marked_wrongly_is_told_and_nothing_typed_is_lost(
    trainer: tuple[TestClient, str],
) -> None:
    """It can be laid all the same; too few places cannot."""
    client, csrf = trainer
    address = taken(client, csrf)
    wrong = {"csrf": csrf, "number": number_of(client), **marks("1", "2", "5", "6", "3")}
    wrong["x-3"] = str(float(wrong["x-3"]) + 160)
    refused = client.post(address, data=wrong)
    assert refused.status_code == 422
    assert "mm from where the sheet has it" in refused.text
    assert f'value="{float(wrong["x-3"])}"' in refused.text
    assert client.post(address, data={**wrong, "anyway": "yes"}).url.path == BOARD
    few = client.post(address, data={"csrf": csrf, "number": "1", **marks("1")})
    assert few.status_code == 422
    assert "marks fewer than two places" in few.text
    nonsense = client.post(address, data={"csrf": csrf, "number": "1", "x-1": "left", "y-1": "2"})
    assert nonsense.status_code == 422


def test_it_is_undone_taken_away_and_kept_with_the_sheet(trainer: tuple[TestClient, str]) -> None:
    """It goes with the drawing, into the sheet, its plan page and its file."""
    client, csrf = trainer
    address = taken(client, csrf)
    client.post(address, data={"csrf": csrf, "number": number_of(client), **marks("1", "2", "6")})
    assert "plan-photo" in client.get(BOARD).text
    client.post(f"{BOARD}/undo", data={"csrf": csrf, "number": number_of(client)})
    assert "plan-photo" not in client.get(BOARD).text
    client.post(f"{BOARD}/redo", data={"csrf": csrf, "number": number_of(client)})
    client.post(f"{BOARD}/keep", data={"csrf": csrf, "number": number_of(client)})
    plan = client.get("/engines/marlet-34-v6?c=3&work=plug&variant=late").text
    assert "plan-photo" in plan
    assert "data-photo" in plan
    assert "photo:" in client.get("/engines/marlet-34-v6.engine.yaml").text
    client.post("/engines/marlet-34-v6/capture", data={"csrf": csrf})
    client.post(f"{BOARD}/photo-away", data={"csrf": csrf, "number": number_of(client)})
    assert "plan-photo" not in client.get(BOARD).text


def test_what_is_no_photo_and_an_old_drawing_are_refused(trainer: tuple[TestClient, str]) -> None:
    """In words, and nothing is overwritten."""
    client, csrf = trainer
    text = {"photo": ("notes.txt", b"no picture at all", "text/plain")}
    assert client.post(f"{BOARD}/photo", data={"csrf": csrf}, files=text).status_code == 422
    address = taken(client, csrf)
    old = {"csrf": csrf, "number": "999", **marks("1", "2", "5", "6")}
    assert client.post(address, data=old).status_code == 409
    assert client.get(f"{BOARD}/photo/{'0' * 64}").status_code == 404


def test_where_the_photo_does_not_reach_there_is_paper() -> None:
    """A photo of a part of the engine leaves the rest of the plan blank."""
    small = io.BytesIO()
    Image.new("RGB", (100, 100), "black").save(small, "JPEG")
    data, size = straightened(small.getvalue(), np.diag([1.0, 1.0, 1.0]), (400.0, 300.0))
    laid = Image.open(io.BytesIO(data))
    assert laid.size == size
    assert laid.getpixel((20, 20)) < (30, 30, 30)  # type: ignore[operator]
    assert laid.getpixel((size[0] - 5, size[1] - 5)) > (200, 200, 200)  # type: ignore[operator]
