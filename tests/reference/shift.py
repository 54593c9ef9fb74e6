"""Datum changes through PROJ's own Helmert step: [{"pipeline", "points": [[lon, lat], ...]}] to points in degrees."""
import json, sys
from pyproj import Transformer

out = []
for job in json.load(sys.stdin):
    t = Transformer.from_pipeline(job['pipeline'])
    xs, ys = t.transform([p[0] for p in job['points']], [p[1] for p in job['points']])
    out.append(list(map(list, zip(xs, ys))))
json.dump(out, sys.stdout)
