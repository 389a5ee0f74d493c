#!/usr/bin/env python3
"""Writes photos taken one right after the other of one scene: make_bursts.py FOLDER SEED SCENES --each N --of PHOTO...

Each scene by one camera: one shape, quality and coding, with its thumbnails. From one photo to the next the hand moves by some
pixels (of every third scene, on a tripod, by none), the light by a hundredth, something small walks through, and the sensor's
noise is new. Needs what make_photos.py needs.
"""
import argparse
import io
import pathlib
import struct
import subprocess

import numpy
from PIL import Image, ImageDraw

from make_photos import SHAPES, SMALL, exif, framed

MARGIN = 48


def taken(random, scene, width, height, moved, walker):
    x, y = (int(v) for v in MARGIN + moved)
    picture = scene.crop((x, y, x + width, y + height))
    at = walker + random.normal(0, width / 60, 2)
    reach = width / 40
    ImageDraw.Draw(picture).ellipse((at[0] - reach, at[1] - reach, at[0] + reach, at[1] + reach), fill=(90, 60, 50))
    grain = random.standard_normal((height, width), dtype=numpy.float32) * random.uniform(1.5, 2.5)
    light = random.uniform(0.99, 1.01)
    return Image.fromarray(numpy.clip(numpy.asarray(picture) * light + grain[:, :, None], 0, 255).astype(numpy.uint8))


def coded(picture, options):
    bitmap = io.BytesIO()
    picture.save(bitmap, "PPM")
    jpeg = subprocess.run(["cjpeg", *options], input=bitmap.getvalue(), stdout=subprocess.PIPE, check=True).stdout
    segment = exif(picture, framed(picture, Image.BILINEAR))
    return jpeg[:2] + b"\xff\xe1" + struct.pack(">H", len(segment) + 2) + segment + jpeg[2:]


def main():
    asked = argparse.ArgumentParser()
    asked.add_argument("folder", type=pathlib.Path)
    asked.add_argument("seed", type=int)
    asked.add_argument("scenes", type=int)
    asked.add_argument("--each", type=int, default=6, help="photos of each scene")
    asked.add_argument("--small", action="store_true", help="one to three megapixels")
    asked.add_argument("--of", nargs="+", type=pathlib.Path, required=True, help="the scenes are parts of these photos")
    asked = asked.parse_args()
    asked.folder.mkdir(parents=True, exist_ok=True)
    random = numpy.random.default_rng(asked.seed)
    shapes = SMALL if asked.small else SHAPES
    for number in range(asked.scenes):
        width, height = shapes[int(random.integers(0, len(shapes)))]
        whole = Image.open(asked.of[int(random.integers(0, len(asked.of)))]).convert("RGB")
        wide = min(whole.width, whole.height * width / height) * random.uniform(0.5, 1.0)
        high = wide * height / width
        x, y = random.uniform(0, whole.width - wide), random.uniform(0, whole.height - high)
        scene = whole.resize((width + 2 * MARGIN, height + 2 * MARGIN), Image.BICUBIC, box=(x, y, x + wide, y + high))
        options = ["-quality", str(int(random.integers(80, 97))), "-sample", ["2x2", "2x1", "1x1"][int(random.integers(0, 3))]]
        if number % 2:
            options += ["-restart", str(int(random.integers(1, 5)))] if random.random() < 0.5 else ["-restart", f"{int(random.integers(4, 40))}B"]
        hand = 0 if number % 3 == 2 else random.uniform(1, 12)
        walker = random.uniform(0.2, 0.8, 2) * (width, height)
        for shot in range(asked.each):
            moved = numpy.clip(random.normal(0, 1, 2) * hand, -MARGIN, MARGIN)
            picture = taken(random, scene, width, height, moved, walker + shot * random.uniform(0, 3, 2) * width / 100)
            (asked.folder / f"scene{number:03}-{shot:02}.jpg").write_bytes(coded(picture, options))


if __name__ == "__main__":
    main()
