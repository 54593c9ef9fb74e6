"""How shapely says that geometries lie to each other: [[wkt, wkt], ...] to [[intersects, within, disjoint] | null], null where one of them is not valid."""
import json, sys
from shapely import wkt

out = []
for a, b in json.load(sys.stdin):
    p, q = wkt.loads(a), wkt.loads(b)
    out.append([p.intersects(q), p.within(q), p.disjoint(q)] if p.is_valid and q.is_valid else None)
json.dump(out, sys.stdout)
