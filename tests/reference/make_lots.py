"""Makes lots of a town with ezdxf whose unit is stated by $INSUNITS: {"file", "insunits", "origin", "size"}; answers the corners of the first lot."""
import json, sys
import ezdxf

job = json.load(sys.stdin)
doc = ezdxf.new('R2010')
doc.header['$INSUNITS'] = job['insunits']
(x0, y0), size = job['origin'], job['size']
for i in range(8):
    for j in range(6):
        x, y = x0 + i * 1.2 * size, y0 + j * 1.2 * size
        doc.modelspace().add_lwpolyline([(x, y), (x + size, y), (x + size, y + size), (x, y + size)], close=True, dxfattribs={'layer': 'LOTS'})
doc.saveas(job['file'])
json.dump([[x0, y0], [x0 + size, y0], [x0 + size, y0 + size], [x0, y0 + size]], sys.stdout)
