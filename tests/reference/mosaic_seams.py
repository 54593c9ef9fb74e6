"""
Pictures that lie over each other, and what NumPy makes of them together: by the distance to every pixel without a value for seams that are
blended, by the nearest middle, by the newest date. All lie on one grid, so that nothing is resampled.
"""
import json, sys
import numpy as np
from PIL import Image

job = json.load(sys.stdin)
folder = job["folder"]
X0, Y0, PX = 1463000.0, 5102000.0, 0.5
W, H = 260, 200
# column and row of the first pixel, size, level, date; the first is on top
PICTURES = [
    ("a", 0, 0, 150, 140, 200, "2021:03:01 10:00:00"),
    ("b", 90, 20, 170, 130, 60, "2023:11:20 08:15:00"),
    ("c", 40, 90, 180, 110, 120, None),
]
rng = np.random.default_rng(11)
layers = []
for name, c, r, w, h, level, date in PICTURES:
    data = np.clip(level + rng.integers(-25, 26, (h, w)), 1, 254).astype(np.uint8)
    if name == "a" and job["collar"]:
        # a corner without values, as scenes that lie across their file have it
        y, x = np.mgrid[0:h, 0:w]
        data[x + y > 200] = 0
    image = Image.fromarray(data)
    tags = {306: date} if date else {}
    if job["collar"]:
        tags[42113] = "0"
    image.save(f"{folder}/{name}.tif", tiffinfo=tags)
    with open(f"{folder}/{name}.tfw", "w") as f:
        f.write("\n".join(repr(v) for v in (PX, 0, 0, -PX, X0 + (c + 0.5) * PX, Y0 - (r + 0.5) * PX)))
    whole = np.zeros((H, W))
    valid = np.zeros((H, W), bool)
    whole[r : r + h, c : c + w] = data
    valid[r : r + h, c : c + w] = data > 0 if job["collar"] else True
    layers.append((whole, valid, (c + w / 2, r + h / 2), date))

y, x = np.mgrid[0:H, 0:W] + 0.5
answers = {}


def to_edge(valid):
    """Pixels from each pixel to the nearest without a value, by trying all of those that border on one with a value."""
    wide = np.pad(valid, 1)
    near = np.zeros_like(wide)
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            near |= np.roll(wide, (dy, dx), (0, 1))
    edge_y, edge_x = np.nonzero(near & ~wide)
    out = np.full(valid.shape, np.inf)
    for ey, ex in zip(edge_y - 1, edge_x - 1):
        out = np.minimum(out, np.hypot(x - 0.5 - ex, y - 0.5 - ey))
    return np.where(valid, out, 0)


def chosen(order):
    """The number of the picture that gives each pixel: the first of those that are least in an order."""
    return np.argmin([np.where(v, o, np.inf) for (_, v, _, _), o in zip(layers, order)], axis=0)


def covered(order):
    """Pixels of each picture that another one covers."""
    return [int((v & (chosen(order) != k)).sum()) for k, (_, v, _, _) in enumerate(layers)]


def taken(order):
    return np.choose(chosen(order), [w for w, _, _, _ in layers])


ranks = [np.full((H, W), k) for k in range(3)]
# squares of multiples of a quarter: equal ones are equal to the bit, and the upper picture is the first of them
squares = [(x - cx) ** 2 + (y - cy) ** 2 for _, _, (cx, cy), _ in layers]
away = [np.sqrt(s) for s in squares]
dates = sorted(range(3), key=lambda k: layers[k][3] or "", reverse=True)
newest = [np.full((H, W), dates.index(k)) for k in range(3)]
any_valid = np.any([v for _, v, _, _ in layers], axis=0)
for name, order in (("order", ranks), ("newest", newest), ("centre", squares)):
    answers[name] = {"values": taken(order), "covered": covered(order)}
for feather in job["feathers"]:
    edge = [np.minimum(1, to_edge(v) / (feather + 1)) for _, v, _, _ in layers]
    rest, total, sum_ = np.ones((H, W)), np.zeros((H, W)), np.zeros((H, W))
    for (whole, valid, _, _), e in zip(layers, edge):
        share = rest * e
        rest = rest - share
        total += share
        sum_ += share * whole
    answers[f"order {feather}"] = {"values": np.divide(sum_, total, where=total > 0, out=np.zeros((H, W)))}
    least = np.min([np.where(v, a, np.inf) for (_, v, _, _), a in zip(layers, away)], axis=0)
    shares = [v * e * np.maximum(0, 1 - (a - np.where(np.isinf(least), a, least)) / feather) for (_, v, _, _), e, a in zip(layers, edge, away)]
    total = sum(shares)
    blended = sum(s * w for s, (w, _, _, _) in zip(shares, layers))
    answers[f"centre {feather}"] = {"values": np.divide(blended, total, where=total > 0, out=np.zeros((H, W)))}

out = {"valid": int(any_valid.sum())}
for name, own in answers.items():
    np.where(any_valid, own["values"], -1).astype(np.float64).tofile(f"{folder}/{name}.answer")
    out[name] = own.get("covered")
print(json.dumps(out))
