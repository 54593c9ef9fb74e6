"""The geometries of the one table of a container as well-known binary: {"file": ...} to hex texts in the order of the rows.

Source: OGC 12-128r18, clause 2.1.3: a header of 8 bytes, and an envelope by the flags."""
import json, sqlite3, sys

db = sqlite3.connect(json.load(sys.stdin)['file'])
table, column, m = db.execute('SELECT table_name, column_name, m FROM gpkg_geometry_columns').fetchone()
assert m == 2, 'the container states no measures'
out = []
for (blob,) in db.execute(f'SELECT "{column}" FROM "{table}" ORDER BY rowid'):
    envelope = {0: 0, 1: 32, 2: 48, 3: 48, 4: 64}[blob[3] >> 1 & 7]
    out.append(blob[8 + envelope:].hex())
json.dump(out, sys.stdout)
