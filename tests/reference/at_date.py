"""Points through pyproj at a date: [{"from", "to", "operation", "epoch", "points"}], east-west axis first, by the operation of that name."""
import json
import sys

from pyproj.transformer import TransformerGroup

out = []
for job in json.load(sys.stdin):
    try:
        transformers = TransformerGroup(job["from"], job["to"], always_xy=True).transformers
    except IndexError:  # PROJ knows of no way
        transformers = []
    found = [t for t in transformers if job["operation"] in t.description and t.definition.count("proj=helmert") == 1]
    out.append(None if not found else [list(found[0].transform(x, y, 0, job["epoch"])[:2]) for x, y in job["points"]])
json.dump(out, sys.stdout)
