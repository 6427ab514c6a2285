"""Photos on steps: kept small and nameless, marked, released, printed."""

import io
from hashlib import sha256
from uuid import UUID

from PIL import Image

from tests.web.client import TestClient
from tests.web.test_move import base_of, draft
from tests.web.test_release import Store
from tests.web.test_web import sign_in

__all__ = ["draft"]
STEP = "ready/unit"


def picture(form: str = "JPEG", size: tuple[int, int] = (2400, 1200)) -> bytes:
    """A photo with something written beside it by the camera."""
    out, exif = io.BytesIO(), Image.Exif()
    exif[0x010F] = "Camera of somebody"
    Image.new("RGB", size, (120, 130, 110)).save(out, form, exif=exif)
    return out.getvalue()


def put_on(client: TestClient, draft: UUID, csrf: str, data: bytes, base: str = "{}"):  # type: ignore[no-untyped-def]
    """Put a photo on a step."""
    fields = {"csrf": csrf, "step": STEP, "base": base, "caption": "The plate"}
    files = {"photo": ("plate.jpg", data, "image/jpeg")}
    return client.post(f"/procedures/{draft}/photos", data=fields, files=files)


def test_a_photo_is_put_on_marked_released_and_printed(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """It is the same photo everywhere, with its mark, and nothing the camera wrote."""
    csrf = sign_in(client, "trainer")
    page = put_on(client, draft, csrf, picture()).text
    base = base_of(store, draft, STEP)
    digest = page.split("/images/")[1][:64]
    kept = client.get(f"/images/{digest}.jpg")
    assert sha256(kept.content).hexdigest() == digest
    assert b"somebody" not in kept.content
    with Image.open(io.BytesIO(kept.content)) as shown:
        assert shown.size == (1600, 800)
    mark = {
        "csrf": csrf,
        "step": STEP,
        "base": base,
        "index": "0",
        "kind": "arrow",
        "x": "25",
        "y": "75",
        "words": "Serial is here",
    }
    page = client.post(f"/procedures/{draft}/marks", data=mark).text
    assert "Serial is here" in page
    assert "L400 600" in page, "the tip is a quarter across 1600 and three quarters down 800"
    form = {"csrf": csrf, "version": "3", "reason": "first", "accepted": "known"}
    edition = client.post(f"/procedures/{draft}/release", data=form)
    assert "Serial is here" in edition.text
    paper = client.get(f"{edition.url}/long-form.pdf")
    assert b"/Subtype /Image" in paper.content
    base = base_of(store, draft, STEP)
    away = {"csrf": csrf, "step": STEP, "base": base, "index": "0"}
    assert digest not in client.post(f"/procedures/{draft}/photos/away", data=away).text
    assert client.get(f"/images/{digest}.jpg").status_code == 200, "the edition keeps it"


def test_what_is_no_photo_is_refused_in_words(client: TestClient, draft: UUID) -> None:
    """By what is in it, not by its name; and not for anybody."""
    csrf = sign_in(client, "trainer")
    assert "this is not a photo" in put_on(client, draft, csrf, b"GIF89a" + bytes(50)).text
    assert put_on(client, draft, csrf, bytes(13_000_000)).status_code == 413
    wide = put_on(client, draft, csrf, picture("PNG", (1, 1)), base='{"photos":[{}]}')
    assert wide.status_code == 422
    csrf = sign_in(client, "technician")
    assert put_on(client, draft, csrf, picture()).status_code == 403
