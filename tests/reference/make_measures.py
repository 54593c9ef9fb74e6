"""Shapefiles whose vertices have measures, by pyshp: {"folder": ...} to {name: {points, m, z}} a shape.

Source: "Shapefile Technical Description", 1998. Routes along a quay with their chainage, wells with a reading, a paddock with a fence number."""
import json, sys
import shapefile

folder = json.load(sys.stdin)['folder']
E, N = 1464000.0, 5101500.0
routes = [
    [[[E, N], [E + 10, N + 0.5], [E + 30, N + 7.25]]],
    [[[E + 1, N], [E + 2, N]], [[E + 5, N + 5], [E + 6, N + 5], [E + 7, N + 9]]],
    [[[E, N + 20], [E + 4, N + 20]]],
]
chainage = [[0.0, 10.0124922, 31.123456789012345], [-5.5, 1e-9, 123456789.125, None, 0.0], [None, None]]
rise = [[1.5, 2.5, 0.0], [0.25, -3.0, 4.0, 5.0, 6.0], [7.0, 8.0]]
ring = [[E, N], [E, N + 40], [E + 40, N + 40], [E + 40, N], [E, N]]
hole = [[E + 10, N + 10], [E + 20, N + 10], [E + 20, N + 20], [E + 10, N + 20], [E + 10, N + 10]]
fence = [1.0, 2.0, 3.0, 4.0, 5.0, 11.0, 12.0, 13.0, 14.0, 15.0]
told = {}


def shape(code, parts, m, z=None):
    s = shapefile.Shape(code)
    s.points = [p for part in parts for p in part]
    s.parts = []
    for part in parts:
        s.parts.append(sum(len(p) for p in parts[:len(s.parts)]))
    s.m = m
    if z is not None:
        s.z = z
    s.bbox = [min(x for x, y in s.points), min(y for x, y in s.points), max(x for x, y in s.points), max(y for x, y in s.points)]
    return s


def write(name, code, shapes):
    # pyshp puts its own number in the place of none while it writes
    told[name] = [{'points': s.points, 'm': list(s.m), 'z': getattr(s, 'z', None)} for s in shapes]
    with shapefile.Writer(f'{folder}/{name}', shapeType=code) as w:
        w.field('NO', 'N', 9)
        for k, s in enumerate(shapes):
            w.shape(s)
            w.record(k)
    with open(f'{folder}/{name}.prj', 'w') as f:
        f.write('EPSG:2193')


write('routes', shapefile.POLYLINEM, [shape(shapefile.POLYLINEM, p, m) for p, m in zip(routes, chainage)])
write('rising', shapefile.POLYLINEZ, [shape(shapefile.POLYLINEZ, p, m, z) for p, m, z in zip(routes, chainage, rise)])
write('noughts', shapefile.POLYLINEM, [shape(shapefile.POLYLINEM, p, [0.0] * sum(map(len, p))) for p in routes])
write('paddock', shapefile.POLYGONM, [shape(shapefile.POLYGONM, [ring, hole], fence)])
write('wells', shapefile.POINTM, [shape(shapefile.POINTM, [[[E + k, N]]], [m]) for k, m in enumerate([3.25, None, -40.0])])
write('gauges', shapefile.MULTIPOINTZ, [shape(shapefile.MULTIPOINTZ, [[[E, N], [E + 2, N + 1], [E + 3, N]]], [7.0, None, 9.5], [1.0, 2.0, 3.0])])
json.dump(told, sys.stdout)
