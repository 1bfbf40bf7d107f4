"""`python -m notes.picture`: makes a picture anew from its standard input, as a JPEG of at most 1600 pixels on its standard output: turned as the camera said, and without
anything else that the camera wrote. In a process that may take so much memory and time and no more. Exit code 3: no picture; 4: too large."""

from __future__ import annotations

import io
import resource
import sys

from PIL import Image, ImageOps

MOST_PIXELS = 60_000_000
MOST_SIDE = 1600
MOST_MEMORY, MOST_SECONDS = 1 << 30, 20
KINDS = ("JPEG", "PNG", "WEBP", "GIF", "TIFF", "BMP", "MPO")
NO_PICTURE, TOO_LARGE = 3, 4


def made_anew(raw: bytes) -> bytes:
    """Raises Image.DecompressionBombError, and others where it is none."""
    with Image.open(io.BytesIO(raw), formats=KINDS) as found:
        if found.width * found.height > MOST_PIXELS:
            raise Image.DecompressionBombError
        found.draft("RGB", (MOST_SIDE, MOST_SIDE))
        turned = ImageOps.exif_transpose(found)
        flat = Image.new("RGB", turned.size, "white")
        whole = turned.convert("RGBA")
        flat.paste(whole, mask=whole.getchannel("A"))
    flat.thumbnail((MOST_SIDE, MOST_SIDE))
    out = io.BytesIO()
    flat.save(out, "JPEG", quality=85)
    return out.getvalue()


def main() -> int:
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        made = made_anew(sys.stdin.buffer.read())
    except (Image.DecompressionBombError, MemoryError):
        return TOO_LARGE
    except Exception:  # whatever a library says of a file that is none
        return NO_PICTURE
    sys.stdout.buffer.write(made)
    return 0


if __name__ == "__main__":
    sys.exit(main())
