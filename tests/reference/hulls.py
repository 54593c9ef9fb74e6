"""The areas of the hulls of sets of points, sheared as the test beside it has them, with shapely."""

import json
import sys

from shapely.geometry import MultiPoint

json.dump([MultiPoint([(x + x * y * 1e-3, y) for x, y in points]).convex_hull.area for points in json.load(sys.stdin)], sys.stdout)
