"""Writes a shapefile with pyshp whose .prj, made by pyproj, is that of another system than its numbers are in: {"stem", "points", "prj"}."""
import json, sys
import pyproj, shapefile

job = json.load(sys.stdin)
with shapefile.Writer(job['stem'], shapeType=shapefile.POINT) as w:
    w.field('ID', 'N')
    for k, (x, y) in enumerate(job['points']):
        w.point(x, y)
        w.record(k)
with open(job['stem'] + '.prj', 'w') as f:
    f.write(pyproj.CRS(job['prj']).to_wkt('WKT1_ESRI'))
json.dump(None, sys.stdout)
