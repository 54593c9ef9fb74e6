"""Points through PROJ's projections: {"jobs": [{"crs", "points": [[lon, lat], ...]}]}, degrees from Greenwich, to lists of
eastings and northings in the system's own unit; null where there is none."""
import json, sys, warnings
from pyproj import Proj
warnings.filterwarnings('ignore')

out = []
for job in json.load(sys.stdin)['jobs']:
    xs, ys = Proj(job['crs'])([p[0] for p in job['points']], [p[1] for p in job['points']])
    out.append([[x, y] if abs(x) != float('inf') else None for x, y in zip(xs, ys)])
json.dump(out, sys.stdout)
