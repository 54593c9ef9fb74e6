"""What the standard library and shapely find in written GeoJSON and GeoPackage files: {"files": [...]} to one object a file.

Source: RFC 7946 (sections 3.1.6 and 7), OGC 12-128r18 (sections 1.1.1, 2.1.3, requirements as numbered there),
OGC 07-147r2 (annex B: the order of elements)."""
import json, os, sqlite3, struct, sys, warnings, zipfile, zlib
from xml.etree import ElementTree

warnings.filterwarnings('ignore')
import gpxpy
import openpyxl
from fastkml import kml as fast

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
    if g is None: return {'type': None, 'parts': [], 'properties': properties}
    shape = {'type': g.geom_type, 'valid': explain_validity(g), 'ccw': turns(g), 'area': g.area, 'length': g.length}
    return {**shape, 'parts': coordinates(g), 'z': g.has_z, 'properties': properties}


def geojson(name):
    text = open(name, encoding='utf-8').read()
    rows = [json.loads(line) for line in text.splitlines()] if name.endswith('l') else json.loads(text)['features']
    head = {} if name.endswith('l') else {k: v for k, v in json.loads(text).items() if k != 'features'}
    return {'head': head, 'layers': {'': [told(shape(f['geometry']) if f['geometry'] else None, f['properties']) for f in rows]}}


def xlsx(name):
    """Sheets by openpyxl: rows as they stand, days as ISO texts."""
    book = openpyxl.load_workbook(name)
    value = lambda v: v.date().isoformat() if hasattr(v, 'date') else v
    return {'head': {'sheets': book.sheetnames}, 'layers': {s.title: [[value(c) for c in row] for row in s.iter_rows(values_only=True)] for s in book}}


def ods(name):
    """Sheets by their elements alone (Open Document Format 1.3, part 3, section 9)."""
    with zipfile.ZipFile(name) as z:
        first = z.infolist()[0]
        head = {'first': [first.filename, first.compress_type, z.read('mimetype').decode()], 'files': z.namelist()}
        root = ElementTree.fromstring(z.read('content.xml'))
    n = lambda prefix, tag: '{urn:oasis:names:tc:opendocument:xmlns:%s:1.0}%s' % (prefix, tag)
    def cell(c):
        kind = c.get(n('office', 'value-type'))
        if kind is None: return None
        if kind == 'string': return '\n'.join(''.join(p.itertext()) for p in c.iter(n('text', 'p')))
        return {'float': float, 'boolean': lambda v: v == 'true', 'date': str}[kind](c.get(n('office', {'float': 'value'}.get(kind, kind + '-value'))))
    layers = {}
    for t in root.iter(n('table', 'table')):
        layers[t.get(n('table', 'name'))] = [[cell(c) for c in r.iter(n('table', 'table-cell'))] for r in t.iter(n('table', 'table-row'))]
    return {'head': head, 'layers': layers}


GML = '{http://www.opengis.net/gml/3.2}'


def gml(name):
    """Features by their elements alone, positions in the order in which they stand (OGC 07-036, clauses 10 and 11)."""
    root = ElementTree.parse(name).getroot()
    ids = [e.get(GML + 'id') for e in root.iter() if e.get(GML + 'id')]
    head = {'ids': len(ids) == len(set(ids)), 'srs': sorted({e.get('srsName') for e in root.iter() if e.get('srsName')}), 'faults': []}
    numbers = lambda e: [float(v) for v in e.text.split()]
    def runs(e, width):
        flat = numbers(e)
        return [flat[k:k + width] for k in range(0, len(flat), width)]
    def geometry(g, width):
        tag = g.tag.replace(GML, '')
        if tag == 'Point': return {'type': 'Point', 'coordinates': runs(g.find(GML + 'pos'), width)[0]}
        if tag == 'LineString': return {'type': 'LineString', 'coordinates': runs(g.find(GML + 'posList'), width)}
        if tag == 'Polygon': return {'type': 'Polygon', 'coordinates': [runs(r, width) for r in g.iter(GML + 'posList')]}
        kind = {'MultiSurface': 'MultiPolygon', 'MultiCurve': 'MultiLineString'}.get(tag, tag)
        return {'type': kind, 'coordinates': [geometry(m[0], width)['coordinates'] for m in g]}
    rows = []
    for member in root:
        feature = member[0]
        properties, g = {}, None
        for child in feature:
            if len(child): g = geometry(child[0], int(child[0].get('srsDimension')))
            else: properties[child.tag.split('}')[1]] = child.text
        rows.append(told(shape(g), properties) if g else {'properties': properties})
    xs = '{http://www.w3.org/2001/XMLSchema}'
    schema = ElementTree.parse(name[:-4] + '.xsd').getroot()
    types = [t for t in schema.iter(xs + 'complexType') if t.get('name', '').startswith(os.path.basename(name)[:-4])]
    names = [e.get('name') for t in types for e in t.iter(xs + 'element')]
    for member in root:
        told_names = [c.tag.split('}')[1] for c in member[0]]
        if told_names != [x for x in names if x in told_names]: head['faults'].append('elements stand in another order than the schema has')
    return {'head': head, 'layers': {'': rows}}


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
    tables = [c['table_name'] for c in db.execute("SELECT table_name FROM gpkg_contents WHERE data_type = 'attributes'").fetchall()]
    head['attributes'] = {table: [dict(r) for r in db.execute(f'SELECT * FROM "{table}"')] for table in tables}
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
            fields = [k for k in row.keys() if k not in ('fid', g['column_name'])]
            values = {k: bool(row[k]) if types[k] == 'BOOLEAN' and row[k] is not None else row[k] for k in fields}
            rows.append(told(geometry, values))
        if [c['min_x'], c['min_y'], c['max_x'], c['max_y']] != bounds:
            fault(f'{table}: the extent of its contents is not that of its records')
        if one("SELECT count(*) FROM gpkg_extensions WHERE table_name = ? AND extension_name = 'gpkg_rtree_index'", table) != 1:
            fault(f'{table}: its index is not registered')
        if one("SELECT count(*) FROM sqlite_master WHERE type = 'trigger' AND tbl_name = ?", table) != 6:
            fault(f'{table}: triggers are missing')
        layers[table] = rows
    return {'head': head, 'layers': layers}


OF_FEATURES = ['name', 'visibility', 'open', 'author', 'link', 'address', 'phoneNumber', 'Snippet', 'description', 'LookAt']
# the order in which the schema has the elements of some types
ORDERS = {
    'Document': [*OF_FEATURES, 'Style', 'StyleMap', 'Region', 'ExtendedData', 'Schema', 'Folder', 'Placemark'],
    'Folder': ['name', 'description', 'Region', 'Folder', 'Placemark'], 'Region': ['LatLonAltBox', 'Lod'],
    'Placemark': [
        *OF_FEATURES, 'TimeStamp', 'styleUrl', 'Style', 'Region', 'ExtendedData',
        'Point', 'LineString', 'LinearRing', 'Polygon', 'MultiGeometry',
    ],
    'Point': ['extrude', 'altitudeMode', 'coordinates'], 'LineString': ['extrude', 'tessellate', 'altitudeMode', 'coordinates'],
    'Polygon': ['extrude', 'tessellate', 'altitudeMode', 'outerBoundaryIs', 'innerBoundaryIs'],
    'Style': ['IconStyle', 'LabelStyle', 'LineStyle', 'PolyStyle', 'BalloonStyle', 'ListStyle'],
    'IconStyle': ['color', 'colorMode', 'scale', 'heading', 'Icon', 'hotSpot'],
    'LineStyle': ['color', 'colorMode', 'width', 'physicalWidth'],
    'PolyStyle': ['color', 'colorMode', 'fill', 'outline'],
}


def kml(name):
    head = {'faults': [], 'files': [], 'icons': []}
    if name.endswith('z'):
        archive = zipfile.ZipFile(name)
        head['files'] = archive.namelist()
        head['broken'] = archive.testzip()
        data = archive.read('doc.kml')
        for icon in (n for n in head['files'] if n.endswith('.png')):
            head['icons'].append(png(archive.read(icon)))
    else:
        data = open(name, 'rb').read()
    root = ElementTree.fromstring(data)
    local = lambda e: e.tag.split('}')[-1]
    ids, urls = set(), set()
    for e in root.iter():
        order = ORDERS.get(local(e))
        if order:
            places = [order.index(local(c)) if local(c) in order else -1 for c in e]
            if -1 in places or places != sorted(places):
                head['faults'].append(f'{local(e)}: {[local(c) for c in e]}')
        if e.get('id') in ids:
            head['faults'].append(f'id {e.get("id")} stands twice')
        if e.get('id'):
            ids.add(e.get('id'))
        urls |= {e.text.lstrip('#')} if local(e) == 'styleUrl' else {e.get('schemaUrl').lstrip('#')} if e.get('schemaUrl') else set()
        if local(e) == 'href' and e.text not in head['files']:
            head['faults'].append(f'{e.text} is not in the archive')
    head['faults'] += [f'{u} is not defined' for u in urls - ids]
    document = fast.KML()
    document.from_string(data)
    layers = {}
    def folders(within, prefix):
        for f in within.features():
            inner = list(f.features())
            name = f'{prefix} / {f.name}' if prefix else f.name
            if inner and type(inner[0]).__name__ == 'Folder': yield from folders(f, name)
            else: yield name, f
    for name, folder in folders(list(document.features())[0], ''):
        layers[name] = []
        for p in folder.features():
            values = {d['name']: d['value'] for s in (p.extended_data.elements if p.extended_data else []) for d in s.data}
            layers[name].append({**told(p.geometry if p._geometry else None, values), 'name': p.name})
    modes = {local(e) + ' ' + (e.text or '') for e in root.iter() if local(e) in ('altitudeMode', 'extrude', 'tessellate', 'physicalWidth')}
    head['modes'] = sorted(modes)
    head['regions'] = [{local(c): float(c.text) for c in box} for box in root.iter() if local(box) == 'LatLonAltBox']
    head['pictures'] = sum('<img src=' in (e.text or '') for e in root.iter() if local(e) == 'description')
    return {'head': head, 'layers': layers}


def png(data):
    """Width, height and how much of a picture of grey and alpha is drawn, by its opacity."""
    assert data[:8] == b'\x89PNG\r\n\x1a\n'
    at, rows, size = 8, b'', None
    while at < len(data):
        length, kind = struct.unpack_from('>I4s', data, at)
        body = data[at + 8:at + 8 + length]
        assert zlib.crc32(kind + body) == struct.unpack_from('>I', data, at + 8 + length)[0]
        if kind == b'IHDR':
            size = struct.unpack_from('>II', body)
            assert body[8:13] == bytes([8, 4, 0, 0, 0])
        if kind == b'IDAT':
            rows += body
        at += 12 + length
    rows = zlib.decompress(rows)
    alpha = [rows[y * (2 * size[0] + 1) + 2 + 2 * x] for y in range(size[1]) for x in range(size[0])]
    return {'size': size, 'drawn': sum(alpha) / 255 / len(alpha), 'middle': alpha[len(alpha) // 2 + size[0] // 2]}


def gpx(name):
    doc = gpxpy.parse(open(name, encoding='utf-8'))
    order = [e.tag.split('}')[-1] for e in ElementTree.parse(name).getroot()]
    point = lambda p: [p.longitude, p.latitude] + ([] if p.elevation is None else [p.elevation])
    data = lambda e: {v.get('name'): v.text for x in e.extensions for v in x}
    head = {'creator': doc.creator, 'faults': [] if order == sorted(order, key=['metadata', 'wpt', 'rte', 'trk'].index) else order}
    return {'head': head, 'layers': {
        'wpt': [{'name': w.name, 'parts': [[point(w)]], 'properties': data(w)} for w in doc.waypoints],
        'trk': [{'name': t.name, 'parts': [[point(p) for p in s.points] for s in t.segments], 'properties': data(t)} for t in doc.tracks]}}


READERS = {'.gpkg': geopackage, '.kml': kml, '.kmz': kml, '.gpx': gpx, '.gml': gml, '.xlsx': xlsx, '.ods': ods}
out = [READERS.get(os.path.splitext(name)[1], geojson)(name) for name in json.load(sys.stdin)['files']]
json.dump(out, sys.stdout)
