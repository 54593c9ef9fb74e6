"""What a LandXML file says, by the standard library's ElementTree: {"file": name} to points, parcels, alignments, network and surfaces."""
import json, sys
from xml.etree import ElementTree

NS = '{http://www.landxml.org/schema/LandXML-1.2}'
root = ElementTree.parse(json.load(sys.stdin)['file']).getroot()
inch = root.find(f'{NS}Units/{NS}Imperial') is not None
every = lambda name: root.iter(NS + name)
numbers = lambda e: [float(t) for t in (e.text or '').split()]
number = lambda t: None if t is None else float(t)
# sizes in millimetres
size = lambda t: round(float(t) * (25.4 if inch else 1), 6)


def properties(e):
    return {p.get('label'): p.get('value') for p in e.iter(NS + 'Property')}


def shape(e, kind):
    [s] = [c for c in e if c.tag.endswith(kind) or c.tag == NS + 'Connection']
    return [s.tag[len(NS):], {k: v if k == 'material' else size(v) for k, v in s.attrib.items()}]


def counted(e):
    out = {}
    for piece in e.find(NS + 'CoordGeom'): out[piece.tag[len(NS):]] = out.get(piece.tag[len(NS):], 0) + 1
    return out


json.dump({
    'points': [[p.get('name'), numbers(p)] for p in every('CgPoint')],
    'parcels': [[p.get('name'), number(p.get('area')), properties(p)] for p in every('Parcel')],
    'alignments': [[a.get('name'), number(a.get('length')), counted(a)] for a in every('Alignment')],
    'structures': {s.get('name'): {
        'rim': number(s.get('elevRim')), 'sump': number(s.get('elevSump')), 'at': numbers(s.find(NS + 'Center'))[:2], 'shape': shape(s, 'Struct'),
        'inverts': {i.get('refPipe'): [i.get('flowDir'), float(i.get('elev'))] for i in s.findall(NS + 'Invert')},
    } for s in every('Struct')},
    'pipes': {p.get('name'): {
        'from': p.get('refStart'), 'to': p.get('refEnd'), 'shape': shape(p, 'Pipe'), 'course': p.find(NS + 'CoordGeom') is not None,
        'length': number(p.get('length')), 'slope': number(p.get('slope')), 'own': properties(p),
    } for p in every('Pipe')},
    'surfaces': {s.get('name'): {
        'points': len(list(s.iter(NS + 'P'))), 'corners': {p.get('id'): numbers(p) for p in s.iter(NS + 'P')},
        'faces': [f.text.split() for f in s.iter(NS + 'F')],
        'breaklines': [numbers(l[0]) for l in s.iter(NS + 'Breakline')], 'contours': [float(c.get('elev')) for c in s.iter(NS + 'Contour')],
    } for s in every('Surface')},
}, sys.stdout)
