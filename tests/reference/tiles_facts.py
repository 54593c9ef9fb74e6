"""Tiles of images by others: SQLite's and Pillow's own reading, and the rules of their specifications."""
import io
import json
import math
import random
import sqlite3
import sys

import numpy
from PIL import Image
from pyproj import Transformer

given = json.load(sys.stdin)
db = sqlite3.connect(given["file"])
width, height = given["width"], given["height"]
source = numpy.fromfile(given["against"], dtype="u1").reshape(height, width, 3)


def mbtiles():
    """Share of pixels at random places that are the source's there, by the formulas of the tile scheme and by PROJ."""
    told = dict(db.execute("SELECT name, value FROM metadata"))
    zoom = int(told["maxzoom"])
    west, south, east, north = map(float, told["bounds"].split(","))
    into = Transformer.from_crs("EPSG:4326", "EPSG:2193", always_xy=True)
    tiles = {}
    for column, row, data in db.execute("SELECT tile_column, tile_row, tile_data FROM tiles WHERE zoom_level = ?", (zoom,)):
        tiles[(column, 2**zoom - 1 - row)] = numpy.asarray(Image.open(io.BytesIO(data)).convert("RGBA"))
    random.seed(7)
    same = looked = clear = 0
    for _ in range(4000):
        lon, lat = random.uniform(west, east), random.uniform(south, north)
        x = (lon + 180) / 360 * 2**zoom * 256
        y = (1 - math.asinh(math.tan(math.radians(lat))) / math.pi) / 2 * 2**zoom * 256
        tile = tiles.get((int(x // 256), int(y // 256)))
        # the centre of the pixel, and what it is in the source
        cx, cy = math.floor(x) + 0.5, math.floor(y) + 0.5
        clon = cx / 256 / 2**zoom * 360 - 180
        clat = math.degrees(math.atan(math.sinh(math.pi * (1 - 2 * cy / 256 / 2**zoom))))
        e, n = into.transform(clon, clat)
        c, r = math.floor((e - given["west"]) / given["pixel"]), math.floor((given["north"] - n) / given["pixel"])
        inside = 0 <= c < width and 0 <= r < height
        pixel = None if tile is None else tile[math.floor(y) % 256, math.floor(x) % 256]
        if not inside:
            clear += pixel is None or pixel[3] == 0
            same += pixel is None or pixel[3] == 0
        else:
            same += pixel is not None and pixel[3] == 255 and (pixel[:3] == source[r, c]).all()
        looked += 1
    zooms = [z for (z,) in db.execute("SELECT DISTINCT zoom_level FROM tiles ORDER BY 1")]
    return {"share": float(same / looked), "clear": int(clear), "told": told, "zooms": zooms, "app": db.execute("PRAGMA application_id").fetchone()[0]}


def geopackage():
    """The picture of the finest tiles beside the source, and the rules of gpkg_tile_matrix (OGC 12-128r18, 2.2.8)."""
    table, minx, miny, maxx, maxy, srs = db.execute(
        "SELECT table_name, min_x, min_y, max_x, max_y, srs_id FROM gpkg_contents WHERE data_type = 'tiles'"
    ).fetchone()
    box = db.execute("SELECT min_x, min_y, max_x, max_y FROM gpkg_tile_matrix_set WHERE table_name = ?", (table,)).fetchone()
    matrices = db.execute(
        "SELECT zoom_level, matrix_width, matrix_height, tile_width, tile_height, pixel_x_size, pixel_y_size"
        " FROM gpkg_tile_matrix WHERE table_name = ? ORDER BY zoom_level",
        (table,),
    ).fetchall()
    fits = all(
        abs(w * tw * px - (box[2] - box[0])) < 1e-6 and abs(h * th * py - (box[3] - box[1])) < 1e-6
        for _, w, h, tw, th, px, py in matrices
    )
    zoom = matrices[-1][0]
    whole = numpy.zeros((height + 512, width + 512, 4), dtype="u1")
    for column, row, data in db.execute(f'SELECT tile_column, tile_row, tile_data FROM "{table}" WHERE zoom_level = ?', (zoom,)):
        tile = numpy.asarray(Image.open(io.BytesIO(data)).convert("RGBA"))
        whole[row * 256 : row * 256 + 256, column * 256 : column * 256 + 256] = tile
    equal = bool((whole[:height, :width, :3] == source).all() and (whole[:height, :width, 3] == 255).all())
    return {
        "equal": equal,
        "beyond": int(whole[height:].any() or whole[:, width:].any()),
        "box": [minx, miny, maxx, maxy],
        "srs": srs,
        "fits": fits,
        "zooms": len(matrices),
        "pixel": matrices[-1][5],
        "check": db.execute("PRAGMA integrity_check").fetchone()[0],
    }


print(json.dumps(mbtiles() if given["file"].endswith(".mbtiles") else geopackage()))
