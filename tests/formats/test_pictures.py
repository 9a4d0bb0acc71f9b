"""Photographs: turned upright, stripped of what they tell of a place, refused when broken or too large."""

import io

import numpy as np
import pytest
from PIL import Image

from assayer.core.errors import FileError, TooLargeError
from assayer.formats.pictures import photo
from assayer.formats.pictures.photo import read_picture


def jpeg(width=60, height=40, orientation=None, gps=True, kind="JPEG"):
    """Left half red, right half blue."""
    pixels = np.zeros((height, width, 3), np.uint8)
    pixels[:, : width // 2], pixels[:, width // 2 :] = (220, 20, 20), (20, 20, 220)
    exif = Image.Exif()
    if orientation:
        exif[0x0112] = orientation
    if gps:
        exif[0x010F] = "Maker"
        exif.get_ifd(0x8825)[2] = (52.0, 31.0, 12.0)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, kind, exif=exif, quality=95)
    return out.getvalue()


def opened(data):
    return Image.open(io.BytesIO(data))


@pytest.mark.parametrize(("orientation", "size", "red"), [(1, (60, 40), (5, 20)), (3, (60, 40), (55, 20)), (6, (40, 60), (20, 5)), (8, (40, 60), (20, 55))])
def test_a_picture_is_turned_upright(orientation, size, red):
    found = read_picture(jpeg(orientation=orientation))
    assert (found.width, found.height) == size
    kept = opened(found.data)
    assert kept.size == size
    assert kept.convert("RGB").getpixel(red)[0] > 150
    assert opened(found.thumb).convert("RGB").getpixel(red)[0] > 150


@pytest.mark.parametrize("orientation", [None, 6])
@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_nothing_is_told_of_a_place(orientation, kind):
    data = jpeg(orientation=orientation, kind=kind)
    assert opened(data).getexif().get_ifd(0x8825)
    found = read_picture(data)
    for part in (found.data, found.thumb):
        assert not dict(opened(part).getexif())
        assert b"Maker" not in part
    assert found.media == ("image/png" if kind == "PNG" else "image/jpeg")


def test_an_upright_jpeg_keeps_its_pixels():
    data = jpeg()
    # a film, or a second picture, may hang on behind the end of the first, with metadata of its own
    kept = read_picture(data + b"behind it" + jpeg()).data
    assert np.array_equal(np.asarray(opened(kept)), np.asarray(opened(data)))
    assert len(kept) < len(data)
    assert b"behind" not in kept


def test_progressive_pictures_keep_all_their_scans():
    out = io.BytesIO()
    noise = np.random.default_rng(3).integers(0, 256, (200, 300, 3), np.uint8)
    Image.fromarray(noise).save(out, "JPEG", progressive=True, comment=b"at home", icc_profile=b"x" * 200)
    kept = read_picture(out.getvalue()).data
    assert np.array_equal(np.asarray(opened(kept)), np.asarray(opened(out.getvalue())))
    assert b"at home" not in kept
    assert opened(kept).info["icc_profile"] == b"x" * 200


def test_the_small_copy_is_small():
    found = read_picture(jpeg(2000, 1000))
    assert opened(found.thumb).size == (photo.THUMB, photo.THUMB // 2)
    assert (found.width, found.height) == (2000, 1000)


@pytest.mark.parametrize(
    ("data", "says"), [(b"", "no picture"), (b"hello", "no picture"), (jpeg()[:300], "broken|no picture"), (jpeg(400, 300)[:-900], "broken")]
)
def test_a_broken_file_is_told(data, says):
    with pytest.raises(FileError, match=says):
        read_picture(data)


def test_too_many_bytes_or_pixels_are_refused(monkeypatch):
    with pytest.raises(TooLargeError, match="50 MB"):
        read_picture(bytes(50_000_001))
    monkeypatch.setattr(photo, "MOST_PIXELS", 2000)
    with pytest.raises(TooLargeError, match="pixels"):
        read_picture(jpeg())
