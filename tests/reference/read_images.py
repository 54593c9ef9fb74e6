"""The pictures that a drawing shows, by ezdxf: file, size, and corners from the lower left one on; and what its auditor finds."""
import json, sys
import ezdxf

job = json.load(sys.stdin)
drawing = ezdxf.readfile(job["file"])
audit = drawing.audit()
images = []
for image in drawing.modelspace().query("IMAGE"):
    at, u, v = image.dxf.insert, image.dxf.u_pixel, image.dxf.v_pixel
    w, h = image.dxf.image_size[0], image.dxf.image_size[1]
    images.append({
        "file": image.image_def.dxf.filename,
        "size": [w, h],
        "corners": [[p.x, p.y] for p in (at, at + u * w, at + u * w + v * h, at + v * h)],
    })
print(json.dumps({"errors": [str(e.message) for e in [*audit.errors, *audit.fixes]], "images": images}))
