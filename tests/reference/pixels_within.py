"""How many pixel centres of a grid lie within a ring, by shapely."""
import json
import sys

from shapely.geometry import Point, Polygon
from shapely.prepared import prep

given = json.load(sys.stdin)
area = prep(Polygon(given["ring"]))
pixel = given["pixel"]
count = 0
for row in range(given["height"]):
    for column in range(given["width"]):
        x = given["west"] + (column + 0.5) * pixel
        y = given["north"] - (row + 0.5) * pixel
        count += area.contains(Point(x, y))
print(json.dumps(count))
