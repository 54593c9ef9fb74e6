"""What ezdxf says of the pictures of a drawing: whether it is sound, what each shows and where, and what is drawn before it."""
import json, os, sys
import ezdxf
from PIL import Image

job = json.load(sys.stdin)
document = ezdxf.readfile(job["file"])
audit = document.audit()
space = document.modelspace()
order = [e.dxftype() for e in space]
pictures = []
for k, e in enumerate(space):
    if e.dxftype() != "IMAGE":
        continue
    definition = e.image_def
    beside = os.path.join(os.path.dirname(job["file"]), definition.dxf.filename)
    w, h = e.dxf.image_size.x, e.dxf.image_size.y
    at, u, v = e.dxf.insert, e.dxf.u_pixel, e.dxf.v_pixel
    corner = lambda c, r: [round(at.x + c * u.x + r * v.x, 6), round(at.y + c * u.y + r * v.y, 6)]
    pictures.append(
        {
            "number": k,
            "layer": e.dxf.layer,
            "file": definition.dxf.filename,
            "size": [int(w), int(h)],
            "file_size": list(Image.open(beside).size),
            "upper_left": corner(0, h),
            "lower_right": corner(w, 0),
            "shown": bool(e.dxf.flags & 1),
        }
    )
print(
    json.dumps(
        {
            "errors": [str(e.message) for e in audit.errors],
            "pictures": pictures,
            "others": len(order) - len(pictures),
            "extent": [list(document.header["$EXTMIN"])[:2], list(document.header["$EXTMAX"])[:2]],
        }
    )
)
