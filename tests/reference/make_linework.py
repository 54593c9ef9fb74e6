"""A plan of 6 by 4 lots with ezdxf, in millimetres, every side a line of its own whose ends are up to 8 mm off; numbers as texts. Lot 1 has
two different numbers, lot 2 none, that of lot 3 stands on a side; a line of 0.4 m sticks out, and the north side of lot 24 is an arc."""

import json
import random
import sys

import ezdxf

file = json.load(sys.stdin)
random.seed(11)
doc = ezdxf.new("R2010")
doc.header["$INSUNITS"] = 4
msp = doc.modelspace()
E, N, W, H = 1_464_000_000, 5_101_500_000, 20_000, 30_000


def near(x, y):
    return (E + x * W + random.uniform(-4, 4), N + y * H + random.uniform(-4, 4))


def side(a, b):
    msp.add_line(near(*a), near(*b), dxfattribs={"layer": "BOUNDARY"})


for i in range(7):
    for j in range(4):
        side((i, j), (i, j + 1))
for j in range(5):
    for i in range(6):
        if (i, j) != (5, 4):
            side((i, j), (i + 1, j))
# a half circle over the side of the last lot
msp.add_arc((E + 5.5 * W, N + 4 * H), W / 2, 0, 180, dxfattribs={"layer": "BOUNDARY"})
msp.add_line((E, N), (E - 400, N), dxfattribs={"layer": "BOUNDARY"})


def number(text, x, y):
    msp.add_text(text, dxfattribs={"layer": "NUMBER", "height": 2000, "insert": (E + x * W, N + y * H)})


for k in range(24):
    i, j = k % 6, k // 6
    if k == 2:
        number("3", i, j + 0.5)
    elif k != 1:
        number(str(k + 1), i + 0.4, j + 0.5)
number("1A", 0.5, 0.2)
number("far", -3, -3)
doc.saveas(file)
json.dump({}, sys.stdout)
