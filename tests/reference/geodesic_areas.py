"""Areas and perimeters as PROJ has them on the ellipsoid: {"crs": ..., "rings": [[[x, y], ...], ...]} to [[area, perimeter], ...].

Edges are straight in the system's plane: each is cut into pieces of at most 20 m first."""
import json, sys
import numpy as np
from pyproj import CRS, Geod, Transformer

job = json.load(sys.stdin)
crs = CRS.from_user_input(job['crs'])
geod = crs.get_geod()
to = Transformer.from_crs(crs, crs.geodetic_crs, always_xy=True)
out = []
for ring in job['rings']:
    p = np.array(ring)
    dense = np.vstack([np.linspace(a, b, max(2, int(np.hypot(*(b - a)) / 20) + 1), endpoint=False) for a, b in zip(p[:-1], p[1:])])
    area, _ = geod.polygon_area_perimeter(*to.transform(dense[:, 0], dense[:, 1]))
    lon, lat = to.transform(p[:, 0], p[:, 1])
    out.append([abs(area), geod.line_length(lon, lat)])
json.dump(out, sys.stdout)
