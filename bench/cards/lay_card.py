#!/usr/bin/env python3
"""Lays files in pieces on a card without a directory: lay_card.py CARD.img SEED FILE... --around WHOLE...

Files are written several at a time, as cameras do, into holes between whole files, text, noise and blanks. What is where stands in
CARD.img.truth.json, for judge_card.py.
"""
import argparse
import hashlib
import json
import pathlib
import random


def asked():
    words = argparse.ArgumentParser()
    words.add_argument("card", type=pathlib.Path)
    words.add_argument("seed", type=int)
    words.add_argument("files", nargs="*", type=pathlib.Path)
    words.add_argument("--around", nargs="*", type=pathlib.Path, default=[], help="files that stay whole")
    words.add_argument("--cluster", type=int, default=32, help="KiB")
    words.add_argument("--pieces", default="2-6", help="how many pieces a file has")
    words.add_argument("--gap", type=int, default=64, help="clusters between two pieces, at most")
    words.add_argument("--together", type=int, default=3, help="files written at a time")
    words.add_argument("--anyorder", type=float, default=0, help="share of files whose pieces lie in any order")
    words.add_argument("--lost", type=float, default=0, help="share of files one of whose pieces, not the first, is noise")
    words.add_argument("--inturn", action="store_true", help="files are written as they are named, not in any order")
    return words.parse_args()


def cut(random, data, cluster, pieces):
    clusters = (len(data) + cluster - 1) // cluster
    count = min(random.randint(*pieces), clusters)
    cuts = sorted(random.sample(range(1, clusters), count - 1)) if count > 1 else []
    ends = [0, *cuts, clusters]
    return [(a * cluster, min(b * cluster, len(data))) for a, b in zip(ends, ends[1:])]


class Filler:
    """What lies between the pieces: blanks, noise, text, and whole files."""

    def __init__(self, random, cluster, around):
        self.random, self.cluster, self.around = random, cluster, list(around)

    def next(self, most):
        kind = self.random.choice(["blank", "noise", "text", "file", "file"])
        if kind == "file" and self.around:
            path = self.around.pop()
            return path, path.read_bytes()
        size = self.random.randint(1, max(1, most)) * self.cluster
        if kind == "noise":
            return None, self.random.randbytes(size)
        if kind == "text":
            line = "".join(self.random.choices("abcdefghijklmnoprstuvwyz      ,.\n", k=4000)).encode()
            return None, (line * (size // len(line) + 1))[:size]
        return None, bytes(size)


def main():
    words = asked()
    dice = random.Random(words.seed)
    cluster = words.cluster * 1024
    low, _, high = words.pieces.partition("-")
    filler = Filler(dice, cluster, dice.sample(words.around, len(words.around)))
    truth = []
    with open(words.card, "wb") as card:

        def put(data):
            at = card.tell()
            card.write(data)
            card.write(bytes(-len(data) % cluster))
            return at

        def fill():
            path, data = filler.next(words.gap)
            at = put(data)
            if path:
                truth.append({"name": path.name, "sha256": hashlib.sha256(data).hexdigest(), "size": len(data), "whole": True,
                              "pieces": [[at, len(data)]]})

        put(bytes(4 << 20))
        waiting = words.files[::-1] if words.inturn else dice.sample(words.files, len(words.files))
        open_files = []
        while waiting or open_files:
            while waiting and len(open_files) < words.together:
                path = waiting.pop()
                data = path.read_bytes()
                pieces = cut(dice, data, cluster, (int(low), int(high or low)))
                entry = {"name": path.name, "sha256": hashlib.sha256(data).hexdigest(), "size": len(data), "whole": False,
                         "pieces": [None] * len(pieces), "lost": None}
                order = list(range(len(pieces)))
                if dice.random() < words.anyorder:
                    dice.shuffle(order)
                if dice.random() < words.lost and len(pieces) > 1:
                    entry["lost"] = dice.randrange(1, len(pieces))
                truth.append(entry)
                open_files.append((data, pieces, order, entry))
            file = dice.choice(open_files)
            data, pieces, order, entry = file
            number = order.pop(0)
            begin, end = pieces[number]
            bytes_there = dice.randbytes(end - begin) if number == entry["lost"] else data[begin:end]
            entry["pieces"][number] = [put(bytes_there), end - begin]
            if not order:
                open_files.remove(file)
            fill()
        while filler.around:
            fill()
        put(bytes(4 << 20))
    pathlib.Path(str(words.card) + ".truth.json").write_text(json.dumps(truth))


if __name__ == "__main__":
    main()
