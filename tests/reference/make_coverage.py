"""Lots in a shapefile with pyshp, 8 by 5 of 20 m by 30 m in EPSG:2193, with one fault of each kind: see the test beside it."""

import json
import sys

import shapefile

stem = json.load(sys.stdin)
E, N, W, H = 1_464_000, 5_101_500, 20, 30


def lot(i, j):
    x, y = E + i * W, N + j * H
    return [[x, y], [x, y + H], [x + W, y + H], [x + W, y], [x, y]]


lots = {(i, j): lot(i, j) for j in range(5) for i in range(8)}
# its east side lies 0.4 m too far to the east: an overlap of 12 m2
lots[1, 1] = [[x + (0.4 if x > E + W + 1 else 0), y] for x, y in lots[1, 1]]
# its north side 0.3 m too far to the south: a gap of 6 m2
lots[3, 2] = [[x, y - (0.3 if y > N + 2 * H + 1 else 0)] for x, y in lots[3, 2]]
# one corner 12 mm away from where its neighbours have it, into its own lot
lots[6, 3] = [[x - 0.012 if (x, y) == (E + 7 * W, N + 4 * H) else x, y] for x, y in lots[6, 3]]
# a bow-tie: two corners exchanged
a, b, c, d, _ = lots[0, 4]
lots[0, 4] = [a, c, b, d, a]
# a vertex three times, a spike of 2 m out and back
lots[7, 0] = [lots[7, 0][0]] * 3 + lots[7, 0][1:]
x, y = lots[7, 4][1]
lots[7, 4] = lots[7, 4][:2] + [[x, y + 2], [x, y]] + lots[7, 4][2:]

with shapefile.Writer(stem, shapeType=shapefile.POLYGON) as w:
    w.field("LOT", "C", size=10)
    for (i, j), ring in lots.items():
        w.poly([ring])
        w.record(f"{i}-{j}")
    # the same lot twice, and a sliver along the south edge
    w.poly([lots[5, 0]])
    w.record("again")
    w.poly([[[E, N - 0.1], [E, N], [E + 160, N], [E + 160, N - 0.1], [E, N - 0.1]]])
    w.record("strip")
with open(stem + ".prj", "w") as f:
    f.write('EPSG:2193')
json.dump({}, sys.stdout)
