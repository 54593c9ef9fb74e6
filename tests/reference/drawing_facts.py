"""What a drawing holds, as ezdxf reads it: {"file"} to a list of objects with type, layer, vertices and text, and how many errors an audit finds."""
import json, sys
import ezdxf

doc = ezdxf.readfile(json.load(sys.stdin)['file'])


def vertices(e):
    kind = e.dxftype()
    if kind == '3DFACE': return [list(v) for v in e.wcs_vertices()]
    if kind == 'LINE': return [list(e.dxf.start), list(e.dxf.end)]
    if kind == 'LWPOLYLINE': return [list(p) for p in e.get_points('xy')]
    if kind == 'TEXT': return [list(e.get_pos()[1] if hasattr(e, 'get_pos') else e.dxf.insert)]
    return []


json.dump({
    'objects': [{'type': e.dxftype(), 'layer': e.dxf.layer, 'vertices': vertices(e), 'text': e.dxf.text if e.dxftype() == 'TEXT' else None} for e in doc.modelspace()],
    'units': doc.header['$INSUNITS'],
    'errors': len(doc.audit().errors),
}, sys.stdout)
