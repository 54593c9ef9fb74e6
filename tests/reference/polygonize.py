"""Areas that shapely makes of lines: its union nodes them, its polygonize finds what they enclose. Takes a list of cases, each a list of lines."""

import json
import sys

import shapely
from shapely.geometry import MultiLineString
from shapely.ops import polygonize_full, unary_union

SWAPPED = shapely.__version__.startswith("1.")

out = []
for lines in json.load(sys.stdin):
    noded = unary_union(MultiLineString(lines))
    # shapely before 2.0 has the two the other way round than it says: GEOS gives cut edges first
    polygons, dangles, cuts, _ = polygonize_full(noded)
    if SWAPPED:
        dangles, cuts = cuts, dangles
    out.append(
        {
            "areas": sorted(p.area for p in polygons.geoms),
            "holes": sum(len(p.interiors) for p in polygons.geoms),
            "dangle_length": sum(d.length for d in dangles.geoms),
            "cut_length": sum(c.length for c in cuts.geoms),
            "covered": unary_union(list(polygons.geoms)).area,
        }
    )
json.dump(out, sys.stdout)
