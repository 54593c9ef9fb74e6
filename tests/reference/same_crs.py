"""Definitions read by PROJ: [{"id", "text", "at": [lon, lat]}] to [true | reason]: is the text the same system as the code?"""
import json, sys, warnings
from pyproj import CRS, Proj
warnings.filterwarnings('ignore')


def meridian(crs):
    return crs.prime_meridian.longitude * crs.prime_meridian.unit_conversion_factor


def compare(item):
    read, registered = CRS.from_wkt(item['text']), CRS.from_user_input(item['id'])
    a, b = read.ellipsoid, registered.ellipsoid
    if abs(a.semi_major_metre - b.semi_major_metre) > 1e-3 or abs(a.inverse_flattening - b.inverse_flattening) > 1e-6:
        return 'another ellipsoid'
    if abs(meridian(read) - meridian(registered)) > 1e-9:
        return f'another prime meridian: {meridian(read)} instead of {meridian(registered)}'
    if read.is_projected:
        one, two = Proj(read)(*item['at']), Proj(registered)(*item['at'])
        if max(abs(one[0] - two[0]), abs(one[1] - two[1])) > 1e-3:
            return f'{one} instead of {two}'
    return True


out = []
for item in json.load(sys.stdin):
    try:
        out.append(compare(item))
    except Exception as e:
        out.append(str(e))
json.dump(out, sys.stdout)
