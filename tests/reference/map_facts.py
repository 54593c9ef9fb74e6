"""Looks at a drawn map pixel by pixel: where ezdxf says that something lies, and where shapely says that nothing does.

Request: {"drawing", "picture", "scale", "dpi", "box" or null}. The answer counts pixels: those well within something that have its colour and
those that do not, those well off everything that are white and those that are not, and tells of marks and texts one by one.
"""
import json
import math
import sys

import ezdxf
import ezdxf.path
import numpy as np
from PIL import Image
from shapely import geometry as shapely
from shapely import vectorized

Image.MAX_IMAGE_PIXELS = None
request = json.load(sys.stdin)
picture = np.asarray(Image.open(request["picture"]).convert("RGB")).astype(int)
with open(request["picture"].rsplit(".", 1)[0] + ".pgw") as f:
    a, d, b, e, c, f0 = [float(line) for line in f]
assert b == 0 and d == 0
rows, columns = picture.shape[:2]
px = request["dpi"] / 25.4 * 1000 / request["scale"]  # pixels in a metre
assert abs(a * px - 1) < 1e-9 and abs(e * px + 1) < 1e-9, (a, e, px)

cols, rws = np.meshgrid(np.arange(columns), np.arange(rows))
east, north = c + a * cols, f0 + e * rws  # a world file gives the centre of the first pixel
near = np.full((rows, columns), False)
facts = {"solid": 0, "solid_wrong": 0, "tinted": 0, "tinted_wrong": 0, "empty": 0, "empty_wrong": 0, "marks": [], "texts": [], "shown": {}}
box = shapely.box(*request["box"]) if request["box"] else None


def window(shape, margin):
    x0, y0, x1, y1 = shape.buffer(margin).bounds
    c0, c1 = max(0, int((x0 - c) / a)), min(columns, int((x1 - c) / a) + 2)
    r0, r1 = max(0, int((y1 - f0) / e)), min(rows, int((y0 - f0) / e) + 2)
    return slice(max(0, r0), max(0, r1)), slice(max(0, c0), max(0, c1))


def distance_to(points, at):
    """From the centres of pixels to a line."""
    x, y = east[at], north[at]
    least = np.full(x.shape, np.inf)
    for (x1, y1), (x2, y2) in zip(points, points[1:]):
        dx, dy = x2 - x1, y2 - y1
        t = np.clip(((x - x1) * dx + (y - y1) * dy) / (dx * dx + dy * dy), 0, 1)
        least = np.minimum(least, np.hypot(x - x1 - t * dx, y - y1 - t * dy))
    return least


def rgb(entity):
    return np.array(ezdxf.colors.int2rgb(entity.dxf.true_color))


def chords(entity):
    return [(p[0], p[1]) for p in ezdxf.path.make_path(entity).flattening(0.0005)]


doc = ezdxf.readfile(request["drawing"])
for entity in doc.modelspace():
    kind = entity.dxftype()
    layer = entity.dxf.layer
    if kind in ("LINE", "ARC", "LWPOLYLINE"):
        shape = shapely.LineString(chords(entity))
        area = shapely.Polygon(shape.coords) if kind == "LWPOLYLINE" else None
        if box and not (area or shape).intersects(box):
            # its line may be wide enough to reach into the picture: nothing of it is drawn all the same
            continue
        half = max(0.7, entity.dxf.lineweight / 100 * request["dpi"] / 25.4) / 2 / px
        at = window(area if area else shape, half + 3 / px)
        distance = distance_to(list(shape.coords), at)
        near[at] |= distance < half + 1.2 / px
        own = picture[at]
        # chords stand off by a quarter of a pixel at most, and a pixel's corner by 0.71 of one
        within = distance < half - 1.0 / px
        facts["solid"] += int(within.sum())
        facts["solid_wrong"] += int((np.abs(own - rgb(entity)).max(axis=2)[within] > 2).sum())
        if area:
            inside = vectorized.contains(area, east[at], north[at])
            near[at] |= inside
            tinted = inside & (distance > half + 1.2 / px)
            tint = 255 + (0x12 / 255) * (rgb(entity) - 255)
            facts["tinted"] += int(tinted.sum())
            facts["tinted_wrong"] += int((np.abs(own - tint).max(axis=2)[tinted] > 2).sum())
        meets = True
    elif kind == "POINT":
        x, y, _ = entity.dxf.location
        shape = shapely.Point(x, y)
        radius = 2.6 * 25.4 / 96 * request["dpi"] / 25.4 / px
        at = window(shape, radius + 6 / px)
        ring = np.hypot(east[at] - x, north[at] - y)
        near[at] |= ring < radius + 6 / px
        meets = box is None or shape.intersects(box)
        if meets:
            colour = np.abs(picture[at] - rgb(entity)).max(axis=2) < 60
            on = np.abs(ring - radius) < 0.4 / px
            facts["marks"].append([float(colour[on].mean()), float((picture[at][ring < radius / 2] == 255).all())])
    else:
        x, y, _ = entity.dxf.insert
        turn = math.radians(entity.dxf.rotation)
        h = entity.dxf.height
        corner = lambda s, t: (x + s * math.cos(turn) - t * math.sin(turn), y + s * math.sin(turn) + t * math.cos(turn))
        capitals = shapely.Polygon([corner(0, 0), corner(6 * h, 0), corner(6 * h, h), corner(0, h)])
        all_of_it = shapely.Polygon([corner(-0.5 * h, -0.6 * h), corner(8 * h, -0.6 * h), corner(8 * h, 1.6 * h), corner(-0.5 * h, 1.6 * h)])
        at = window(all_of_it, 3 / px)
        covered = vectorized.contains(all_of_it, east[at], north[at])
        near[at] |= covered
        meets = box is None or capitals.intersects(box)
        if meets and box is None:
            ink = (np.abs(picture[at] - rgb(entity)).max(axis=2) < 40) & covered
            right, up_to = east[at][ink] - x, north[at][ink] - y
            # along the text and up from its line, in heights of capitals
            along = (right * math.cos(turn) + up_to * math.sin(turn)) / h
            up = (up_to * math.cos(turn) - right * math.sin(turn)) / h
            facts["texts"].append([float(along.min()), float(along.max()), float(np.quantile(up, 0.001)), float(up.max())])
    facts["shown"][layer] = facts["shown"].get(layer, 0) + int(meets)
blank = ~near
facts["empty"] = int(blank.sum())
facts["empty_wrong"] = int((picture[blank] != 255).any(axis=1).sum())
print(json.dumps(facts))
