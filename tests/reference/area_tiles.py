"""
Tiles that a picture was cut into by areas, against shapely: every pixel whose centre lies in the tile's own area has the value of the source,
every other one is nothing to be seen, and the tile is as large as the box of its area.
"""
import json, math, sys
import numpy as np
from PIL import Image
from shapely.geometry import Point, shape
from shapely.prepared import prep

job = json.load(sys.stdin)
source = np.asarray(Image.open(job["source"]))
west, north, pixel = job["west"], job["north"], job["pixel"]
out = []
for tile in job["tiles"]:
    image = Image.open(tile["file"])
    own = np.asarray(image)
    scale, tie = image.tag_v2[33550], image.tag_v2[33922]
    column, row = round((tie[3] - west) / pixel), round((north - tie[4]) / pixel)
    h, w = own.shape[:2]
    area = shape(tile["geometry"])
    x0, y0, x1, y1 = area.bounds
    # whole pixels around the box, and what was asked for around it
    more = job["around"]
    box = [
        math.floor((x0 - west) / pixel) - more,
        math.floor((north - y1) / pixel) - more,
        math.ceil((x1 - west) / pixel) + more,
        math.ceil((north - y0) / pixel) + more,
    ]
    y, x = np.mgrid[0:h, 0:w]
    held = prep(area)
    xs, ys = west + (column + x + 0.5) * pixel, north - (row + y + 0.5) * pixel
    inside = np.array([held.contains(Point(*p)) for p in zip(xs.flat, ys.flat)]).reshape(h, w)
    if not job["cut"]:
        inside[:] = True
    # beyond the picture there is nothing
    c, r = column + x, row + y
    on = (c >= 0) & (r >= 0) & (c < source.shape[1]) & (r < source.shape[0])
    there = source[np.clip(r, 0, source.shape[0] - 1), np.clip(c, 0, source.shape[1] - 1)]
    size = int(inside.sum())
    inside &= on
    seen = own[..., 3] > 0 if own.shape[2] == 4 else np.ones((h, w), bool)
    out.append(
        {
            "box": [column, row, column + w, row + h] == box,
            "wrong": int((seen != inside).sum()),
            "values": int((own[..., :3] != there)[seen].sum()),
            "pixels": int(inside.sum()) if job["cut"] else size,
            "square": list(scale[:2]) == [pixel, pixel],
        }
    )
print(json.dumps(out))
