"""Makes a drawing of a site grid with ezdxf, with no place on earth: {"file", "insunits"}; answers the vertices of its lines."""
import json, sys
import ezdxf

job = json.load(sys.stdin)
doc = ezdxf.new('R2010', setup=True)
doc.header['$INSUNITS'] = job['insunits']
m = doc.modelspace()
lines = [
    [[0, 0, 0], [12345.678, 9876.543, 0]],
    [[-250.125, 3000.5, 0], [45000.25, -1200.5, 0], [45000.75, 0.001, 0]],
    [[1e6 + 0.123456, 2e6 - 0.654321, 0], [1e6 + 1, 2e6 + 1, 0]],
]
for k, line in enumerate(lines):
    m.add_lwpolyline([p[:2] for p in line], dxfattribs={'layer': f'WALL-{k}'})
doc.saveas(job['file'])
json.dump(lines, sys.stdout)
