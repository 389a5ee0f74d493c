#!/usr/bin/env python3
"""Clips that lost their index, beside a good one of the same settings: power_cuts.py FOLDER PHOTO PHOTO [--lend]

Writes for each setting a good clip and one whose recorder lost power (no index; the length of its data never written), lays both on a
card, searches it and saves what was made. Says how many of the pictures decode, what a decoder complains of, and how long sound and
picture are. With --lend the good clip is not on the card but given as a reference.
"""
import argparse
import pathlib
import random
import struct
import subprocess

CLI = pathlib.Path(__file__).parents[2] / "build/release/bin/dreskel-cli"
AVC = ["-c:v", "libx264", "-preset", "veryfast", "-b:v", "12M", "-threads", "2"]
HEVC = ["-c:v", "libx265", "-preset", "superfast", "-b:v", "8M", "-x265-params", "log-level=0:pools=2"]
AAC, PCM = ["-c:a", "aac", "-b:a", "128k"], ["-c:a", "pcm_s16le"]
SETTINGS = {
    "plain.mp4": [*AVC, "-bf", "0", *AAC],
    "bframes.mp4": [*AVC, "-bf", "2", *AAC],
    "pyramid.mp4": [*AVC, "-bf", "3", "-b_strategy", "2", *AAC],
    "pcm.mov": [*AVC, "-bf", "0", *PCM],
    "slices.mp4": [*AVC, "-slices", "4", *AAC],
    "fields.mp4": [*AVC, "-flags", "+ildct+ilme", *AAC],
    "hevc.mp4": [*HEVC, *AAC, "-tag:v", "hvc1"],
    "hevc-pcm.mov": [*HEVC, *PCM, "-tag:v", "hvc1"],
    "motion.mov": ["-c:v", "mjpeg", "-q:v", "4", *PCM],
    "silent.mp4": [*AVC, "-bf", "2", "-an"],
}


def film(out, photo, options, seconds, seed):
    picture = "crop=1280:720:x='mod(n*3,max(1,iw-1280))':y='mod(n*2,max(1,ih-720))',noise=alls=6:allf=t,format=yuv420p"
    sound = ["-f", "lavfi", "-i", f"anoisesrc=color=pink:sample_rate=48000:seed={seed},aformat=channel_layouts=stereo"]
    subprocess.run(["ffmpeg", "-v", "error", "-y", "-loop", "1", "-framerate", "25", "-i", photo, *sound, "-t", str(seconds), "-vf", picture,
                    *options, out], check=True)


def without_index(data):
    """As a recorder leaves it: everything in front of the media data, these, and no length of theirs."""
    at = 0
    while at + 8 <= len(data):
        size, name = struct.unpack(">I4s", data[at:at + 8])
        if name == b"mdat":
            end = at + size if size > 1 else at + struct.unpack(">Q", data[at + 8:at + 16])[0]
            return data[:at] + struct.pack(">I", 0 if size != 1 else 1) + data[at + 4:end]
        at += size
    raise ValueError("no media data")


def count(path):
    asked = ["ffprobe", "-v", "error", "-select_streams", "v:0", "-count_frames", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", path]
    said = subprocess.run(asked, stdout=subprocess.PIPE, check=False).stdout.decode().strip().split(",")[0]
    return int(said) if said.isdigit() else 0


def length(path, stream):
    asked = ["ffprobe", "-v", "error", "-select_streams", stream, "-show_entries", "packet=pts_time,duration_time", "-of", "csv=p=0", path]
    ends = [0.0]
    for line in subprocess.run(asked, stdout=subprocess.PIPE, check=False).stdout.decode().split():
        cells = [cell for cell in line.split(",") if cell and cell != "N/A"]
        ends.append(sum(float(cell) for cell in cells[:2]))
    return max(ends)


def main():
    words = argparse.ArgumentParser()
    words.add_argument("folder", type=pathlib.Path)
    words.add_argument("photos", nargs=2, type=pathlib.Path)
    words.add_argument("--lend", action="store_true")
    words = words.parse_args()
    words.folder.mkdir(parents=True, exist_ok=True)
    dice = random.Random(5)
    for name, options in SETTINGS.items():
        good, cut, card = words.folder / f"good-{name}", words.folder / f"cut-{name}", words.folder / "card.img"
        if not cut.exists():
            film(good, words.photos[0], options, 8, 1)
            film(cut, words.photos[1], options, 9, 2)
        lost = without_index(cut.read_bytes())
        with open(card, "wb") as image:
            for data in [good.read_bytes()] * (not words.lend) + [lost]:
                image.write(bytes(1 << 20) + data + bytes(-len(data) % 32768))
            image.write(dice.randbytes(4 << 20))
        job, out = words.folder / "job", words.folder / "out"
        subprocess.run(["rm", "-rf", job, out], check=True)
        lent = ["--reference", good] if words.lend else []
        subprocess.run([CLI, "scan", card, "--job", job, "--quiet", *lent], check=True)
        subprocess.run([CLI, "save", "--job", job, "--to", out, "--quiet"], check=False, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
        saved = [path for path in out.rglob("*") if path.suffix in (".mp4", ".mov") and path.read_bytes() != good.read_bytes()]
        if not saved:
            print(f"{name}: nothing was made")
            continue
        made = max(saved, key=lambda path: path.stat().st_size)
        said = subprocess.run(["ffmpeg", "-v", "error", "-i", made, "-f", "null", "-"], stderr=subprocess.PIPE, check=False).stderr.decode().splitlines()
        apart = abs((length(made, "v:0") - length(cut, "v:0")) - (length(made, "a:0") - length(cut, "a:0"))) if "-an" not in options else 0
        print(f"{name}: {count(made)} of {count(cut)} pictures, {len(said)} messages{': ' + said[0] if said else ''}, sound {apart * 1000:.0f} ms apart")


if __name__ == "__main__":
    main()
