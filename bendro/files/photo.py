"""A photo from a tablet's camera, made small and anonymous: turned upright, scaled down, and written anew as JPEG, which leaves
behind everything that is not the picture (place, camera, time)."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

from bendro.core.errors import CoreError

LONGEST_SIDE = 1600
MOST_PIXELS = 80_000_000
QUALITY = 82


class PhotoRefused(CoreError):
    """A file that cannot be kept as a photo."""

    code = "photo_unreadable"


@dataclass(frozen=True, slots=True, kw_only=True)
class SmallPhoto:
    """width, height in pixels; jpeg without any data about where or with what it was taken."""

    jpeg: bytes
    width: int
    height: int


def small_photo(data: bytes) -> SmallPhoto:
    """The photo that is kept. Raises PhotoRefused `photo_empty`, `photo_unreadable`, `photo_huge`."""
    from PIL import Image, ImageOps, UnidentifiedImageError  # only here: most starts meet no photo

    if not data:
        raise PhotoRefused("The file is empty. Choose the photo again.", code="photo_empty", where="photo")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP", "GIF")) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise PhotoRefused(
                        f"The photo has {opened.width} × {opened.height} points; make it smaller and send it again.",
                        code="photo_huge",
                        where="photo",
                    )
                upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (Image.DecompressionBombWarning, Image.DecompressionBombError) as why:
        raise PhotoRefused("The photo has too many points; make it smaller and send it again.", code="photo_huge", where="photo") from why
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as why:
        if isinstance(why, PhotoRefused):
            raise
        raise PhotoRefused(
            "This is not a photo that can be read. Send a JPEG, PNG or WebP picture.", code="photo_unreadable", where="photo"
        ) from why
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    plain = Image.new("RGB", upright.size)
    plain.paste(upright)
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=QUALITY, optimize=True)
    return SmallPhoto(jpeg=out.getvalue(), width=plain.width, height=plain.height)
