"""Records of damaged files as other programs read them: [path, ...] to [count or null, ...]; null where they cannot."""
import csv, json, re, sqlite3, sys
import xml.etree.ElementTree as ET

import shapefile


def local(tag):
    return tag.rsplit('}', 1)[-1]


def elements(path, names):
    return sum(1 for e in ET.parse(path).iter() if isinstance(e.tag, str) and local(e.tag) in names)


def count(path):
    if path.endswith(('.geojson', '.json')):
        # Python's reader takes NaN and Infinity, which JSON has not
        def refuse(_):
            raise ValueError
        document = json.load(open(path, encoding='utf-8-sig'), parse_constant=refuse)
        return len(document['features']) if document.get('type') == 'FeatureCollection' else None
    if path.endswith('.geojsonl'):
        return sum(1 for line in open(path, encoding='utf-8') if json.loads(line)['type'] == 'Feature')
    if path.endswith('.shp'):
        # the shapes themselves: an index beside them may be damaged as well
        with open(path, 'rb') as shp, shapefile.Reader(shp=shp) as r:
            return len(r.shapes())
    if path.endswith('.gpkg'):
        db = sqlite3.connect(f'file:{path}?mode=ro', uri=True)
        if db.execute('PRAGMA integrity_check').fetchone() != ('ok',):
            return None
        tables = [t for (t,) in db.execute("SELECT table_name FROM gpkg_contents WHERE data_type IN ('features', 'attributes')")]
        return sum(db.execute('SELECT count(*) FROM "%s"' % t.replace('"', '""')).fetchone()[0] for t in tables)
    if path.endswith('.csv'):
        rows = [r for r in csv.reader(open(path, encoding='utf-8', newline=''), strict=True) if r]
        return len(rows) - 1
    if path.endswith('.kml'):
        return elements(path, {'Placemark'})
    if path.endswith('.gpx'):
        return elements(path, {'wpt', 'rte', 'trk'})
    return None


out = []
for path in json.load(sys.stdin):
    try:
        out.append(count(path))
    except Exception:
        out.append(None)
json.dump(out, sys.stdout)
