"""Which records written files hold, as other programs see them: {"files": [...]} to {"records": n, "tokens": [...]} a file.

Every record of a generated source carries a token "rec-<number>" in one of its fields; here they are found again by pyshp (shapefiles), SQLite
(containers), ezdxf (drawings), fastkml (KML), gpxpy (GPX), openpyxl (workbooks), and the standard library's json, csv and ElementTree (GeoJSON,
tables, GML, LandXML, Open Document)."""
import csv, io, json, re, sqlite3, sys, zipfile
from xml.etree import ElementTree

import ezdxf, gpxpy, openpyxl, shapefile
from fastkml import kml as fast

TOKEN = re.compile(r'rec-\d+')


def of(values):
    """The token among the values of one record; null where there is none."""
    for v in values:
        found = TOKEN.search(v) if isinstance(v, str) else None
        if found: return found.group(0)
    return None


def shp(name):
    with shapefile.Reader(name) as r:
        assert len(r) == len(r.records())
        return [of(list(record)) for record in r.records()]


def gpkg(name):
    db = sqlite3.connect(f'file:{name}?mode=ro', uri=True)
    tables = [t for (t,) in db.execute("SELECT table_name FROM gpkg_contents WHERE data_type IN ('features', 'attributes')")]
    return [of(row) for t in tables for row in db.execute(f'SELECT * FROM "{t}"')]


def geojson(name):
    text = open(name, encoding='utf-8').read()
    rows = [json.loads(line) for line in text.splitlines() if line.strip('\x1e ')] if name.endswith('l') else json.loads(text)['features']
    return [of(f['properties'].values()) for f in rows]


def dxf(name):
    # what is only drawn for a record (its label, its fill) says so, and is none
    doc = ezdxf.readfile(name)
    out = []
    for e in doc.modelspace():
        data = [v for _, v in e.get_xdata('PONTREL')] if e.has_xdata('PONTREL') else []
        if data and data[0] in ('drawn', 'part'): continue
        out.append(of([*data, *(a.dxf.text for a in getattr(e, 'attribs', []))]))
    return out


def kml(name):
    text = zipfile.ZipFile(name).read('doc.kml') if name.endswith('z') else open(name, 'rb').read()
    document = fast.KML.class_from_string(text) if hasattr(fast.KML, 'class_from_string') else None
    if document is None:
        document = fast.KML()
        document.from_string(text)
    out = []
    def walk(node):
        for child in (node.features() if callable(getattr(node, 'features', None)) else getattr(node, 'features', [])):
            if type(child).__name__ == 'Placemark':
                data = child.extended_data.elements if child.extended_data is not None else []
                values = []
                for e in data:
                    values += [d['value'] if isinstance(d, dict) else d.value for d in e.data] if hasattr(e, 'data') and not isinstance(e.data, str) else [e.value]
                out.append(of(values))
            else: walk(child)
    walk(document)
    return out


def gpx(name):
    g = gpxpy.parse(open(name, encoding='utf-8'))
    text = lambda e: [t for x in e.extensions for n in x.iter() for t in [n.text, *n.attrib.values()]]
    part = lambda e: any(n.tag.endswith('}part') for x in e.extensions for n in x.iter())
    return [of([e.name, e.comment, e.description, *text(e)]) for e in [*g.waypoints, *g.routes, *g.tracks] if not part(e)]


def gml(name):
    root = ElementTree.parse(name).getroot()
    features = [f for member in root.iter() if re.search(r'\}(featureMember|featureMembers|member)$', member.tag) for f in member]
    return [of([n.text for n in f.iter()]) for f in features]


def landxml(name):
    plain = lambda tag: tag.rsplit('}', 1)[-1]
    out, places = [], 0
    for e in ElementTree.parse(name).getroot().iter():
        if plain(e.tag) not in ('CgPoint', 'PlanFeature', 'Alignment', 'Parcel', 'Struct', 'Pipe', 'Breakline', 'Contour', 'F'): continue
        # a point that is several says how many follow
        if places > 0:
            places -= 1
            continue
        parts = [f.get('code') for f in e if plain(f.tag) == 'Feature' and f.get('name') == 'places']
        places = int(parts[0]) - 1 if parts else 0
        out.append(of([v for n in e.iter() for v in n.attrib.values()]))
    return out


def xlsx(name):
    book = openpyxl.load_workbook(name)
    return [of(row) for s in book for row in list(s.iter_rows(values_only=True))[1:]]


def ods(name):
    root = ElementTree.fromstring(zipfile.ZipFile(name).read('content.xml'))
    rows = [r for r in root.iter('{urn:oasis:names:tc:opendocument:xmlns:table:1.0}table-row')]
    texts = [[''.join(c.itertext()) for c in r] for r in rows]
    # the first row of each sheet has the names of its columns
    return [of(t) for t in texts if not t or 'token' not in t]


def table(name):
    text = open(name, encoding='utf-8', newline='').read()
    separator = max(',;\t|', key=text.split('\n')[0].count)
    return [of(row) for row in list(csv.reader(io.StringIO(text), delimiter=separator))[1:]]


READERS = {'shp': shp, 'gpkg': gpkg, 'geojson': geojson, 'geojsonl': geojson, 'dxf': dxf, 'kml': kml, 'kmz': kml, 'gpx': gpx, 'gml': gml, 'landxml': landxml, 'xlsx': xlsx, 'ods': ods, 'csv': table, 'tsv': table, 'txt': table}
out = []
for name in json.load(sys.stdin)['files']:
    tokens = READERS[name.rsplit('.', 1)[1]](name)
    out.append({'records': len(tokens), 'tokens': tokens})
json.dump(out, sys.stdout)
