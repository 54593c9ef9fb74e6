"""Points a second of pyproj's array transform. Arguments: source CRS, target CRS, west, south, east, north, count."""
import json, sys, time
import numpy as np
from pyproj import Transformer

source, target = sys.argv[1:3]
west, south, east, north = map(float, sys.argv[3:7])
n = int(sys.argv[7])
t = Transformer.from_crs(source, target, always_xy=True)
rng = np.random.default_rng(7)
x, y = rng.uniform(west, east, n), rng.uniform(south, north, n)
start = time.perf_counter()
fx, fy = t.transform(x, y)
middle = time.perf_counter()
t.transform(fx, fy, direction='INVERSE')
end = time.perf_counter()
json.dump({'forward': n / (middle - start), 'inverse': n / (end - middle)}, sys.stdout)
