"""Two revisions of a county of parcels. Arguments: "make" old new count | "compare" old new.

"make" writes two shapefiles with pyshp: in the new one every thousandth parcel is gone, another has moved by half a metre, a third has
another owner. "compare" reads both with pyshp and compares them by their key in memory. Prints what it counted, and its seconds, as JSON."""
import json, sys, time
import shapefile

what, old, new = sys.argv[1:4]
start = time.time()
if what == 'make':
    for path, revised in ((old, False), (new, True)):
        with shapefile.Writer(path, shapeType=shapefile.POLYGON) as w:
            for name, kind, size, decimals in (('LOT', 'C', 9, 0), ('OWNER', 'C', 20, 0), ('AREA', 'N', 10, 2)):
                w.field(name, kind, size, decimals)
            for k in range(int(sys.argv[4])):
                x, y, owner = 1464000 + 30 * (k % 600), 5100000 + 30 * (k // 600), f'owner {k % 97}'
                fate = k % 1000 if revised else 0
                if fate == 1:
                    continue
                if fate == 2:
                    x += 0.5
                if fate == 3:
                    owner = 'somebody else'
                w.poly([[[x, y], [x, y + 28], [x + 28, y + 28], [x + 28, y], [x, y]]])
                w.record(f'L{k:07d}', owner, 784.0)
    json.dump({'make': time.time() - start}, sys.stdout)
else:
    before = {both.record[0]: (both.shape.points, both.record[1:]) for both in shapefile.Reader(old).iterShapeRecords()}
    counts = {'added': 0, 'moved': 0, 'changed': 0, 'same': 0}
    for both in shapefile.Reader(new).iterShapeRecords():
        known = before.pop(both.record[0], None)
        if known is None:
            counts['added'] += 1
        elif known[1] != both.record[1:]:
            counts['changed'] += 1
        else:
            counts['same' if known[0] == both.shape.points else 'moved'] += 1
    json.dump({**counts, 'removed': len(before), 'seconds': time.time() - start}, sys.stdout)
