"""A county of parcels with pyshp and the standard library's sqlite3. Arguments: "make" shapefile count | "cross" shapefile container.

"make" writes the shapefile; "cross" reads it and puts its records into a table of an SQLite file, geometries as well-known
binary: what a GeoPackage holds, without its metadata and index. No proof is made. Prints seconds as JSON."""
import json, random, sqlite3, struct, sys, time
import shapefile

what, path, last = sys.argv[1:]
start = time.time()
if what == 'make':
    random.seed(3)
    w = shapefile.Writer(path, shapeType=shapefile.POLYGON)
    for name, kind, size, decimals in (('PARCEL_ID', 'C', 12, 0), ('AREA_M2', 'N', 12, 2), ('STREET', 'C', 30, 0), ('LEASED', 'L', 1, 0)):
        w.field(name, kind, size, decimals)
    for i in range(int(last)):
        x, y = 1460000 + (i % 600) * 30, 5100000 + (i // 600) * 40
        w.poly([[[x, y], [x, y + 18], [x + 3, y + 36], [x + 14, y + 38], [x + 28, y + 36], [x + 28, y + 16], [x + 26, y], [x, y]]])
        w.record(f'P-{i:07d}', random.random() * 2000, random.choice(['Harbour Street', 'Tern Street', 'Rope Walk']), random.random() < .5)
    w.close()
    json.dump({'make': time.time() - start}, sys.stdout)
else:
    reader = shapefile.Reader(path)
    db = sqlite3.connect(last)
    db.execute('PRAGMA journal_mode = OFF')
    db.execute('CREATE TABLE parcels (fid INTEGER PRIMARY KEY, geom BLOB, a TEXT, b REAL, c TEXT, d INTEGER)')

    def rows():
        for i, both in enumerate(reader.iterShapeRecords()):
            points = both.shape.points
            flat = [c for p in points for c in p]
            yield (i + 1, struct.pack(f'<BIII{len(flat)}d', 1, 3, 1, len(points), *flat), *both.record)

    db.executemany('INSERT INTO parcels VALUES (?, ?, ?, ?, ?, ?)', rows())
    db.commit()
    db.close()
    json.dump({'cross': time.time() - start}, sys.stdout)
