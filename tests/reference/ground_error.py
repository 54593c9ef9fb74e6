"""Pixels by which a warped picture of ground positions is off: where pyproj says that each of its pixel centres lies, against its values."""
import json, subprocess, sys
import numpy as np
import pyproj

job = json.load(sys.stdin)
out = []
for own in job["pictures"]:
    done = subprocess.run(["tiffcp", "-c", "none", "-s", "-L", "-r", "100000", own["file"] + ",0", own["file"] + ".plain.tif"], capture_output=True, text=True)
    w, h = own["size"]
    # one strip of doubles, whose place the directory tells
    info = subprocess.run(["tiffinfo", "-s", own["file"] + ".plain.tif"], capture_output=True, text=True).stdout
    import re
    offset, size = map(int, re.search(r"0: \[\s*(\d+),\s*(\d+)\]", info).groups())
    values = np.frombuffer(open(own["file"] + ".plain.tif", "rb").read()[offset : offset + size], "<f8").reshape(h, w, 2)
    x0, dx, _, y0, _, dy = own["map"]
    rows, columns = np.mgrid[0:h, 0:w] + 0.5
    gx, gy = x0 + columns * dx, y0 + rows * dy
    back = pyproj.Transformer.from_crs(own["crs"], own["source"], always_xy=True)
    sx, sy = back.transform(gx, gy)
    valid = ~np.isnan(values[..., 0])
    # pixels that take part of their value from beyond the edge are left out
    inside = valid.copy()
    for _ in range(own.get("edge", 3)):
        near = inside.copy()
        near[1:-1, 1:-1] = inside[1:-1, 1:-1] & inside[:-2, 1:-1] & inside[2:, 1:-1] & inside[1:-1, :-2] & inside[1:-1, 2:]
        near[[0, -1], :] = near[:, [0, -1]] = False
        inside = near
    off = np.hypot((values[..., 0] - sx) / own["pixel"][0], (values[..., 1] - sy) / own["pixel"][1])[inside]
    out.append({"pixels": int(inside.sum()), "valid": float(valid.mean()), "rms": float(np.sqrt((off**2).mean())), "largest": float(off.max())})
print(json.dumps(out))
