"""Shapefiles as pyshp sees them: {"files": [path of .shp, ...]} to name, type, fields and records of each."""
import json, sys
import shapefile

out = []
for path in json.load(sys.stdin)['files']:
    r = shapefile.Reader(path, encoding='utf-8')
    names = [f[0] for f in r.fields[1:]]
    records = []
    for sr in r.iterShapeRecords():
        shape = sr.shape
        z = list(shape.z) if hasattr(shape, 'z') else [None] * len(shape.points)
        records.append({
            'points': [[p[0], p[1], zz] for p, zz in zip(shape.points, z)], 'parts': list(getattr(shape, 'parts', [0])),
            'values': {n: v.isoformat() if hasattr(v, 'isoformat') else v for n, v in zip(names, sr.record)},
        })
    # a ring that runs clockwise is an outer one
    clockwise = all(shapefile.signed_area(s.points) < 0 for s in r.iterShapes()) if r.shapeType in (5, 15, 25) else None
    out.append({'path': path, 'type': r.shapeTypeName, 'count': len(r), 'bbox': list(r.bbox), 'fields': [list(f) for f in r.fields[1:]], 'records': records, 'clockwise': clockwise})
    r.close()
json.dump(out, sys.stdout)
