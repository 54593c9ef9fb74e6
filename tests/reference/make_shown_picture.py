"""A drawing by ezdxf that shows a picture, turned, cut to a line where one is given, and where its corners are: from the lower left one on.

With "clip" the answer is {"corners", "clip"}: the line as ezdxf has it in the numbers of the drawing.
"""
import json
import math
import sys

import ezdxf

job = json.load(sys.stdin)
drawing = ezdxf.new("R2010")
drawing.header["$INSUNITS"] = 4
width, height = job["size"]
definition = drawing.add_image_def(filename="C:\\site\\" + job["picture"], size_in_pixel=(width, height))
x, y = job["insert"]
w, h = job["units"]
image = drawing.modelspace().add_image(definition, insert=(x, y), size_in_units=(w, h), rotation=job["rotation"])
if "clip" in job:
    image.set_boundary_path(job["clip"])
    image.dxf.clip_mode = int(job["keeps"] == "outside")
drawing.modelspace().add_line((x, y), (x + w, y))
drawing.saveas(job["file"])
a = math.radians(job["rotation"])
turn = lambda u, v: [x + u * math.cos(a) - v * math.sin(a), y + u * math.sin(a) + v * math.cos(a)]
corners = [turn(0, 0), turn(w, 0), turn(w, h), turn(0, h)]
print(json.dumps({"corners": corners, "clip": [[p.x, p.y] for p in image.boundary_path_wcs()]} if "clip" in job else corners))
