"""A container and a shapefile with fields of every type, made by SQLite and pyshp: {"folder": ...} to the names of the files.

Source of the container: OGC 12-128r18, tables 1 and 2, annex C (the least that a reader asks for)."""
import json, sqlite3, struct, sys
import shapefile

folder = json.load(sys.stdin)['folder']
gpkg = f'{folder}/typed.gpkg'
db = sqlite3.connect(gpkg)
db.executescript('''PRAGMA application_id = 0x47504b47; PRAGMA user_version = 10300;
CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT, description TEXT, last_change DATETIME, min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER);
CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL);
INSERT INTO gpkg_spatial_ref_sys VALUES ('NZTM', 2193, 'EPSG', 2193, 'undefined', NULL);
INSERT INTO gpkg_contents VALUES ('typed', 'features', 'typed', '', NULL, NULL, NULL, NULL, NULL, 2193);
INSERT INTO gpkg_geometry_columns VALUES ('typed', 'geom', 'POINT', 2193, 0, 0);
CREATE TABLE typed (fid INTEGER PRIMARY KEY, geom POINT, big INTEGER, title TEXT(40), seen DATETIME, day DATE, seal BLOB, flag BOOLEAN, ratio DOUBLE, none TEXT(12));''')
rows = json.loads(json.dumps([
    [123456789012345678, 'Wharf', '2026-03-09T14:30:00.000Z', '2026-03-09', True, 0.1],
    [-9223372036854775808, '007', '1987-12-31T23:59:59.500Z', '1987-12-31', False, -2.5],
    [9223372036854775807, 'Ōtautahi', '2000-02-29T00:00:00.000Z', None, None, None],
    [7, None, None, '2024-02-29', True, 1e-7],
]))
for k, (big, title, seen, day, flag, ratio) in enumerate(rows):
    point = b'GP\x00\x01' + struct.pack('<i', 2193) + struct.pack('<BIdd', 1, 1, 1464000.0 + k, 5101500.0)
    db.execute('INSERT INTO typed VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, NULL)', (k + 1, point, big, title, seen, day, bytes(range(k * 60)), flag, ratio))
db.commit()
db.close()

with shapefile.Writer(f'{folder}/widths', shapeType=shapefile.POINT) as w:
    w.field('TITLE', 'C', 40)
    w.field('LEVEL', 'N', 12, 3)
    w.field('BIG', 'N', 18, 0)
    w.field('DAY', 'D')
    w.field('NOTHING', 'C', 25)
    for k, (title, level, big, day) in enumerate([('Wharf', 3.25, 123456789012345678, '20260309'), ('Quay', -10, 5, '19871231')]):
        w.point(1464000 + k, 5101500)
        w.record(title, level, big, day, '')
json.dump({'gpkg': gpkg, 'shp': f'{folder}/widths.shp'}, sys.stdout)
