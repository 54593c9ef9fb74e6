"""What shapely makes of areas that reach over the antimeridian, their longitudes going on beyond 180: {"areas": [[ring, ...], ...]} to their area west of it and east of it."""
import json, sys
from shapely.geometry import Polygon, box

job = json.load(sys.stdin)
out = []
for rings in job['areas']:
    p = Polygon(rings[0], rings[1:])
    out.append([p.intersection(box(-180, -90, 180, 90)).area, p.intersection(box(180, -90, 540, 90)).area, p.is_valid])
json.dump(out, sys.stdout)
