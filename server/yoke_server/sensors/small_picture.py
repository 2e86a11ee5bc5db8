"""Scaling a picture down in a separate process, since a small file may unpack to gigabytes.

Knows nothing of ours: it is started for each file, and must be there soon.
"""

import io
import sys

from PIL import Image, ImageOps

FORMATS = ("JPEG", "PNG", "WEBP")
MAX_SIDE = 800  # px, as it is kept
MAX_PIXELS = 50_000_000  # that are decoded
SAID = 3  # see common/apart.py


class InvalidPhoto(Exception):
    """Why a picture is not taken, for people."""


def fitted(content: bytes) -> bytes:
    """A small JPEG of a picture, upright, on white, with nothing but what is to be seen.

    What a camera notes beside it (where, when, whose) is not kept.
    """
    with Image.open(io.BytesIO(content), formats=FORMATS) as given:
        if given.width * given.height > MAX_PIXELS:
            raise InvalidPhoto(
                f"The picture has {given.width} x {given.height} pixels; "
                f"{MAX_PIXELS // 1_000_000} million are taken at most."
            )
        given.thumbnail((MAX_SIDE, MAX_SIDE))
        upright = ImageOps.exif_transpose(given).convert("RGBA")
    sheet = Image.new("RGB", upright.size, "white")
    sheet.paste(upright, mask=upright)
    out = io.BytesIO()
    sheet.save(out, "JPEG", quality=85)
    return out.getvalue()


def main() -> int:
    try:
        made = fitted(sys.stdin.buffer.read())
    except InvalidPhoto as why:
        print(why, file=sys.stderr)
        return SAID
    sys.stdout.buffer.write(made)
    return 0


if __name__ == "__main__":
    sys.exit(main())
