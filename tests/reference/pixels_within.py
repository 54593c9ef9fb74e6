"""How many pixel centres of a grid lie within a ring, by shapely: a grid by its corner and pixel, or by its affine map."""
import json
import sys

from shapely.geometry import Point, Polygon
from shapely.prepared import prep

given = json.load(sys.stdin)
area = prep(Polygon(given["ring"]))
a = given.get("map") or [given["west"], given["pixel"], 0, given["north"], 0, -given["pixel"]]
count = 0
for row in range(given["height"]):
    for column in range(given["width"]):
        x = a[0] + a[1] * (column + 0.5) + a[2] * (row + 0.5)
        y = a[3] + a[4] * (column + 0.5) + a[5] * (row + 0.5)
        count += area.contains(Point(x, y))
print(json.dumps(count))
