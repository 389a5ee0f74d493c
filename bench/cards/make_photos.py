#!/usr/bin/env python3
"""Writes photos of 6 to 24 megapixels by several encoders and settings: make_photos.py FOLDER SEED COUNT [--small] [--camera]
[--of PHOTO...]

Needs python3-pil, python3-numpy and libjpeg-turbo-progs. The scenes are drawn: detail at every scale as in nature, edges, noise
as of a sensor, so that a cluster of one photo is not to be told from another's by its brightness alone.
"""
import argparse
import io
import pathlib
import struct
import subprocess

import numpy
from PIL import Image, ImageDraw

SHAPES = [(3000, 2000), (3264, 2448), (4032, 3024), (4608, 3456), (5184, 3456), (6000, 4000)]
SMALL = [(1200, 800), (1600, 1200), (2048, 1536)]


def clouds(random, width, height, steepness):
    """Noise whose spectrum falls as nature's does."""
    across = numpy.fft.rfftfreq(width)[None, :]
    down = numpy.fft.fftfreq(height)[:, None]
    distance = numpy.sqrt(across**2 + down**2)
    distance[0, 0] = 1
    spectrum = numpy.fft.rfft2(random.standard_normal((height, width))) / distance**steepness
    field = numpy.fft.irfft2(spectrum, s=(height, width))
    return (field - field.mean()) / field.std()


def scene(random, width, height):
    ground = [clouds(random, width // 2, height // 2, random.uniform(1.0, 1.5)) for _ in range(3)]
    light = clouds(random, width // 2, height // 2, 1.8)
    planes = [light * random.uniform(25, 50) + colour * random.uniform(5, 18) + random.uniform(90, 150) for colour in ground]
    picture = Image.fromarray(numpy.clip(numpy.dstack(planes), 0, 255).astype(numpy.uint8)).resize((width, height), Image.BICUBIC)
    draw = ImageDraw.Draw(picture)
    for _ in range(int(random.integers(5, 40))):  # things with edges
        x, y = random.integers(0, width), random.integers(0, height)
        reach = random.integers(width // 60, width // 6)
        corners = [(int(x + random.normal() * reach), int(y + random.normal() * reach)) for _ in range(int(random.integers(3, 7)))]
        draw.polygon(corners, fill=tuple(int(c) for c in random.integers(20, 235, 3)))
    fine = clouds(random, width // 2, height // 2, random.uniform(0.6, 1.0)) * random.uniform(4, 12)
    fine = numpy.asarray(Image.fromarray(fine.astype(numpy.float32)).resize((width, height), Image.BICUBIC))
    grain = fine + random.standard_normal((height, width), dtype=numpy.float32) * random.uniform(1, 5)
    return Image.fromarray(numpy.clip(numpy.asarray(picture) + grain[:, :, None], 0, 255).astype(numpy.uint8))


def part(random, photos, width, height):
    """A part of a real photo, as large as asked for, mirrored or not."""
    whole = Image.open(photos[int(random.integers(0, len(photos)))]).convert("RGB")
    scale = random.uniform(0.35, 1.0)
    wide = min(whole.width, whole.height * width / height) * scale
    high = wide * height / width
    x, y = random.uniform(0, whole.width - wide), random.uniform(0, whole.height - high)
    picture = whole.resize((width, height), Image.BICUBIC, box=(x, y, x + wide, y + high))
    if random.random() < 0.5:
        picture = picture.transpose(Image.FLIP_LEFT_RIGHT)
    grain = random.standard_normal((height, width), dtype=numpy.float32) * random.uniform(1, 4)
    return Image.fromarray(numpy.clip(numpy.asarray(picture) + grain[:, :, None], 0, 255).astype(numpy.uint8))


def framed(picture, way):
    """160 x 120, framed in black where the shape is another: what most cameras write. Not all of them take means."""
    small = picture.copy()
    small.thumbnail((160, 120), way)
    frame = Image.new("RGB", (160, 120))
    frame.paste(small, ((160 - small.width) // 2, (120 - small.height) // 2))
    return frame


def exif(picture, small=None):
    """An Exif segment with a thumbnail, as cameras write it (CIPA DC-008, 4.5)."""
    if small is None:
        small = picture.copy()
        small.thumbnail((160, 120))
    stream = io.BytesIO()
    small.save(stream, "JPEG", quality=70, subsampling=1)
    jpeg = stream.getvalue()
    taken = b"2026:05:02 07:41:10\0"
    first = struct.pack("<H", 1) + struct.pack("<HHII", 0x132, 2, 20, 8 + 2 + 12 + 4)
    second_at = 8 + len(first) + 4 + 20
    first += struct.pack("<I", second_at) + taken
    at = second_at + 2 + 3 * 12 + 4
    second = struct.pack("<H", 3)
    second += struct.pack("<HHIHH", 0x103, 3, 1, 6, 0)
    second += struct.pack("<HHII", 0x201, 4, 1, at) + struct.pack("<HHII", 0x202, 4, 1, len(jpeg)) + struct.pack("<I", 0)
    return b"Exif\0\0" + b"II*\0\x08\0\0\0" + first + second + jpeg


def encode(random, picture, number, camera):
    jpeg = coded(random, picture, number)
    if not camera:
        return jpeg
    ways = [Image.NEAREST, Image.BILINEAR, Image.BICUBIC, Image.LANCZOS]
    segment = exif(picture, framed(picture, ways[int(random.integers(0, len(ways)))]))
    return jpeg[:2] + b"\xff\xe1" + struct.pack(">H", len(segment) + 2) + segment + jpeg[2:]


def coded(random, picture, number):
    quality = int(random.integers(75, 97))
    way = number % 5
    if way < 2:
        stream = io.BytesIO()
        options = {"exif": exif(picture)} if way == 1 else {}
        picture.save(stream, "JPEG", quality=quality, subsampling=int(random.integers(0, 3)), optimize=bool(random.integers(0, 2)), **options)
        return stream.getvalue()
    bitmap = io.BytesIO()
    picture.save(bitmap, "PPM")
    options = ["-quality", str(quality), "-sample", ["2x2", "2x1", "1x1"][int(random.integers(0, 3))]]
    if way == 2:
        options += ["-restart", str(int(random.integers(1, 5)))]
    if way == 3:
        options += ["-progressive"] if random.random() < 0.5 else ["-optimize"]
    if way == 4:
        options += ["-dct", "float"]
    return subprocess.run(["cjpeg", *options], input=bitmap.getvalue(), stdout=subprocess.PIPE, check=True).stdout


def main():
    asked = argparse.ArgumentParser()
    asked.add_argument("folder", type=pathlib.Path)
    asked.add_argument("seed", type=int)
    asked.add_argument("count", type=int)
    asked.add_argument("--small", action="store_true", help="one to three megapixels")
    asked.add_argument("--camera", action="store_true", help="each with a thumbnail, as cameras write it")
    asked.add_argument("--of", nargs="*", type=pathlib.Path, default=[], help="parts of these photos, not drawn ones")
    asked = asked.parse_args()
    asked.folder.mkdir(parents=True, exist_ok=True)
    random = numpy.random.default_rng(asked.seed)
    shapes = SMALL if asked.small else SHAPES
    for number in range(asked.count):
        width, height = shapes[int(random.integers(0, len(shapes)))]
        picture = part(random, asked.of, width, height) if asked.of else scene(random, width, height)
        (asked.folder / f"photo{number:04}.jpg").write_bytes(encode(random, picture, number, asked.camera))


if __name__ == "__main__":
    main()
