"""What pyproj makes of the systems that written files state, and of compound systems as .prj texts.

{"texts": [...], "codes": [...], "points": [{"from", "to", "points"}]} to {"texts": [[kind, [names of parts], [unit of heights, direction]]], "prj": [...], "points": [...]}"""
import json, sys, warnings
import pyproj

warnings.filterwarnings('ignore')
job = json.load(sys.stdin)


def told(text):
    crs = pyproj.CRS.from_user_input(text)
    parts = crs.sub_crs_list if crs.is_compound else [crs]
    axis = parts[-1].axis_info[-1]
    return [crs.type_name, [p.to_epsg(min_confidence=20) or p.name for p in parts], [round(axis.unit_conversion_factor, 9), axis.direction]]


def moved(one):
    there = pyproj.Transformer.from_crs(one['from'], one['to'], always_xy=True)
    return [list(p) for p in zip(*there.transform(*zip(*one['points'])))]


json.dump({'texts': [told(t) for t in job.get('texts', [])],
           'prj': [pyproj.CRS(c).to_wkt('WKT1_ESRI') for c in job.get('codes', [])],
           'wkt1': [pyproj.CRS(c).to_wkt('WKT1_GDAL') for c in job.get('codes', [])],
           'wkt2': [pyproj.CRS(c).to_wkt('WKT2_2019') for c in job.get('codes', [])],
           'points': [moved(p) for p in job.get('points', [])]}, sys.stdout)
