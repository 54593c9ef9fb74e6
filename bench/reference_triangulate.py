"""Points to triangles. Arguments: "make" file points | "triangulate" file.

"make" writes a table of points with heights. "triangulate" reads it and has shapely make its Delaunay triangles. Prints counts and seconds as JSON."""
import json, random, sys, time
from shapely import geometry, ops

what, path = sys.argv[1:3]
start = time.time()
if what == 'make':
    random.seed(5)
    with open(path, 'w') as f:
        f.write('e,n,z\n')
        for _ in range(int(sys.argv[3])):
            f.write(f'{1464000 + random.random() * 10000:.3f},{5101500 + random.random() * 10000:.3f},{random.random() * 50:.2f}\n')
    json.dump({}, sys.stdout)
else:
    with open(path) as f:
        next(f)
        points = [tuple(map(float, line.split(',')[:2])) for line in f]
    read = time.time()
    triangles = ops.triangulate(geometry.MultiPoint(points))
    json.dump({'triangles': len(triangles), 'seconds': time.time() - read}, sys.stdout)
