"""
Pictures whose values are known functions of the ground: a TIFF of two bands of doubles, which are the x and y of each pixel's own centre
(what a warp makes of them tells how far off it is), and a textured one of three bands of bytes. Both without tags of place, with world files.
"""
import json, subprocess, sys
import numpy as np
from PIL import Image

job = json.load(sys.stdin)
for own in job["pictures"]:
    w, h = own["size"]
    x0, y0 = own["origin"]
    dx, dy = own["pixel"]
    stem = own["stem"]
    y, x = np.mgrid[0:h, 0:w] + 0.5
    with open(stem + ".tfw", "w") as f:
        f.write("\n".join(repr(float(v)) for v in (dx, 0, 0, -dy, x0 + dx / 2, y0 - dy / 2)))
    if own["kind"] == "ground":
        bands = np.dstack([x0 + x * dx, y0 - y * dy])
        bands.astype(np.float64).tofile(stem + ".raw")
        shape = ["-w", str(w), "-l", str(h), "-b", "2", "-d", "double", "-c", "none", "-p", "minisblack"]
        done = subprocess.run(["raw2tiff", *shape, stem + ".raw", stem + ".tif"], capture_output=True, text=True)
        assert done.returncode == 0, done.stderr
    else:
        rng = np.random.default_rng(own.get("seed", 7))
        noise = rng.normal(size=(h, w, 3))
        for axis in (0, 1):
            noise = sum(np.roll(noise, k, axis) for k in range(-2, 3)) / 5
        noise /= noise.std()
        Image.fromarray(np.clip(128 + 40 * noise + [10, 0, -20], 1, 255).astype(np.uint8)).save(stem + ".tif")
print("{}")
