"""The same crossing with ezdxf, pyproj and pyshp: read the drawing, carry its lines into the target system, write a shapefile.
No proof is made. Arguments: drawing, output, source CRS, target CRS. Prints seconds as JSON."""
import json, sys, time
import ezdxf, shapefile
from ezdxf.colors import aci2rgb
from pyproj import Transformer

drawing, output, source, target = sys.argv[1:]
start = time.time()
doc = ezdxf.readfile(drawing)
read = time.time()
records = []
xs, ys = [], []
for e in doc.modelspace():
    a, b = e.dxf.start, e.dxf.end
    xs += (a.x, b.x)
    ys += (a.y, b.y)
    index = e.dxf.color
    layer = e.dxf.layer
    if index == 256:
        index = doc.layers.get(layer).dxf.color if layer in doc.layers else 7
    records.append((layer, e.dxftype(), e.dxf.handle, '#%02x%02x%02x' % tuple(aci2rgb(index)), 'CONTINUOUS'))
xs, ys = Transformer.from_crs(source, target, always_xy=True).transform(xs, ys)
carried = time.time()
w = shapefile.Writer(output, shapeType=shapefile.POLYLINE)
for name in ('layer', 'entity', 'handle', 'color', 'linetype'):
    w.field(name, 'C', 12)
for i, r in enumerate(records):
    w.line([[[xs[2 * i], ys[2 * i]], [xs[2 * i + 1], ys[2 * i + 1]]]])
    w.record(*r)
w.close()
end = time.time()
json.dump({'read': read - start, 'carry': carried - read, 'write': end - carried, 'all': end - start}, sys.stdout)
