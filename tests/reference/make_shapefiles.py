"""Shapefiles of every type that pyshp can write: {"folder"} to what pyshp itself reads of them."""
import datetime, json, os, sys
import shapefile

folder = json.load(sys.stdin)['folder']
E, N = 1464000.25, 5101500.5
ring = [[E, N], [E, N + 10], [E + 10, N + 10], [E + 10, N], [E, N]]
hole = [[E + 2, N + 2], [E + 4, N + 2], [E + 4, N + 4], [E + 2, N + 4], [E + 2, N + 2]]


def lift(points, by):
    return [p + [by + i] for i, p in enumerate(points)]


CASES = {
    'point': (shapefile.POINT, lambda w, k: w.point(E + k, N)),
    'pointz': (shapefile.POINTZ, lambda w, k: w.pointz(E + k, N, 3.5 + k)),
    'pointm': (shapefile.POINTM, lambda w, k: w.pointm(E + k, N, 7)),
    'multipoint': (shapefile.MULTIPOINT, lambda w, k: w.multipoint([[E + k, N], [E + k, N + 1], [E, N]])),
    'multipointz': (shapefile.MULTIPOINTZ, lambda w, k: w.multipointz(lift([[E + k, N], [E, N + 1]], 2))),
    'line': (shapefile.POLYLINE, lambda w, k: w.line([[[E, N], [E + k, N + 1]], [[E, N + 2], [E + 1, N + k]]])),
    'linez': (shapefile.POLYLINEZ, lambda w, k: w.linez([lift([[E, N], [E + k, N + 1]], 5)])),
    'linem': (shapefile.POLYLINEM, lambda w, k: w.linem([lift([[E, N], [E + k, N + 1]], 5)])),
    'polygon': (shapefile.POLYGON, lambda w, k: w.poly([ring, hole])),
    'polygonz': (shapefile.POLYGONZ, lambda w, k: w.polyz([lift(ring, 1), lift(hole, 1)])),
    'polygonm': (shapefile.POLYGONM, lambda w, k: w.polym([lift(ring, 1)])),
    # a roof of a strip and a fan of triangles, and a wall with a window
    'multipatch': (shapefile.MULTIPATCH, lambda w, k: w.multipatch([lift([[E, N], [E, N + 4], [E + 4, N], [E + 4, N + 4]], k), lift([[E, N], [E, N + 4], [E + 4, N + 4], [E + 4, N]], 9), lift(ring, 1), lift(hole, 2)], partTypes=[shapefile.TRIANGLE_STRIP, shapefile.TRIANGLE_FAN, shapefile.OUTER_RING, shapefile.INNER_RING])),
}
ENCODINGS = {'point': ('utf-8', 'UTF-8', 'Whārangi 港'), 'line': ('cp1252', '1252', 'Rue Élysée'), 'polygon': ('cp1251', 'ANSI 1251', 'План'), 'multipoint': ('shift_jis', 'SHIFT_JIS', '港湾')}

out = []
for name, (kind, add) in CASES.items():
    encoding, label, text = ENCODINGS.get(name, ('utf-8', 'UTF-8', 'Averil'))
    path = os.path.join(folder, name)
    w = shapefile.Writer(path, shapeType=kind, encoding=encoding)
    w.field('NAME', 'C', 30)
    w.field('COUNT', 'N', 9, 0)
    w.field('DEPTH', 'N', 12, 4)
    w.field('REAL', 'F', 18, 6)
    w.field('OPEN', 'L')
    w.field('LAID', 'D')
    for k in range(1, 8):
        if k == 4:
            w.null()
        else:
            add(w, k)
        w.record(text if k != 3 else '', k * 1000 if k != 5 else None, -k / 8, k * 1.5, [True, False, None][k % 3], datetime.date(2025, k, 3) if k != 6 else None)
    w.close()
    with open(path + '.cpg', 'w') as f:
        f.write(label)
    r = shapefile.Reader(path, encoding=encoding)
    rows = []
    for sr in r.iterShapeRecords():
        s = sr.shape
        if s.shapeType == shapefile.NULL:
            continue
        z = list(s.z) if hasattr(s, 'z') else [None] * len(s.points)
        values = {f[0]: v.isoformat() if isinstance(v, datetime.date) else v for f, v in zip(r.fields[1:], sr.record)}
        rows.append({'m': list(s.m) if hasattr(s, 'm') and kind != shapefile.MULTIPATCH else None, 'points': [[p[0], p[1], zz] for p, zz in zip(s.points, z)], 'parts': list(getattr(s, 'parts', [])), 'values': values})
    r.close()
    out.append({'name': name, 'rows': rows})
json.dump(out, sys.stdout)
