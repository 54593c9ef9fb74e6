"""Makes a drawing that shows another one, turned, stretched and moved, with a mark where ezdxf puts its corner: {"host", "shown", "scale": [sx, sy]}."""
import json, math, sys
import ezdxf

job = json.load(sys.stdin)
shown = ezdxf.new('R2010')
m = shown.modelspace()
m.add_lwpolyline([(0, 0), (40, 0), (40, 25), (0, 25)], close=True, dxfattribs={'layer': 'SHED'})
m.add_point((40, 25), dxfattribs={'layer': 'CORNER'})
shown.saveas(job['shown'])
host = ezdxf.new('R2010')
host.header['$INSUNITS'] = 4
h = host.modelspace()
host.add_xref_def(filename='C:\\plans\\' + job['shown'].split('/')[-1], name='SHED-PLAN')
sx, sy = job['scale']
insert = h.add_blockref('SHED-PLAN', (1464100000, 5101500000), dxfattribs={'rotation': 30, 'xscale': sx, 'yscale': sy, 'zscale': sx})
corner = insert.matrix44().transform((40, 25, 0))
h.add_point(corner, dxfattribs={'layer': 'SEEN'})
h.add_line((1464000000, 5101400000), (1464200000, 5101600000))
host.saveas(job['host'])
json.dump(list(corner), sys.stdout)
