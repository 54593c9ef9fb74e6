"""A drawing for a map: lines, areas, marks and lettering in a plane, no two of which come near each other. Request: {"file"}, and "far" for nothing but lines and an area that reach thousands of kilometres beyond the others."""
import json
import math
import sys

import ezdxf

request = json.load(sys.stdin)
doc = ezdxf.new("R2010")
doc.units = ezdxf.units.M
space = doc.modelspace()
X, Y = 1464000.0, 5101000.0
COLOURS = [0xC0392B, 0x1F618D, 0x117A65, 0x7D3C98, 0xB9770E]
WEIGHTS = [13, 25, 50, 100, 211]


def attribs(k):
    return {"true_color": COLOURS[k % 5], "lineweight": WEIGHTS[k % 5], "layer": f"lines {k % 3}"}


if request.get("far"):
    for k in range(4):
        turn = 0.3 + 0.7 * k
        x, y = X + 20.0 * k, Y + 25.0
        ends = [(x + s * 4.1e6 * math.cos(turn), y + s * 3.7e6 * math.sin(turn)) for s in (-1, 1.03)]
        space.add_line(*ends, dxfattribs=attribs(k))
    reach = [(X - 5e6, Y - 10.0), (X + 5e6, Y - 12.0), (X + 5e6, Y - 4e6), (X - 5e6, Y - 4e6)]
    space.add_lwpolyline(reach, close=True, dxfattribs={**attribs(4), "layer": "areas"})
for row in range(0 if request.get("far") else 8):
    for column in range(6):
        k = 6 * row + column
        x, y = X + 12.0 * column + 0.37, Y + 12.0 * row + 0.61
        turn = 0.7 * k
        if column < 3:
            ends = [(x + 4 + 3.6 * s * math.cos(turn), y + 4 + 3.6 * s * math.sin(turn)) for s in (-1, 1)]
            space.add_line(*ends, dxfattribs=attribs(k))
        elif column == 3:
            arc = space.add_arc((x + 4, y + 4), 3.0 + 0.05 * row, math.degrees(turn) % 360, (math.degrees(turn) + 200) % 360)
            arc.update_dxf_attribs(attribs(k))
        elif column == 4:
            corners = [(x + 4 + 3.2 * math.cos(turn + a), y + 4 + 3.2 * math.sin(turn + a)) for a in (0, 1.3, 2.9, 4.4)]
            space.add_lwpolyline(corners, close=True, dxfattribs={**attribs(k), "layer": "areas"})
        else:
            space.add_point((x + 4, y + 4), dxfattribs={"true_color": COLOURS[k % 5], "layer": "marks"})
            space.add_text(
                "Quay 4",
                height=0.5 + 0.1 * row,
                rotation=10.0 * row,
                dxfattribs={"true_color": COLOURS[(k + 1) % 5], "layer": "texts", "insert": (x + 2, y + 6)},
            )
doc.saveas(request["file"])
print(json.dumps({"records": len(space)}))
