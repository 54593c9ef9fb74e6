"""Fields and values of written files as others see them: {"files": [...]} to {"fields": [[name, type, ...]], "rows": [{name: value}]} a file; bytes as hex."""
import base64, csv, json, sqlite3, sys
from xml.etree import ElementTree
import ezdxf, openpyxl, shapefile


def plain(v):
    return v.hex() if isinstance(v, bytes) else v.isoformat() if hasattr(v, 'isoformat') else v


def shp(name):
    with shapefile.Reader(name) as r:
        fields = [list(f) for f in r.fields if f[0] != 'DeletionFlag']
        return {'fields': [[f[0], str(getattr(f[1], 'value', f[1])), f[2], f[3]] for f in fields], 'rows': [{k: plain(v) for k, v in rec.as_dict().items()} for rec in r.records()]}


def gpkg(name):
    db = sqlite3.connect(f'file:{name}?mode=ro', uri=True)
    db.row_factory = sqlite3.Row
    table = db.execute("SELECT table_name FROM gpkg_contents").fetchone()[0]
    fields = [[r['name'], r['type']] for r in db.execute(f'PRAGMA table_info("{table}")')]
    return {'fields': fields, 'rows': [{k: plain(r[k]) for k in r.keys() if k not in ('fid', 'geom')} for r in db.execute(f'SELECT * FROM "{table}"')]}


def geojson(name):
    return {'fields': [], 'rows': [f['properties'] for f in json.load(open(name, encoding='utf-8'))['features']]}


def gml(name):
    root = ElementTree.parse(name).getroot()
    local = lambda e: e.tag.rsplit('}', 1)[-1]
    features = [f for m in root.iter() if local(m) == 'member' for f in m]
    return {'fields': [], 'rows': [{local(e): (base64.b64decode(e.text).hex() if local(e) == 'seal' else e.text) for e in f if len(e) == 0 and e.text} for f in features]}


def table(name):
    return {'fields': [], 'rows': list(csv.DictReader(open(name, encoding='utf-8', newline='')))}


def xlsx(name):
    rows = list(openpyxl.load_workbook(name).worksheets[0].iter_rows(values_only=True))
    return {'fields': [], 'rows': [{k: plain(v) for k, v in zip(rows[0], r)} for r in rows[1:]]}


def dxf(name):
    out = []
    for e in ezdxf.readfile(name).modelspace():
        fields, at = {}, None
        for code, value in e.get_xdata('PONTREL')[0:] if e.has_xdata('PONTREL') else []:
            if code == 1002: at = None if value == '}' else []
            elif at is not None and at == []: at = [value]
            elif at is not None: fields.setdefault(at[0], []).append(value.hex() if isinstance(value, bytes) else value)
        out.append(fields)
    return {'fields': [], 'rows': out}


READERS = {'shp': shp, 'gpkg': gpkg, 'geojson': geojson, 'gml': gml, 'csv': table, 'xlsx': xlsx, 'dxf': dxf}
json.dump([READERS[f.rsplit('.', 1)[1]](f) for f in json.load(sys.stdin)['files']], sys.stdout)
