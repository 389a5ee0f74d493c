#!/usr/bin/env python3
"""Writes pictures whose samples are stored as they are: make_plain.py FOLDER SEED COUNT [--width W]

Raw photos as cameras write them (DNG of 16, 14 and 12 bits, and blocks of sixteen samples), TIFF and BMP, in turn. Of the scenes that
make_photos.py draws, with a sensor's noise. Needs python3-pil and python3-numpy. For lay_card.py.
"""
import argparse
import io
import pathlib
import struct

import numpy
from make_photos import scene
from PIL import Image

BYTE, ASCII, SHORT, LONG = 1, 2, 3, 4


def entry_data(kind, values):
    if kind == ASCII:
        return values.encode() + b"\0"
    return b"".join(struct.pack({BYTE: "<B", SHORT: "<H", LONG: "<I"}[kind], v) for v in values)


def directory(at, entries, after=0):
    entries = sorted(entries)
    behind = at + 2 + 12 * len(entries) + 4
    head, tail = struct.pack("<H", len(entries)), b""
    for tag, kind, values in entries:
        data = entry_data(kind, values)
        count = len(data) if kind in (ASCII, BYTE) else len(values)
        if len(data) <= 4:
            head += struct.pack("<HHI", tag, kind, count) + data.ljust(4, b"\0")
        else:
            head += struct.pack("<HHII", tag, kind, count, behind + len(tail))
            tail += data + b"\0" * (len(data) % 2)
    return head + struct.pack("<I", after) + tail


def mosaic(random, picture, white):
    """What a sensor sees of it: one colour a place, in proportion to the light, with the noise of counting it."""
    light = (numpy.asarray(picture).astype(numpy.float64) / 255) ** 2.2
    cells = numpy.empty(light.shape[:2])
    for y, x, colour in ((0, 0, 0), (0, 1, 1), (1, 0, 1), (1, 1, 2)):
        cells[y::2, x::2] = light[y::2, x::2, colour]
    gain = random.uniform(0.2, 2)
    counted = cells * white + random.standard_normal(cells.shape) * numpy.sqrt(cells * white * gain + (white / 2000) ** 2)
    return numpy.clip(counted + white / 16, 0, white).astype(numpy.uint32)


def packed(cells, bits):
    """From the highest bit of the first byte on."""
    each = ((cells.reshape(-1, 1) >> numpy.arange(bits - 1, -1, -1, dtype=numpy.uint32)) & 1).astype(numpy.uint8)
    return numpy.packbits(each).tobytes()


def sixteens(cells):
    """Sixteen samples of every other column in sixteen bytes: the largest, the smallest, their places, and the others above it."""
    height, width = cells.shape
    rows = cells.reshape(height, width // 32, 16, 2).transpose(0, 1, 3, 2).reshape(-1, 16).astype(numpy.int64)
    most_at, least_at = rows.argmax(1), rows.argmin(1)
    least_at = numpy.where(most_at == least_at, (most_at + 1) % 16, least_at)
    number = numpy.arange(len(rows))
    most, least = rows[number, most_at], rows[number, least_at]
    shift = numpy.zeros(len(rows), numpy.int64)
    for _ in range(4):
        shift += (shift < 4) & ((0x80 << shift) <= most - least)
    words = [[], []]
    bits = numpy.zeros((len(rows), 128), numpy.uint8)

    def put(at, count, values):
        for i in range(count):
            bits[number, at + i] = (values >> i) & 1

    put(numpy.full(len(rows), 0), 11, most)
    put(numpy.full(len(rows), 11), 11, least)
    put(numpy.full(len(rows), 22), 4, most_at)
    put(numpy.full(len(rows), 26), 4, least_at)
    at = numpy.full(len(rows), 30)
    for i in range(16):
        other = (i != most_at) & (i != least_at)
        value = numpy.minimum(0x7f, (rows[:, i] - least) >> shift)
        for bit in range(7):
            bits[number[other], at[other] + bit] = (value[other] >> bit) & 1
        at += 7 * other
    return numpy.packbits(bits, axis=1, bitorder="little").tobytes()


def raw(picture, samples, maker, bits, compression, extra):
    small = picture.copy()
    small.thumbnail((1616, 1080))
    stream = io.BytesIO()
    small.save(stream, "JPEG", quality=88)
    preview = stream.getvalue()
    width, height = picture.size

    def build(preview_at, raw_at, sub_at):
        first = directory(8, [
            (0xfe, LONG, [1]), (0x100, LONG, [small.size[0]]), (0x101, LONG, [small.size[1]]), (0x103, SHORT, [6]), (0x10f, ASCII, maker),
            (0x110, ASCII, maker + " F1"), (0x112, SHORT, [1]), (0x132, ASCII, "2026:05:05 08:12:44"), (0x14a, LONG, [sub_at]),
            (0x201, LONG, [preview_at]), (0x202, LONG, [len(preview)]), *extra,
        ])
        second = directory(sub_at, [
            (0xfe, LONG, [0]), (0x100, LONG, [width]), (0x101, LONG, [height]), (0x102, SHORT, [bits]), (0x103, SHORT, [compression]),
            (0x106, SHORT, [32803]), (0x111, LONG, [raw_at]), (0x115, SHORT, [1]), (0x116, LONG, [height]),
            (0x117, LONG, [len(samples)]), (0x828d, SHORT, [2, 2]), (0x828e, BYTE, [0, 1, 1, 2]),
        ])
        return first, second

    first, second = build(0, 0, 8)
    sub_at = 8 + len(first)
    preview_at = sub_at + len(second)
    raw_at = (preview_at + len(preview) + 511) // 512 * 512
    first, second = build(preview_at, raw_at, sub_at)
    return (b"II*\0\x08\0\0\0" + first + second + preview).ljust(raw_at, b"\0") + samples


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=pathlib.Path)
    parser.add_argument("seed", type=int)
    parser.add_argument("count", type=int)
    parser.add_argument("--width", type=int, default=2400)
    asked = parser.parse_args()
    asked.folder.mkdir(parents=True, exist_ok=True)
    random = numpy.random.default_rng(asked.seed)
    dng = [(0xc612, BYTE, [1, 4, 0, 0])]
    for number in range(asked.count):
        width = asked.width // 32 * 32
        height = width * 2 // 3 // 2 * 2
        picture = scene(random, width, height)
        way = number % 6
        name = asked.folder / f"n{number:03d}"
        if way == 0:
            cells = mosaic(random, picture, 16383).astype("<u2")
            name.with_suffix(".dng").write_bytes(raw(picture, cells.tobytes(), "Halden", 16, 1, dng))
        elif way == 1:
            name.with_suffix(".arw").write_bytes(raw(picture, sixteens(mosaic(random, picture, 2047)), "SONY", 8, 32767, []))
        elif way == 2:
            name.with_suffix(".dng").write_bytes(raw(picture, packed(mosaic(random, picture, 4095), 12), "Halden", 12, 1, dng))
        elif way == 3:
            picture.resize((width // 2, height // 2)).save(name.with_suffix(".bmp"))
        elif way == 4:
            picture.resize((width // 2, height // 2)).save(name.with_suffix(".tif"))
        else:
            name.with_suffix(".dng").write_bytes(raw(picture, packed(mosaic(random, picture, 16383), 14), "Halden", 14, 1, dng))


main()
