"""Geographic systems to X, Y, Z of the same datum: [{"crs", "points": [[lon, lat], ...]}], in the system's own unit, to [[[x, y, z], ...] | reason]."""
import json
import sys
import warnings

from pyproj import CRS, Transformer
from pyproj.crs import GeocentricCRS

warnings.filterwarnings("ignore")
out = []
for job in json.load(sys.stdin):
    try:
        crs = CRS(job["crs"])
        # an ensemble of datums cannot be named there; its figure is what is compared
        figure = crs.ellipsoid
        to = CRS.from_dict({"proj": "geocent", "a": figure.semi_major_metre, "rf": figure.inverse_flattening}) if "ensemble" in crs.datum.name else GeocentricCRS(datum=crs.datum)
        there = Transformer.from_crs(crs.to_3d(), to, always_xy=True)
        xs, ys, zs = there.transform([p[0] for p in job["points"]], [p[1] for p in job["points"]], [0.0] * len(job["points"]))
        out.append(list(map(list, zip(xs, ys, zs))))
    except Exception as error:
        out.append(str(error))
json.dump(out, sys.stdout)
