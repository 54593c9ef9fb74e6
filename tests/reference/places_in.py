"""For each parcel of a shapefile a place within it, and by shapely which parcels hold or are nearest to other places."""

import json
import random
import sys

import shapefile
from shapely.geometry import Point, shape

path = json.load(sys.stdin)
with shapefile.Reader(path, encoding="utf-8") as read:
    shapes = [shape(s.__geo_interface__) for s in read.shapes()]
    west, south, east, north = read.bbox
random.seed(7)
inside = [[*s.representative_point().coords[0][:2]] for s in shapes]
elsewhere = []
for _ in range(150):
    x, y = random.uniform(west, east), random.uniform(south, north)
    off = sorted((s.distance(Point(x, y)), k) for k, s in enumerate(shapes))
    # what is as near as another one may be either
    if off[1][0] - off[0][0] > 1e-6:
        elsewhere.append({"at": [x, y], "nearest": off[0][1], "off": off[0][0]})
json.dump({"inside": inside, "elsewhere": elsewhere}, sys.stdout)
