#!/usr/bin/env python3
"""A card that was in use for a while and was then formatted: live_card.py CARD.img SEED SIZE_MIB FILE...

Files are written one after the other where the last one ended, as drivers of FAT do, some two at a time; when the card is full, some are
deleted and their clusters used again. So pieces come about as on a client's card, between what is left of files that were overwritten.
The format leaves no directory, and the first files after it overwrite the beginning. What is where stands in CARD.img.truth.json, for
judge_card.py.
"""
import argparse
import hashlib
import json
import pathlib
import random


class Card:
    """Who owns which cluster, and who wrote last into it."""

    def __init__(self, clusters):
        self.owner = [None] * clusters
        self.left = [None] * clusters  # (file, cluster of the file) whose bytes lie here
        self.free = clusters
        self.next = 0

    def take(self, file, number):
        while self.owner[self.next] is not None:
            self.next = (self.next + 1) % len(self.owner)
        self.owner[self.next] = file
        self.left[self.next] = (file, number)
        self.free -= 1
        return self.next

    def delete(self, file):
        for at, owner in enumerate(self.owner):
            if owner is file:
                self.owner[at] = None
                self.free += 1


class File:
    def __init__(self, path, cluster):
        self.path = path
        self.data = path.read_bytes()
        self.clusters = (len(self.data) + cluster - 1) // cluster
        self.places = []


def pieces_of(file, card, cluster):
    """Runs of clusters that follow each other; None where others' bytes lie now."""
    pieces = []
    for number, at in enumerate(file.places):
        size = min(cluster, len(file.data) - number * cluster)
        here = at * cluster if card.left[at] == (file, number) else None
        last = pieces[-1] if pieces else None
        if last and (here is None) == (last[0] is None) and (here is None or last[0] + last[1] == here):
            last[1] += size
        else:
            pieces.append([here, size])
    return pieces


def main():
    words = argparse.ArgumentParser()
    words.add_argument("card", type=pathlib.Path)
    words.add_argument("seed", type=int)
    words.add_argument("size", type=int, help="MiB")
    words.add_argument("files", nargs="+", type=pathlib.Path)
    words.add_argument("--cluster", type=int, default=32, help="KiB")
    words.add_argument("--after", type=int, default=2, help="files written after the format")
    words.add_argument("--turns", type=int, default=16, help="clusters written at a time where two files are written in turns")
    words = words.parse_args()
    dice = random.Random(words.seed)
    cluster = words.cluster * 1024
    card = Card(words.size * 1024 // words.cluster)
    files = [File(path, cluster) for path in dice.sample(words.files, len(words.files))]
    after, before = files[:words.after], files[words.after:]
    there = []
    while before:
        now = [before.pop() for _ in range(min(len(before), dice.choice([1, 1, 2])))]
        while card.free < sum(file.clusters for file in now):
            card.delete(there.pop(dice.randrange(len(there))))
        waiting = list(now)
        while waiting:
            file = dice.choice(waiting)
            for _ in range(dice.randint(1, words.turns)):
                if len(file.places) < file.clusters:
                    file.places.append(card.take(file, len(file.places)))
            if len(file.places) == file.clusters:
                waiting.remove(file)
        there += now
    card = reformat(card)
    for file in after:
        while len(file.places) < file.clusters:
            file.places.append(card.take(file, len(file.places)))
    with open(words.card, "wb") as image:
        for left in card.left:
            file, number = left or (None, 0)
            data = file.data[number * cluster:(number + 1) * cluster] if file else b""
            image.write(data + bytes(cluster - len(data)))
    truth = []
    for file in files:
        pieces = pieces_of(file, card, cluster)
        if all(at is None for at, _ in pieces):
            continue
        truth.append({"name": file.path.name, "sha256": hashlib.sha256(file.data).hexdigest(), "size": len(file.data),
                      "whole": len(pieces) == 1, "overwritten": any(at is None for at, _ in pieces), "pieces": pieces})
    pathlib.Path(str(words.card) + ".truth.json").write_text(json.dumps(truth))


def reformat(card):
    new = Card(len(card.owner))
    new.left = card.left
    return new


if __name__ == "__main__":
    main()
