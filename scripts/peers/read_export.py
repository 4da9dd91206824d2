"""Reads a CSV or a capture of ours with Python's own library; prints the numbers of every channel as JSON."""
import csv
import json
import sys

WORDS = {"fuelSys1", "fuelSys2", "monitorStatus"}
kind, path = sys.argv[1:3]
with open(path, newline="", encoding="utf-8") as f:
    if kind == "csv":
        rows = csv.reader(f)
        names = [h.split(" (")[0] for h in next(rows)[1:]]
        out = {n: [] for n in names}
        for row in rows:
            for name, cell in zip(names, row[1:]):
                if cell and name not in WORDS:
                    out[name].append(float(cell))
    else:
        out = {c["id"]: c["value"] for c in json.load(f)["channels"]}
json.dump(out, sys.stdout)
