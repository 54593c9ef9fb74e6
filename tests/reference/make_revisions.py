"""Two revisions of parcels (pyshp) and of a drawing (ezdxf), and what is different between them by their making.

Request: {"folder", "seed", "count"}. Files: old.shp, new.shp (another order, rings that begin elsewhere and run the other way), far.shp (the new
one in another system, by pyproj), old.dxf, new.dxf (metres), and small.dxf (new.dxf in millimetres).
"""
import json
import random
import sys

import ezdxf
import shapefile
from pyproj import CRS, Transformer

request = json.load(sys.stdin)
folder, count = request["folder"], request["count"]
pick = random.Random(request["seed"])
X, Y = 1464000.0, 5101000.0


def square(k, dx=0.0, dy=0.0):
    x, y = X + 40.0 * (k % 20) + dx, Y + 40.0 * (k // 20) + dy
    w, h = 20 + k % 7, 15 + k % 5
    return [(x, y), (x, y + h), (x + w, y + h), (x + w, y), (x, y)]


fates = ["same"] * count
for fate, share in (("moved", 0.1), ("changed", 0.12), ("both", 0.05), ("removed", 0.06)):
    for k in pick.sample([i for i in range(count) if fates[i] == "same"], max(1, int(count * share))):
        fates[k] = fate
added = max(1, count // 15)


def turned(ring):
    """The same area: the ring begins elsewhere, and may run the other way round; within half a millimetre."""
    corners = ring[:-1]
    n = pick.randrange(len(corners))
    corners = corners[n:] + corners[:n]
    if pick.random() < 0.5:
        corners.reverse()
    corners = [(x + pick.uniform(-3e-4, 3e-4), y + pick.uniform(-3e-4, 3e-4)) for x, y in corners]
    return corners + corners[:1]


old, new = [], []
for k, fate in enumerate(fates):
    record = {"LOT": f"L{k:05d}", "OWNER": f"owner {pick.randrange(9)}", "AREA": round(pick.uniform(100, 900), 2)}
    old.append((square(k), record))
    if fate == "removed":
        continue
    ring = square(k, pick.uniform(0.01, 3), pick.uniform(0.01, 3)) if fate in ("moved", "both") else square(k)
    values = {**record, "OWNER": "somebody else"} if fate in ("changed", "both") else record
    new.append((turned(ring), values))
for k in range(count, count + added):
    new.append((square(k), {"LOT": f"L{k:05d}", "OWNER": "new", "AREA": 1.5}))
pick.shuffle(new)


def write(name, records, epsg, carry=lambda p: p):
    with shapefile.Writer(f"{folder}/{name}", shapeType=shapefile.POLYGON) as w:
        w.field("LOT", "C", 12)
        w.field("OWNER", "C", 30)
        w.field("AREA", "N", 12, 2)
        for ring, values in records:
            ring = [carry(p) for p in ring]
            area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(ring, ring[1:]))
            w.poly([ring if area < 0 else ring[::-1]])
            w.record(**values)
    with open(f"{folder}/{name}.prj", "w") as f:
        f.write(CRS.from_epsg(epsg).to_wkt("WKT1_ESRI"))


far = Transformer.from_crs(2193, 2126, always_xy=True)
write("old", old, 2193)
write("new", new, 2193)
write("far", new, 2126, lambda p: far.transform(*p))


def draw(name, records, unit, scale):
    doc = ezdxf.new("R2010")
    doc.units = unit
    space = doc.modelspace()
    for ring, values in records:
        at = [(x * scale, y * scale) for x, y in ring[:-1]]
        space.add_lwpolyline(at, close=True, dxfattribs={"layer": "LOTS", "color": 1 + len(values["OWNER"]) % 6})
        text = {"insert": (at[0][0] + scale, at[0][1] + scale), "layer": "NUMBERS", "height": scale}
        space.add_text(values["LOT"], dxfattribs=text)
    doc.saveas(f"{folder}/{name}.dxf")


draw("old", old, ezdxf.units.M, 1)
draw("new", new, ezdxf.units.M, 1)
draw("small", new, ezdxf.units.MM, 1000)
counts = {fate: fates.count(fate) for fate in ("same", "moved", "changed", "both", "removed")}
print(json.dumps({**counts, "added": added, "removed_lots": [f"L{k:05d}" for k, f in enumerate(fates) if f == "removed"]}))
