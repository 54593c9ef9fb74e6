"""Points with heights through PROJ: [{"from", "to", "points": [[x, y, z], ...]}], east-west axis first, to [[[x, y, z], ...] | reason]."""
import json
import sys
import warnings

from pyproj import Transformer

warnings.filterwarnings("ignore")
out = []
for job in json.load(sys.stdin):
    try:
        there = Transformer.from_crs(job["from"], job["to"], always_xy=True)
        out.append(list(map(list, zip(*there.transform(*zip(*job["points"]))))))
    except Exception as error:
        out.append(str(error))
json.dump(out, sys.stdout)
