"""A drawing of a sewer with ezdxf, in metres: seven manholes as blocks with attributes, pipes as lines, with one fault of each kind: see the
test beside it."""

import json
import sys

import ezdxf

file = json.load(sys.stdin)
doc = ezdxf.new("R2010")
doc.header["$INSUNITS"] = 6
msp = doc.modelspace()
block = doc.blocks.new("MANHOLE")
block.add_circle((0, 0), 0.6)
for k, tag in enumerate(["NUMBER", "RIM", "SUMP"]):
    block.add_attdef(tag, (0, 1 + k), dxfattribs={"height": 0.5})
E, N = 1_464_000, 5_101_500


def manhole(number, x, y, rim, sump):
    ref = msp.add_blockref("MANHOLE", (E + x, N + y), dxfattribs={"layer": "MANHOLE"})
    ref.add_auto_attribs({"NUMBER": number, "RIM": f"{rim:.3f}", "SUMP": f"IL {sump:.3f}"})


for k in range(7):
    manhole(f"MH{k}", 50 * k, 0, 10 - 0.3 * k, 8 - 0.5 * k)
manhole("MH7", 100, 60, 9.9, 8.2)  # no pipe
manhole("MH8", 50.021, 0, 9.7, 7.5)  # MH1 once more


def pipe(a, b, start, end, z=True):
    msp.add_line(
        (E + a[0], N + a[1], start if z else 0), (E + b[0], N + b[1], end if z else 0), dxfattribs={"layer": "SEWER"}
    )


pipe((0, 0), (50, 0), 8.0, 7.5)
pipe((50, 0), (99.968, 0), 7.5, 7.0)  # 32 mm short of MH2
pipe((100, 0), (150, 0), 7.0, 7.093)  # rises 93 mm
pipe((150, 0), (200, 0), 6.5, 6.5)  # level
pipe((200, 0), (250, 0), 6.0, 5.5)
pipe((200, 0), (250, 0), 6.0, 5.5)  # once more
pipe((250, 0), (300, 0), 5.5, 11.0)  # its end lies above the rim of MH6
pipe((120, -40), (170, 40), 0, 0, z=False)  # crosses, both ends open
pipe((120, -40), (120, -80), 0, 0, z=False)  # meets it without a structure
pipe((90, 60), (110, 60), 0, 0, z=False)  # goes through MH7
# diameters beside two of the pipes, and one too far from any
for text, x, y in (("DN 225", 25, 1.2), ("Ø300", 125, -1), ("150 mm", 225, 30)):
    msp.add_text(text, dxfattribs={"layer": "PIPE-TEXT", "height": 1, "insert": (E + x, N + y)})
doc.saveas(file)
json.dump({}, sys.stdout)
