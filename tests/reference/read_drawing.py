"""A drawing as ezdxf sees it: {"file", "factor", "from", "to"} to its records, points carried by PROJ into "to".

Each record: layer, handle, type, colour, points (x, y, z of the vertices that are drawn straight; for curves their ends),
text, block, attributes."""
import json, sys
import ezdxf
from ezdxf.colors import int2rgb, aci2rgb  # noqa: F401  (aci2rgb: all 256 indexes, checked apart)
from ezdxf.lldxf.encoding import decode_dxf_unicode
from pyproj import Transformer

job = json.load(sys.stdin)
doc = ezdxf.readfile(job['file'])
auditor = doc.audit()
carry = Transformer.from_crs(job['from'], job['to'], always_xy=True) if job['from'] != job['to'] else None


def decode(text):
    return decode_dxf_unicode(text).replace('\u00a0', ' ')


def color_of(e):
    if e.dxf.hasattr('true_color'):
        return '#%06x' % e.dxf.true_color
    index = e.dxf.get('color', 256)
    if index == 256:
        layer = doc.layers.get(e.dxf.layer) if e.dxf.layer in doc.layers else None
        if layer is None:
            index = 7
        elif layer.dxf.hasattr('true_color'):
            return '#%06x' % layer.dxf.true_color
        else:
            index = abs(layer.dxf.color)
    if index == 0:
        index = 7
    return '#%02x%02x%02x' % tuple(aci2rgb(index))


def points_of(e):
    t = e.dxftype()
    if t in ('POINT',):
        return [e.dxf.location]
    if t == 'LINE':
        return [e.dxf.start, e.dxf.end]
    if t in ('TEXT', 'MTEXT', 'INSERT'):
        return [e.ocs().to_wcs(e.dxf.insert) if t != 'MTEXT' else e.dxf.insert]
    if t == 'LWPOLYLINE':
        return list(e.vertices_in_wcs())
    if t == 'POLYLINE':
        return [v.dxf.location for v in e.vertices]
    if t == 'ARC':
        return [e.start_point, e.end_point]
    if t in ('CIRCLE', 'HATCH'):
        return []
    if t in ('SOLID', 'TRACE', '3DFACE'):
        return e.wcs_vertices()
    if t in ('SPLINE', 'ELLIPSE'):
        line = list(e.flattening(0.01))
        return [line[0], line[-1]]
    return None


out, left = [], {}
for e in doc.modelspace():
    points = points_of(e)
    if points is None:
        key = e.dxftype() + ' ' + e.dxf.layer
        left[key] = left.get(key, 0) + 1
        continue
    xyz = [[p[0] * job['factor'], p[1] * job['factor'], p[2] * job['factor']] for p in points]
    if carry and xyz:
        xs, ys = carry.transform([p[0] for p in xyz], [p[1] for p in xyz])
        xyz = [[x, y, p[2]] for x, y, p in zip(xs, ys, xyz)]
    t = e.dxftype()
    out.append({
        'layer': e.dxf.layer, 'handle': e.dxf.handle, 'type': t, 'color': color_of(e), 'points': xyz,
        'curved': t in ('ARC', 'CIRCLE', 'HATCH', 'SPLINE', 'ELLIPSE') or (t == 'LWPOLYLINE' and e.has_arc),
        'closed': t in ('CIRCLE', 'SOLID', 'TRACE', '3DFACE') or (t == 'LWPOLYLINE' and e.closed),
        'center': [v * job['factor'] for v in e.ocs().to_wcs(e.dxf.center).xyz[:2]] if t in ('ARC', 'CIRCLE') else None,
        'radius': e.dxf.radius * job['factor'] if t in ('ARC', 'CIRCLE') else None,
        'text': decode(e.plain_text()) if t == 'TEXT' else decode(e.plain_text(fast=False)) if t == 'MTEXT' else None,
        'block': e.dxf.name if t == 'INSERT' else None,
        'attributes': {a.dxf.tag: a.dxf.text for a in e.attribs} if t == 'INSERT' else {},
    })
json.dump({'records': out, 'left': left, 'errors': [x.message for x in auditor.errors], 'fixes': [x.message for x in auditor.fixes]}, sys.stdout)
