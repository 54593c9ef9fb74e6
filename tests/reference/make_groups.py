"""Makes a drawing with groups and a stated order of drawing: {"file", "version"}. Output: group names and draw rank by handle."""
import json, sys
import ezdxf

job = json.load(sys.stdin)
doc = ezdxf.new(job['version'])
m = doc.modelspace()
lines = [m.add_line((k, 0), (k, 10)) for k in range(20)]
circles = [m.add_circle((k, 20), 0.4) for k in range(5)]
names = {}
for name, members in (('Berth 1', lines[:6]), ('Ōhau wharf', lines[4:9] + circles[:2])):
    doc.groups.new(name).extend(members)
    for e in members:
        names.setdefault(e.dxf.handle, []).append(name)
order = {lines[k].dxf.handle: circles[k].dxf.handle for k in range(3)}
m.set_redraw_order(order)
doc.saveas(job['file'])
json.dump({'groups': names, 'order': {a: int(b, 16) for a, b in order.items()}}, sys.stdout)
