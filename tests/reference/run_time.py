"""What PROJ does at run time for points between two systems, without being told where they lie: [{"from", "to", "points": [[x, y], ...]}],
east-west axis first, to [[{"name", "accuracy", "point"} | reason, ...]]: for each point the operation that it used, and where it comes to."""
import json, sys, warnings
from concurrent.futures import ProcessPoolExecutor
from pyproj import Transformer
warnings.filterwarnings('ignore')


def work(job):
    try:
        t = Transformer.from_crs(job['from'], job['to'], always_xy=True)
    except Exception as e:
        return [str(e) for _ in job['points']]
    made = []
    for x, y in job['points']:
        try:
            u, v = t.transform(x, y)
            try:
                used = t.get_last_used_operation()
            except Exception:
                used = t  # there was only one
            made.append({'name': used.description, 'accuracy': used.accuracy, 'point': [u, v] if abs(u) != float('inf') else None})
        except Exception as e:
            made.append(str(e))
    return made


if __name__ == '__main__':
    with ProcessPoolExecutor(2) as pool:
        json.dump(list(pool.map(work, json.load(sys.stdin), chunksize=16)), sys.stdout)
