"""Geodesics as PROJ has them: {"ellps", "lines": [[lon1, lat1, lon2, lat2], ...]} to [distance, bearing at the first point]."""
import json, sys
from pyproj import Geod

job = json.load(sys.stdin)
geod = Geod(a=job['a'], rf=job['rf'])
out = []
for lon1, lat1, lon2, lat2 in job['lines']:
    azimuth, _, distance = geod.inv(lon1, lat1, lon2, lat2)
    out.append([distance, azimuth % 360])
json.dump(out, sys.stdout)
