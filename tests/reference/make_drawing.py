"""Makes a drawing with ezdxf in a given version, with every entity type that crosses, in odd places: {"file", "version"}."""
import json, math, sys
import ezdxf

job = json.load(sys.stdin)
doc = ezdxf.new(job['version'], setup=True)
doc.header['$INSUNITS'] = 6
m = doc.modelspace()
doc.layers.add('MAINS', color=5)
doc.layers.add('OFF', color=3).off()
late = job['version'] != 'R12'
if late:
    doc.layers.add('TRUE', true_color=0x7A2E5D)
X, Y = 1464000, 5101500
for k in range(12):
    layer = ['MAINS', 'OFF', '0', 'UNDECLARED'][k % 4]
    m.add_line((X + k, Y, k), (X + k + 3.25, Y + 7.5, -k), dxfattribs={'layer': layer, 'color': [256, 1, 0, 42, 250][k % 5]})
    m.add_point((X + k, Y - 5, 1.5), dxfattribs={'layer': layer})
    m.add_circle((X + 10 * k, Y + 50), 1 + k / 3, dxfattribs={'layer': layer})
    m.add_arc((X + 10 * k, Y + 80), 2 + k, 30 * k, 30 * k + 200, dxfattribs={'layer': layer})
    m.add_polyline3d([(X + k, Y, 1), (X + k, Y + 1, 2), (X + k + 5, Y + 2, 3)], dxfattribs={'layer': layer})
    m.add_text(f'Text {k} %%d', dxfattribs={'layer': layer, 'insert': (X + k, Y + 120), 'height': 1.5, 'rotation': 15 * k})
    if late:
        m.add_lwpolyline([(X, Y + 200 + k, 0.5 * (-1) ** k), (X + 10, Y + 200 + k, 0), (X + 12, Y + 204 + k, 0)], format='xyb', close=k % 2 == 0, dxfattribs={'layer': 'TRUE' if k % 3 == 0 else layer, 'elevation': k})
        m.add_mtext(f'{{\\H2;Line {k}}}\\Pnext \\~ Whārangi', dxfattribs={'layer': layer, 'insert': (X + k, Y + 150), 'char_height': 1})
# seen from below: the OCS of a mirrored circle and arc
m.add_circle((-X, Y, 0), 4, dxfattribs={'extrusion': (0, 0, -1)})
m.add_arc((-X, Y + 20, 0), 4, 10, 100, dxfattribs={'extrusion': (0, 0, -1)})
block = doc.blocks.new('VALVE')
block.add_circle((0, 0), 0.5)
block.add_attdef('VALVE_ID', (0, 0))
for k in range(6):
    ref = m.add_blockref('VALVE', (X + 3 * k, Y + 300, 2), dxfattribs={'rotation': 33 * k, 'xscale': 1 + k, 'layer': 'MAINS'})
    ref.add_attrib('VALVE_ID', f'V-{k}', (X + 3 * k, Y + 300))
    ref.add_attrib('STATE', 'open' if k else '', (X + 3 * k, Y + 301))
m.add_solid([(X, Y), (X + 1, Y), (X, Y + 1), (X + 1, Y + 1)])
m.add_3dface([(X, Y), (X + 1, Y), (X, Y + 1), (X + 1, Y + 1)], dxfattribs={'layer': 'MAINS'})
doc.saveas(job['file'])
if 'binary' in job:
    doc.saveas(job['binary'], fmt='bin')
json.dump({}, sys.stdout)
