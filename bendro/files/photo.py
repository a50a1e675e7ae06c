"""A photo from a tablet's camera, made small and anonymous: turned upright, scaled down, and written anew as JPEG, which leaves
behind everything that is not the picture (place, camera, time).

A picture of a few kilobytes can unfold to gigabytes. It is therefore unfolded in a process of its own, whose memory and time have
an end; whatever happens there, the application goes on.
"""

from __future__ import annotations

import base64
import io
import json
import resource
import subprocess
import sys
import warnings
from dataclasses import dataclass
from pathlib import Path

from bendro.core.errors import CoreError

LONGEST_SIDE = 1600
MOST_PIXELS = 25_000_000
QUALITY = 82
#: What the unfolding may take: address space in bytes, and seconds.
MOST_MEMORY, MOST_S = 700_000_000, 30
_REFUSED = 3


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
    if not data:
        raise PhotoRefused("The file is empty. Choose the photo again.", code="photo_empty", where="photo")
    try:
        done = subprocess.run(
            [sys.executable, "-m", "bendro.files.photo"],
            input=data,
            capture_output=True,
            timeout=MOST_S,
            cwd=Path(__file__).resolve().parents[2],
            check=False,
        )
    except subprocess.TimeoutExpired as why:
        raise _huge() from why
    if done.returncode == _REFUSED:
        told = json.loads(done.stderr)
        raise PhotoRefused(told["says"], code=told["code"], where="photo")
    if done.returncode:  # it met the end of its memory, or a fault in the reader of pictures
        raise _huge()
    head, jpeg = done.stdout.split(b"\n", 1)
    width, height = (int(n) for n in head.split())
    return SmallPhoto(jpeg=jpeg, width=width, height=height)


#: Longest side in points of a photo as it stands on a podium.
THUMB_SIDE = 320


def thumbnail(jpeg: bytes) -> str:
    """A kept photo made small, as an address that holds the picture itself. jpeg: as `small_photo` gave it."""
    from PIL import Image

    with Image.open(io.BytesIO(jpeg), formats=("JPEG",)) as opened:
        opened.thumbnail((THUMB_SIDE, THUMB_SIDE))
        out = io.BytesIO()
        opened.save(out, "JPEG", quality=QUALITY)
    return f"data:image/jpeg;base64,{base64.b64encode(out.getvalue()).decode()}"


def _huge() -> PhotoRefused:
    return PhotoRefused("The photo has too many points; make it smaller and send it again.", code="photo_huge", where="photo")


def _unfold(data: bytes) -> SmallPhoto:
    from PIL import Image, ImageOps, UnidentifiedImageError  # only in the process that unfolds

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP", "GIF")) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise PhotoRefused(
                        f"The photo has {opened.width} × {opened.height} points; at most {MOST_PIXELS // 1_000_000} million can be "
                        "kept. Make it smaller and send it again.",
                        code="photo_huge",
                        where="photo",
                    )
                opened.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))  # a JPEG is unfolded no larger than it is needed
                upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (Image.DecompressionBombWarning, Image.DecompressionBombError, MemoryError) as why:
        raise _huge() from why
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


def _alone() -> int:
    """The process that unfolds: a photo on standard input; its size in points and the JPEG on standard output."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_S, MOST_S))
    try:
        small = _unfold(sys.stdin.buffer.read())
    except PhotoRefused as why:
        print(json.dumps({"code": why.code, "says": why.says}), file=sys.stderr)
        return _REFUSED
    sys.stdout.buffer.write(f"{small.width} {small.height}\n".encode() + small.jpeg)
    return 0


if __name__ == "__main__":
    sys.exit(_alone())
