"""Colour profiles for tests (ICC.1)."""

import struct

from PIL import ImageCms


def gray_profile(gamma):
    """A gray profile of ICC.1 version 2 with one curve."""
    curve = b"curv" + b"\0" * 4 + struct.pack(">IH", 1, round(gamma * 256)) + b"\0\0"
    white = b"XYZ " + b"\0" * 4 + struct.pack(">3i", 63190, 65536, 54061)
    text = b"desc" + b"\0" * 4 + struct.pack(">I", 5) + b"gray\0" + b"\0" * 78
    tags, body, at = [], b"", 128 + 4 + 12 * 3
    for name, part in ((b"desc", text), (b"wtpt", white), (b"kTRC", curve)):
        tags.append(struct.pack(">4sII", name, at + len(body), len(part)))
        body += part + b"\0" * (-len(part) % 4)
    head = struct.pack(">I4sI4s4s4s", 0, b"lcms", 0x02400000, b"mntr", b"GRAY", b"XYZ ")
    head += b"\0" * 12 + b"acsp" + b"\0" * 28 + struct.pack(">3i", 63190, 65536, 54061)
    head = head.ljust(128, b"\0")
    whole = head + struct.pack(">I", 3) + b"".join(tags) + body
    return struct.pack(">I", len(whole)) + whole[4:]


def swapped_profile():
    """LittleCMS's sRGB under another name, its red and its blue changed over."""
    data = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    data = data.replace("sRGB".encode("utf-16-be"), "Swap".encode("utf-16-be"))
    for one, other in ((b"rXYZ", b"held"), (b"bXYZ", b"rXYZ"), (b"held", b"bXYZ")):
        assert one in data
        data = data.replace(one, other)
    return data
