"""Areas and lengths of lots on the ellipsoid with pyproj's Geod, and their grid scale with pyproj's factors: {"crs", "rings"} to lists."""

import json
import sys

from pyproj import CRS, Geod, Proj, Transformer

asked = json.load(sys.stdin)
crs = CRS(asked["crs"])
geod = Geod(ellps="GRS80")
to = Transformer.from_crs(crs, crs.geodetic_crs, always_xy=True)
proj = Proj(crs)
out = []
for ring in asked["rings"]:
    # a side is straight on the grid: cut so finely that geodesics between the cuts are the same line
    fine = []
    for (x1, y1), (x2, y2) in zip(ring, ring[1:]):
        fine += [(x1 + (x2 - x1) * k / 50, y1 + (y2 - y1) * k / 50) for k in range(50)]
    lon, lat = to.transform(*zip(*fine, ring[0]))
    area, around = geod.polygon_area_perimeter(lon, lat)
    f = proj.get_factors(lon[0], lat[0])
    out.append({"area": abs(area), "around": around, "scale": f.meridional_scale})
json.dump(out, sys.stdout)
