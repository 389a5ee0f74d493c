#!/usr/bin/env python3
"""Searches a card that lay_card.py or live_card.py made, and compares: judge_card.py CARD.img [--cli PROGRAM] [--list LIST.json] [--job FOLDER] [SCAN OPTION...]

Says of each file in pieces whether it is exact, which share of it is in its place, and what is called whole and is not exact.
"""
import argparse
import hashlib
import json
import pathlib
import shutil
import subprocess
import tempfile
import time


def runs_of(entry):
    """Where a file's bytes are said to lie: (offset in the file, place on the card or None, length)."""
    at = 0
    for piece in entry["pieces"]:
        yield at, piece.get("offset") if piece["from"] == "card" else None, piece["length"]
        at += piece["length"]


def share_in_place(true, entry):
    places = []
    at = 0
    for offset, length in true["pieces"]:
        places.append((at, offset, length))
        at += length
    right = 0
    for at, offset, length in runs_of(entry):
        if offset is None:
            continue
        for true_at, true_offset, true_length in places:
            if true_offset is None:
                continue
            begin, end = max(at, true_at), min(at + length, true_at + true_length)
            if begin < end and offset - at == true_offset - true_at:
                right += end - begin
    return right / true["size"]


def report_overwritten(true, files):
    """The share of what is left of a file that one entry of the list has in its place."""
    left = sum(length for offset, length in true["pieces"] if offset is not None) / true["size"]
    best = max(files, key=lambda entry: share_in_place(true, entry))
    there = share_in_place(true, best) / left
    what = ", ".join(f"{'gone' if offset is None else 'there'} {length}" for offset, length in true["pieces"][:8])
    print(f"{true['name']}: {left:.1%} left, of this {there:.1%} in place in {best['id']} ({best['condition']}); {what}")
    return there


def contents(card, entry):
    digest = hashlib.sha256()
    for _, offset, length in runs_of(entry):
        if offset is None:
            digest.update(bytes(length))
            continue
        card.seek(offset)
        digest.update(card.read(length))
    return digest.hexdigest()


def main():
    words = argparse.ArgumentParser()
    words.add_argument("card", type=pathlib.Path)
    words.add_argument("--cli", default=str(pathlib.Path(__file__).parents[2] / "build/release/bin/dreskel-cli"))
    words.add_argument("--list", type=pathlib.Path, help="leave the list of what was found here")
    words.add_argument("--job", help="judge this one, which was searched before")
    words, options = words.parse_known_args()
    truth = json.loads(pathlib.Path(str(words.card) + ".truth.json").read_text())
    job = words.job or tempfile.mkdtemp()
    begun = time.monotonic()
    if not words.job:
        subprocess.run([words.cli, "scan", words.card, "--job", job, "--quiet", *options], check=True)
    took = time.monotonic() - begun
    listed = json.loads(subprocess.run([words.cli, "list", "--job", job, "--json"], stdout=subprocess.PIPE, check=True).stdout)
    if not words.job:
        shutil.rmtree(job)
    if words.list:
        words.list.write_text(json.dumps(listed, indent=1))
    counts = {"in pieces": [0, 0, 0], "whole": [0, 0, 0]}
    overwritten = []
    known = {true["sha256"] for true in truth}
    with open(words.card, "rb") as card:
        found = {}
        for entry in listed["files"]:
            digest = contents(card, entry)
            found.setdefault(digest, entry)
            if entry["condition"] == "whole" and digest not in known:
                print("CALLED WHOLE AND NOT EXACT", entry["id"], entry["format"], entry["pieces"][0], entry["size"])
        for true in truth:
            if true.get("overwritten"):
                overwritten.append(report_overwritten(true, listed["files"]))
                continue
            exact = found.get(true["sha256"])
            count = counts["whole" if true["whole"] else "in pieces"]
            count[0] += 1
            if exact:
                count[1] += 1
                count[2] += exact["condition"] == "whole"
                continue
            best = max(listed["files"], key=lambda entry: share_in_place(true, entry))
            lost = f", piece {true['lost']} of {len(true['pieces'])} lost" if true.get("lost") is not None else ""
            print(f"{true['name']}: not exact{lost}; {share_in_place(true, best):.2%} in place in {best['id']} ({best['condition']}),"
                  f" {len(true['pieces'])} pieces, {true['size']} bytes")
    for name, (all_of_them, exact, whole) in counts.items():
        print(f"{name}: {exact} of {all_of_them} exact, {whole} of these whole")
    if overwritten:
        print(f"overwritten in part: {sum(overwritten) / len(overwritten):.1%} of what is left of {len(overwritten)} files in place")
    print(f"{took:.1f} s")


if __name__ == "__main__":
    main()
