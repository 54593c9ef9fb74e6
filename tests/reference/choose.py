"""What PROJ does for points between two systems: [{"from", "to", "area": [w, s, e, n], "points": [[x, y], ...]}], east-west
axis first, to [{"name", "points"} | reason]: the operation that it used last, and where the points come to."""
import json, os, sys, warnings
from concurrent.futures import ProcessPoolExecutor
from pyproj import Transformer
from pyproj.aoi import AreaOfInterest
warnings.filterwarnings('ignore')


def work(job):
    try:
        t = Transformer.from_crs(job['from'], job['to'], always_xy=True, area_of_interest=AreaOfInterest(*job['area']))
        xs, ys = t.transform([p[0] for p in job['points']], [p[1] for p in job['points']])
        try:
            used = t.get_last_used_operation()
        except Exception:
            used = t  # there was only one
        return {'name': used.description, 'accuracy': used.accuracy, 'points': [[x, y] if abs(x) != float('inf') else None for x, y in zip(xs, ys)]}
    except Exception as e:
        return str(e)


if __name__ == '__main__':
    with ProcessPoolExecutor(2) as pool:
        json.dump(list(pool.map(work, json.load(sys.stdin), chunksize=16)), sys.stdout)
