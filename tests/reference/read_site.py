"""What ezdxf, pyshp and the standard library find in files of a site grid: {"files": [...]} to lines, unit and system of each.

Source: OGC 12-128r18, section 2.1.3 (header of a geometry)."""
import json, sqlite3, struct, sys
import ezdxf, shapefile
from shapely import wkb


def drawing(file):
    doc = ezdxf.readfile(file)
    m = doc.modelspace()
    lines = [[list(p) for p in e.vertices()] for e in m.query('LWPOLYLINE')]
    lines += [[[*e.dxf.start][:2], [*e.dxf.end][:2]] for e in m.query('LINE')]
    return {'lines': lines, 'unit': doc.header.get('$INSUNITS'), 'system': None if m.get_geodata() is None else 'stated'}


def shapes(file):
    with shapefile.Reader(file) as r:
        lines = [[list(p)[:2] for p in s.points] for s in r.shapes()]
    with open(file[:-4] + '.prj') as f:
        return {'lines': lines, 'unit': None, 'system': f.read()}


def container(file):
    db = sqlite3.connect(file)
    lines, system = [], set()
    for table, srs in db.execute('SELECT table_name, srs_id FROM gpkg_geometry_columns').fetchall():
        system.add(db.execute('SELECT definition FROM gpkg_spatial_ref_sys WHERE srs_id = ?', (srs,)).fetchone()[0])
        for (blob,) in db.execute(f'SELECT geom FROM "{table}"'):
            envelope = [0, 32, 48, 48, 64][(blob[3] >> 1) & 7]
            g = wkb.loads(blob[8 + envelope:])
            parts = g.geoms if hasattr(g, 'geoms') else [g]
            lines += [[list(p)[:2] for p in part.coords] for part in parts]
    return {'lines': lines, 'unit': None, 'system': ' '.join(system)}


READERS = {'dxf': drawing, 'shp': shapes, 'pkg': container}
json.dump([READERS[f[-3:]](f) for f in json.load(sys.stdin)['files']], sys.stdout)
