"""Datum changes through PROJ's own Helmert step: [{"pipeline", "points": [[lon, lat], ...]}] to points in degrees."""
import json, sys
from pyproj import Transformer

out = []
for job in json.load(sys.stdin):
    t = Transformer.from_pipeline(job['pipeline'])
    xs, ys = [p[0] for p in job['points']], [p[1] for p in job['points']]
    if 'epoch' in job:
        zero = [0.0] * len(xs)
        xs, ys, *_ = t.transform(xs, ys, zero, [job['epoch']] * len(xs))
    else:
        xs, ys = t.transform(xs, ys)
    out.append(list(map(list, zip(xs, ys))))
json.dump(out, sys.stdout)
