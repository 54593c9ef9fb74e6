"""Lines to areas. Arguments: "make" file lines | "polygonize" file.

"make" writes a shapefile of lines with pyshp, the sides of a grid of lots, each side a line of its own whose ends are up to 4 mm off.
"polygonize" reads it with pyshp, rounds the ends to centimetres so that they meet, and has shapely node and polygonize them. Prints counts and
seconds as JSON."""
import json, math, random, sys, time
import shapefile
from shapely.geometry import MultiLineString
from shapely.ops import polygonize, unary_union

what, path = sys.argv[1:3]
start = time.time()
if what == 'make':
    random.seed(5)
    across = int(math.sqrt(int(sys.argv[3]) / 2))
    at = lambda i, j: [1464000 + 20 * i + random.uniform(-0.004, 0.004), 5101000 + 30 * j + random.uniform(-0.004, 0.004)]
    with shapefile.Writer(path, shapeType=shapefile.POLYLINE) as w:
        w.field('N', 'N', 9, 0)
        n = 0
        for i in range(across + 1):
            for j in range(across + 1):
                for di, dj in ((1, 0), (0, 1)):
                    if i + di <= across and j + dj <= across:
                        w.line([[at(i, j), at(i + di, j + dj)]])
                        w.record(n)
                        n += 1
    json.dump({'lines': n, 'lots': across * across, 'make': time.time() - start}, sys.stdout)
else:
    lines = [[[round(x, 2), round(y, 2)] for x, y in s.points] for s in shapefile.Reader(path).iterShapes()]
    areas = list(polygonize(unary_union(MultiLineString(lines))))
    json.dump({'areas': len(areas), 'area': sum(a.area for a in areas), 'seconds': time.time() - start}, sys.stdout)
