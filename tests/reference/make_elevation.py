"""An elevation model of 60 by 40 pixels of 2 m as a TIFF of floats by PIL with a world file beside it, a plane with a hump, one pixel without a
value (-9999). Prints what bilinear heights numpy has at some places: {"file", "at": [[x, y], ...]}."""

import json
import sys

import numpy as np
from PIL import Image

asked = json.load(sys.stdin)
E, N, W, H, STEP = 1_464_000, 5_101_600, 60, 40, 2
cols, rows = np.meshgrid(np.arange(W) + 0.5, np.arange(H) + 0.5)
x, y = E + STEP * cols, N - STEP * rows
z = (10 + 0.05 * (x - E) - 0.03 * (y - N)).astype(np.float32)
plane = z.copy()
z[5, 7] = -9999
Image.fromarray(z, mode="F").save(asked["file"], tiffinfo={42113: "-9999"})
with open(asked["file"].replace(".tif", ".tfw"), "w") as f:
    f.write(f"{STEP}\n0\n0\n-{STEP}\n{E + STEP / 2}\n{N - STEP / 2}\n")
json.dump({"heights": [float(10 + 0.05 * (px - E) - 0.03 * (py - N)) for px, py in asked["at"]], "pixels": W * H - 1}, sys.stdout)
