"""Definitions, as pyproj reads and writes them.

Input: {"written": [[code, form, text]], "codes": [code]}.
Output: {"apart": [[code, form, why]], "texts": [[code, form, text]]}.
"""
import json
import sys
import warnings

from pyproj import CRS, Transformer
from pyproj.enums import WktVersion

warnings.simplefilter("ignore")
# the two forms of the first generation: the dialect of .prj files, and the one with axes and codes
DIALECT, FIRST = sorted((v for v in WktVersion if v.value.startswith("WKT1")), key=lambda v: v.value)[:2]


def points_of(crs):
    area = crs.area_of_use
    if area is None:
        return [(0.0, 0.0)]
    width = area.east - area.west if area.east >= area.west else area.east - area.west + 360
    return [(((area.west + s * width + 540) % 360) - 180, area.south + t * (area.north - area.south)) for s, t in ((0.2, 0.3), (0.5, 0.5), (0.8, 0.9))]


def meridian_of(crs):
    """Degrees."""
    return crs.prime_meridian.longitude * crs.prime_meridian.unit_conversion_factor * 180 / 3.141592653589793


def same_plane(a, b):
    """Largest distance, metres, between two projected systems over the same degrees on their own base."""
    worst = 0.0
    one = Transformer.from_crs(a.geodetic_crs, a, always_xy=True)
    two = Transformer.from_crs(b.geodetic_crs, b, always_xy=True)
    pm = a.prime_meridian.longitude
    # degrees in the unit of each base
    k, m = (x.geodetic_crs.axis_info[0].unit_conversion_factor * 180 / 3.141592653589793 for x in (a, b))
    for lon, lat in points_of(a):
        p, q = one.transform((lon - pm) / k, lat / k), two.transform((lon - pm) / m, lat / m)
        # of systems that count to the south and west pyproj may give either number first
        worst = max(worst, min(max(abs(p[0] - q[0]), abs(p[1] - q[1])), max(abs(p[0] - q[1]), abs(p[1] - q[0]))))
    return worst


job = json.load(sys.stdin)
apart = []
for code, form, text in job["written"]:
    try:
        original = CRS.from_user_input(code)
        read = CRS.from_user_input(text)
        if form == "proj":
            if original.is_projected:
                worst = same_plane(original, read)
                if not worst < 1e-3:
                    apart.append([code, form, f"{worst} m apart"])
            elif not (abs(original.ellipsoid.semi_major_metre - read.ellipsoid.semi_major_metre) < 1e-3 and abs(meridian_of(original) - meridian_of(read)) < 1e-7):
                apart.append([code, form, "another figure"])
        elif form == "prj":
            # the dialect has no axes and names of its own: the same as what pyproj itself writes and reads in it
            if not original.equals(read, ignore_axis_order=True) and not CRS.from_wkt(original.to_wkt(DIALECT)).equals(read, ignore_axis_order=True):
                apart.append([code, form, "not the same"])
        elif form == "wkt1":
            # names of datums lose their apostrophes in it, in pyproj's own texts as well
            if not original.equals(read, ignore_axis_order=True) and not CRS.from_wkt(original.to_wkt(FIRST)).equals(read, ignore_axis_order=True):
                apart.append([code, form, "not the same"])
        elif not original.equals(read):
            apart.append([code, form, "not the same"])
    except Exception as error:
        apart.append([code, form, str(error)[:160]])

texts = []
FORMS = {"prj": DIALECT, "wkt1": FIRST, "wkt2": WktVersion.WKT2_2019}
for code in job["codes"]:
    crs = CRS.from_user_input(code)
    for form, version in FORMS.items():
        try:
            text = crs.to_wkt(version)
        except Exception:
            text = None
        texts.append([code, form, text])
    texts.append([code, "proj", crs.to_proj4() or None])
json.dump({"apart": apart, "texts": texts}, sys.stdout)
