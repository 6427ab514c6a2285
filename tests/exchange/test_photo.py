"""A photo is its picture and nothing else."""

import io

import pytest
from PIL import Image, ImageCms

from eldrim.exchange.photo import holds_only_its_picture, read_photo


def jpeg(**more: object) -> bytes:
    """A small picture as some camera writes it."""
    out = io.BytesIO()
    Image.new("RGB", (80, 60), "grey").save(out, "JPEG", **more)
    return out.getvalue()


def with_place() -> bytes:
    """One that says which camera took it."""
    exif = Image.Exif()
    exif[0x010F] = "Tarn"
    return jpeg(exif=exif)


def test_what_we_write_holds_only_its_picture() -> None:
    """Whatever it was read from."""
    colours = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    told = (with_place(), jpeg(comment=b"bay 3"), jpeg(icc_profile=colours))
    for data in (jpeg(), jpeg(progressive=True), *told):
        assert holds_only_its_picture(read_photo(data)[0])
    for data in told:
        assert len(read_photo(data)[0]) == len(read_photo(jpeg())[0])
    assert holds_only_its_picture(jpeg(icc_profile=colours)), "kept so by earlier versions"


@pytest.mark.parametrize(
    "data",
    [
        with_place(),
        jpeg(comment=b"bay 3"),
        jpeg() + b"and more",
        jpeg() + jpeg(),
        jpeg()[:-1],
        jpeg()[: len(jpeg()) // 2],
        b"",
        b"\xff\xd8",
        b"\xff\xd8\xff\xd9",
        b"GIF89a",
        jpeg()[:2] + b"\xff\xe0\x00\x20" + b"x" * 30 + jpeg()[2:],
    ],
)
def test_what_holds_more_or_less_is_told(data: bytes) -> None:
    """Where and when, a comment, bytes after its end, a part of it."""
    assert not holds_only_its_picture(data)
