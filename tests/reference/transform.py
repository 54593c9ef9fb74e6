"""Points through pyproj: [{"from", "to", "points": [[x, y], ...]}], east-west axis first, to the points."""
import json, sys
from pyproj import Transformer

out = []
for job in json.load(sys.stdin):
    t = Transformer.from_crs(job['from'], job['to'], always_xy=True)
    out.append([list(t.transform(x, y)) for x, y in job['points']])
json.dump(out, sys.stdout)
