"""Points through PROJ's projections: [{"crs", "points": [[lon, lat], ...]}], in the base system's own unit and meridian,
to [[[easting, northing] | null, ...] | reason]. The east-west axis comes first on both sides, in the system's own sign and
unit. "proj" in a job is a PROJ text to use instead of the code, with eastings and northings."""
import json, sys, warnings
from concurrent.futures import ProcessPoolExecutor
from pyproj import CRS, Proj, Transformer
warnings.filterwarnings('ignore')


def north_first(crs):
    axis = crs.axis_info[0]
    if axis.direction in ('north', 'south'):
        # about a pole both axes grow along meridians, and the name or the letter tells which is which
        if crs.axis_info[1].direction == axis.direction:
            return axis.name.lower().startswith('northing') or axis.abbrev == 'N'
        return True
    return False


def work(job):
    a, b = [p[0] for p in job['points']], [p[1] for p in job['points']]
    try:
        if 'proj' in job:
            xs, ys = Proj(job['proj'])(a, b)
        else:
            crs = CRS(job['crs'])
            base = crs.geodetic_crs
            there = Transformer.from_crs(base, crs)
            xs, ys = there.transform(*((b, a) if north_first(base) else (a, b)))
            if north_first(crs):
                xs, ys = ys, xs
        return [[x, y] if abs(x) != float('inf') else None for x, y in zip(xs, ys)]
    except Exception as e:
        return str(e)


if __name__ == '__main__':
    with ProcessPoolExecutor(2) as pool:
        json.dump(list(pool.map(work, json.load(sys.stdin), chunksize=64)), sys.stdout)
