"""What the standard library and shapely find in written GeoJSON and GeoPackage files: {"files": [...]} to one object a file.

Source: RFC 7946 (sections 3.1.6 and 7), OGC 12-128r18 (sections 1.1.1, 2.1.3, requirements as numbered there)."""
import json, sqlite3, struct, sys

from shapely import wkb
from shapely.geometry import shape
from shapely.validation import explain_validity


def coordinates(g):
    """Rings and lines as lists of positions, in the order in which they stand."""
    if g.geom_type == 'Polygon':
        return [list(r.coords) for r in [g.exterior, *g.interiors]]
    if g.geom_type in ('Point', 'LineString'):
        return [list(g.coords)]
    return [part for one in g.geoms for part in coordinates(one)]


def turns(g):
    """Whether outer rings run counter-clockwise and holes clockwise."""
    if g.geom_type == 'Polygon':
        return g.exterior.is_ccw and not any(r.is_ccw for r in g.interiors)
    return all(turns(one) for one in getattr(g, 'geoms', []) if one.geom_type == 'Polygon')


def told(g, properties):
    return {'type': g.geom_type, 'valid': explain_validity(g), 'ccw': turns(g), 'area': g.area, 'length': g.length, 'parts': coordinates(g), 'z': g.has_z, 'properties': properties}


def geojson(name):
    text = open(name, encoding='utf-8').read()
    rows = [json.loads(line) for line in text.splitlines()] if name.endswith('l') else json.loads(text)['features']
    head = {} if name.endswith('l') else {k: v for k, v in json.loads(text).items() if k != 'features'}
    return {'head': head, 'layers': {'': [told(shape(f['geometry']), f['properties']) for f in rows]}}


def geopackage(name):
    db = sqlite3.connect(name)
    db.row_factory = sqlite3.Row
    one = lambda sql, *a: db.execute(sql, a).fetchone()[0]
    head = {
        'application_id': one('PRAGMA application_id'), 'user_version': one('PRAGMA user_version'),
        'integrity': one('PRAGMA integrity_check'), 'foreign': [list(r) for r in db.execute('PRAGMA foreign_key_check')],
        'systems': [r['srs_id'] for r in db.execute('SELECT srs_id FROM gpkg_spatial_ref_sys ORDER BY srs_id')],
        'faults': [],
    }
    fault = head['faults'].append
    layers = {}
    for c in db.execute("SELECT * FROM gpkg_contents WHERE data_type = 'features'").fetchall():
        table = c['table_name']
        g = db.execute('SELECT * FROM gpkg_geometry_columns WHERE table_name = ?', (table,)).fetchone()
        info = {r['name']: r for r in db.execute(f'PRAGMA table_info("{table}")')}
        if info[g['column_name']]['type'] != g['geometry_type_name']:
            fault(f'{table}: requirement 31, the declared type is not the type of the column')
        if [r['name'] for r in info.values() if r['pk']] == [] or g['srs_id'] != c['srs_id']:
            fault(f'{table}: no key, or another system than in its contents')
        rows, bounds = [], [float('inf'), float('inf'), -float('inf'), -float('inf')]
        for row in db.execute(f'SELECT * FROM "{table}" ORDER BY fid'):
            blob = row[g['column_name']]
            magic, version, flags, srs = struct.unpack_from('<2sBBi', blob)
            if magic != b'GP' or version != 0 or not flags & 1 or srs != g['srs_id']:
                fault(f'{table}: header {blob[:8].hex()}')
            size = [0, 32, 48, 48, 64][flags >> 1 & 7]
            geometry = wkb.loads(blob[8 + size:])
            box = geometry.bounds
            if size and [round(v, 9) for v in struct.unpack_from('<4d', blob, 8)] != [round(v, 9) for v in (box[0], box[2], box[1], box[3])]:
                fault(f'{table}: the bounds in a header are not those of its geometry')
            if geometry.geom_type.upper() != g['geometry_type_name'] or (geometry.has_z and g['z'] == 0):
                fault(f'{table}: a {geometry.geom_type} in a column of {g["geometry_type_name"]}')
            index = db.execute(f'SELECT minx, maxx, miny, maxy FROM "rtree_{table}_{g["column_name"]}" WHERE id = ?', (row['fid'],)).fetchone()
            if index is None or not (index[0] <= box[0] and index[1] >= box[2] and index[2] <= box[1] and index[3] >= box[3]):
                fault(f'{table}: the index does not hold record {row["fid"]}')
            bounds = [min(bounds[0], box[0]), min(bounds[1], box[1]), max(bounds[2], box[2]), max(bounds[3], box[3])]
            types = {n: r['type'] for n, r in info.items()}
            rows.append(told(geometry, {k: (bool(row[k]) if types[k] == 'BOOLEAN' and row[k] is not None else row[k]) for k in row.keys() if k not in ('fid', g['column_name'])}))
        if [c['min_x'], c['min_y'], c['max_x'], c['max_y']] != bounds:
            fault(f'{table}: the extent of its contents is not that of its records')
        if one("SELECT count(*) FROM gpkg_extensions WHERE table_name = ? AND extension_name = 'gpkg_rtree_index'", table) != 1:
            fault(f'{table}: its index is not registered')
        if one("SELECT count(*) FROM sqlite_master WHERE type = 'trigger' AND tbl_name = ?", table) != 6:
            fault(f'{table}: triggers are missing')
        layers[table] = rows
    return {'head': head, 'layers': layers}


out = [geopackage(name) if name.endswith('.gpkg') else geojson(name) for name in json.load(sys.stdin)['files']]
json.dump(out, sys.stdout)
