"""What shapely says of sets of areas: how much of the plane they cover, once and more than once, the holes that are left in what they cover
together, and which of them are valid. Takes a list of cases, each a list of areas, each a list of rings."""

import json
import sys

from shapely.geometry import Polygon
from shapely.ops import unary_union
from shapely.strtree import STRtree

out = []
for case in json.load(sys.stdin):
    areas = [Polygon(rings[0], rings[1:]) for rings in case]
    valid = [a.is_valid for a in areas]
    if not all(valid):
        out.append({"valid": valid})
        continue
    together = unary_union(areas)
    twice = []
    for i, a in enumerate(areas):
        for b in areas[i + 1 :]:
            shared = a.intersection(b)
            if shared.area > 0:
                twice.append(shared)
    parts = together.geoms if together.geom_type == "MultiPolygon" else [together]
    holes = [Polygon(ring).difference(together).area for part in parts for ring in part.interiors]
    holes = [h for h in holes if h > 0]
    out.append(
        {"valid": valid, "covered": together.area, "twice": unary_union(twice).area if twice else 0, "holes": sorted(holes)}
    )
json.dump(out, sys.stdout)
