"""Curves, faces and hatches by ezdxf, at random with a seed, and how ezdxf itself flattens them.

Input: {"file", "binary", "version", "seed", "distance"}. Output: [{"handle", "type", "layer", "color": [r, g, b], "text", "rings": [[[x, y, z], ...], ...]}].
"""
import json
import math
import random
import sys

import ezdxf
from ezdxf import path
from ezdxf.colors import aci2rgb
from ezdxf.math import Vec3
from ezdxf.render import MeshBuilder

job = json.load(sys.stdin)
rng = random.Random(job["seed"])
doc = ezdxf.new(job["version"])
m = doc.modelspace()
X, Y = 1464000, 5101500


def spot():
    return (X + rng.uniform(0, 900), Y + rng.uniform(0, 900), rng.uniform(-5, 5))


MODERN = job["version"] != "R12"
doc.layers.add("INDEXED", color=30)
doc.layers.add("TRUE", true_color=ezdxf.rgb2int((18, 171, 156))) if job["version"] >= "R2004" else doc.layers.add("TRUE", color=132)
block = doc.blocks.new("POST")
block.add_point((0, 0))
for k in range(12):
    x, y, z = spot()
    m.add_point((x, y, z), dxfattribs={"layer": "INDEXED"})
    m.add_line((x, y, z), (x + 5, y + 1, z), dxfattribs={"color": 10 * k + 1})
    m.add_circle((x, y, z), 2 + k, dxfattribs={"extrusion": (0, 0, -1) if k % 2 else (0, 0, 1), "layer": "TRUE"})
    m.add_arc((x, y, z), 3 + k, 20 * k, 20 * k + 100)
    m.add_polyline2d([(x, y, 0.4), (x + 9, y, 0), (x + 9, y + 7, -0.2)], format="xyb", close=k % 2 == 0)
    m.add_polyline3d([(x, y, z), (x + 9, y, z + 1), (x + 9, y + 7, z - 1)], close=k % 2 == 0)
    m.add_text(f"Rā {k}°" if job["version"] >= "R2007" else f"Line {k}", dxfattribs={"height": 1 + k, "rotation": 15 * k, "insert": (x, y, z)})
    m.add_blockref("POST", (x, y, z), dxfattribs={"rotation": 25 * k, "row_count": 2, "column_count": 3, "row_spacing": 4, "column_spacing": 2.5} if k % 3 == 0 else {"xscale": -2, "color": 0})
    mesh = m.add_polymesh(size=(4, 3))
    for i in range(4):
        for j in range(3):
            mesh.set_mesh_vertex((i, j), (x + 4 * i, y + 5 * j, z + i * j))
    if k % 2:
        mesh.close(True, False)
    m.add_solid([(x, y), (x + 4, y), (x, y + 3), (x + 4, y + 3)])
    m.add_trace([(x, y), (x + 4, y), (x, y + 3), (x + 4, y + 3)])
    m.add_3dface([(x, y, z), (x + 4, y, z), (x + 4, y + 3, z + 1), (x, y + 3, z)])
    if MODERN:
        m.add_lwpolyline([(x, y, 0.3), (x + 5, y, 0), (x + 5, y + 5, 0)], format="xyb", close=k % 2 == 0, dxfattribs={"elevation": k})
        m.add_mtext(f"Plain {k}\\PSecond \\S1/2; line", dxfattribs={"char_height": 2, "insert": (x, y, z)})
for k in range(40 if MODERN else 0):
    a = rng.uniform(0, 2 * math.pi)
    size = rng.uniform(0.5, 80)
    start = rng.uniform(0, 6) if k % 3 else 0
    end = start + rng.uniform(0.1, 2 * math.pi) if k % 3 else 2 * math.pi
    normal = (0, 0, 1) if k % 4 else (0, 0, -1)
    m.add_ellipse(spot(), (size * math.cos(a), size * math.sin(a), 0), rng.uniform(0.05, 1), start, end, dxfattribs={"extrusion": normal})
for k in range(40 if MODERN else 0):
    x, y, z = spot()
    n = rng.randrange(4, 12)
    points = [(x + rng.uniform(-40, 40), y + rng.uniform(-40, 40), z + rng.uniform(-1, 1)) for _ in range(n)]
    if k % 3 == 0:
        m.add_rational_spline(points, [rng.uniform(0.4, 3) for _ in points], degree=min(n - 1, rng.randrange(2, 5)))
    elif k % 3 == 1:
        m.add_open_spline(points, degree=min(n - 1, rng.randrange(1, 5)))
    else:
        m.add_open_spline([*points, points[0]], degree=3)
for k in range(10 if MODERN else 0):
    p = [spot() for _ in range(4)]
    m.add_solid(p if k % 3 else p[:3])
    m.add_trace(p)
    m.add_3dface(p if k % 2 else p[:3])
for k in range(24 if MODERN else 0):
    x, y, _ = spot()
    h = m.add_hatch(color=k % 7 + 1, dxfattribs={"elevation": (0, 0, rng.uniform(-3, 3)), "extrusion": (0, 0, 1) if k % 5 else (0, 0, -1)})
    if k % 4 == 0:
        h.paths.add_polyline_path([(x, y, 0.5), (x + 30, y, 0), (x + 30, y + 20, -0.3), (x, y + 20, 0)], is_closed=True, flags=1)
        h.paths.add_polyline_path([(x + 8, y + 8), (x + 14, y + 8), (x + 11, y + 14)], is_closed=True, flags=16)
    elif k % 4 == 1:
        e = h.paths.add_edge_path(flags=1)
        e.add_line((x, y), (x + 20, y))
        e.add_arc((x + 20, y + 10), 10, 270, 90, ccw=True)
        e.add_line((x + 20, y + 20), (x, y + 20))
        e.add_arc((x, y + 10), 10, 270, 90, ccw=False)
    elif k % 4 == 2:
        e = h.paths.add_edge_path(flags=1)
        e.add_ellipse((x, y), (rng.uniform(5, 20), rng.uniform(-5, 5)), rng.uniform(0.2, 1), 0, 360)
    else:
        e = h.paths.add_edge_path(flags=1)
        e.add_spline(control_points=[(x, y), (x + 10, y - 8), (x + 25, y + 4), (x + 30, y + 18)], degree=3, knot_values=[0, 0, 0, 0, 1, 1, 1, 1])
        e.add_line((x + 30, y + 18), (x, y))
for k in range(6 if MODERN else 0):
    x, y, _ = spot()
    m.add_mline([(x, y), (x + 30, y + 5), (x + 40, y + 30), (x + 5, y + 25)], close=k % 2 == 0, dxfattribs={"scale_factor": 1 + k})
    m.add_mpolygon(color=1).paths.add_polyline_path([(x, y, 0.4), (x + 20, y, 0), (x + 10, y + 15, 0)], is_closed=True)
if MODERN:
    m.add_leader([(X, Y), (X + 5, Y + 5), (X + 12, Y + 5)])
for k in range(20 if MODERN else 0):
    x, y, z = spot()
    points = [(x + rng.uniform(-40, 40), y + rng.uniform(-40, 40), z + rng.uniform(-1, 1)) for _ in range(rng.randrange(4, 9))]
    spline = m.add_spline(points)
    if k % 3 == 0:
        spline.dxf.start_tangent = (1, 0.3, 0)
        spline.dxf.end_tangent = (0.2, -1, 0)
for k in range(4 if MODERN else 0):
    x, y, z = spot()
    cube = [(x, y, z), (x + 5, y, z), (x + 5, y + 5, z), (x, y + 5, z + 3)]
    form = MeshBuilder()
    form.vertices = [Vec3(p) for p in cube]
    form.faces = [(0, 1, 2), (0, 2, 3)]
    form.render_polyface(m)
    if job["version"] != "R12":
        with m.add_mesh().edit_data() as data:
            data.vertices = cube
            data.faces = [(0, 1, 2), (0, 2, 3)]
    picture = doc.add_image_def(filename="plan.jpg", size_in_pixel=(640, 360))
    m.add_image(picture, insert=(x, y), size_in_units=(32, 18), rotation=20 * k)
    m.add_wipeout([(x, y), (x + 9, y + 1), (x + 7, y + 8)])
    m.add_helix(3 + k, 2, 4 + k, ccw=k % 2 == 0).translate(x, y, z)
    m.add_linear_dim(base=(x, y + 6), p1=(x, y), p2=(x + 7.25, y + 1)).render()
    m.add_aligned_dim(p1=(x, y), p2=(x + 9, y + 4), distance=2).render()
doc.saveas(job["file"])
doc.saveas(job["binary"], fmt="bin")

out = []
doc = ezdxf.readfile(job["file"])


def color_of(e):
    # by block outside any block is the foreground
    if e.rgb is not None:
        return list(e.rgb)
    index = e.dxf.color
    if index == 256:
        layer = doc.layers.get(e.dxf.layer)
        if layer.rgb is not None:
            return list(layer.rgb)
        index = layer.color
    return list(aci2rgb(7 if index == 0 else index))


for e in doc.modelspace():
    t = e.dxftype()
    if t in ("ELLIPSE", "SPLINE", "HELIX"):
        rings = [[list(p) for p in e.flattening(job["distance"], segments=8)]]
    elif t in ("HATCH", "MPOLYGON"):
        rings = [[list(p) for p in b.flattening(job["distance"], segments=32)] for b in path.from_hatch(e)]
    elif t == "MLINE":
        rings = [[list(v.location + v.miter_direction * v.line_params[i][0]) for v in e.vertices] for i in range(len(e.vertices[0].line_params))]
        rings = [r + [r[0]] if e.dxf.flags & 2 else r for r in rings]
    elif t == "POLYLINE" and not (e.is_poly_face_mesh or e.is_polygon_mesh) or t in ("LWPOLYLINE", "CIRCLE", "ARC", "LINE"):
        rings = [[list(p) for p in path.make_path(e).flattening(job["distance"])]]
    elif t == "POLYLINE":
        rings = [[list(p) for p in face.wcs_vertices(close=True)] for face in e.virtual_entities()]
    elif t == "MESH":
        rings = [[list(e.vertices[i]) for i in (*face, face[0])] for face in e.faces]
    elif t in ("IMAGE", "WIPEOUT"):
        rings = [[list(p) for p in e.boundary_path_wcs()]]
    elif t == "DIMENSION":
        rings = [[list(p) for p in path.make_path(part).flattening(job["distance"])] for part in e.virtual_entities() if part.dxftype() in ("LINE", "SOLID", "INSERT")
                 and part.dxftype() != "INSERT"]
        rings += [[list(p) for p in path.make_path(part).flattening(job["distance"])] for i in e.virtual_entities() if i.dxftype() == "INSERT" for part in i.virtual_entities()]
    elif t in ("POINT", "TEXT", "MTEXT"):
        rings = [[list(e.dxf.location if t == "POINT" else e.dxf.insert)]]
    elif t == "INSERT":
        rings = [[list(i.dxf.insert)] for i in e.multi_insert()]
    elif t in ("SOLID", "TRACE", "3DFACE"):
        rings = [[list(p) for p in e.wcs_vertices(close=True)]]
    else:
        rings = [[list(p) for p in e.vertices]]
    out.append({"handle": e.dxf.handle, "type": t, "rings": rings, "color": color_of(e), "layer": e.dxf.layer, "text": e.plain_text() if t in ("TEXT", "MTEXT") else None})
json.dump(out, sys.stdout)
