"""The texts of a drawing as ezdxf sees them: what each says, how it is turned and where it stands."""

import json
import sys

import ezdxf

texts = [
    {"text": t.plain_text(), "angle": t.dxf.rotation, "at": list(t.dxf.align_point if t.dxf.hasattr("align_point") else t.dxf.insert)}
    for t in ezdxf.readfile(json.load(sys.stdin)).modelspace().query("TEXT")
]
json.dump(texts, sys.stdout)
