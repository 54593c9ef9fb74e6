"""What ezdxf finds in written drawings. Input: {"files": [...]}. Output: one object a file."""
import collections
import json
import sys

import ezdxf
from ezdxf import path
from ezdxf.lldxf.encoding import decode_dxf_unicode
from ezdxf.math import Vec3

out = []
for name in json.load(sys.stdin)["files"]:
    doc = ezdxf.readfile(name)
    audit = doc.audit()
    model = doc.modelspace()
    geo = model.get_geodata()
    records = []
    for e in model:
        t = e.dxftype()
        xdata = [[code, list(v) if isinstance(v, (Vec3, tuple)) else v] for code, v in e.get_xdata("PONTREL")] if e.has_xdata("PONTREL") else None
        record = {"type": t, "layer": e.dxf.layer, "color": e.dxf.color, "rgb": list(e.rgb) if e.dxf.hasattr("true_color") else None, "linetype": e.dxf.linetype, "xdata": xdata}
        if t == "INSERT":
            record["points"] = [list(e.ocs().to_wcs(e.dxf.insert))]
            record["block"] = e.dxf.name
            record["attribs"] = {a.dxf.tag: a.dxf.text for a in e.attribs}
        elif t in ("TEXT", "MTEXT"):
            record["points"] = [list(e.dxf.insert if t == "MTEXT" or not e.dxf.hasattr("align_point") else e.dxf.align_point)]
            record["text"] = decode_dxf_unicode(e.plain_text())
            record["height"] = e.dxf.height if t == "TEXT" else e.dxf.char_height
        elif t == "POINT":
            record["points"] = [list(e.dxf.location)]
        elif t == "HATCH":
            record["rings"] = [[list(v) for v in p.vertices] for p in e.paths]
        else:
            record["points"] = [list(v) for v in path.make_path(e).flattening(0.001)]
        records.append(record)
    out.append({
        "version": doc.acad_release, "errors": [e.message for e in audit.errors], "fixes": [e.message for e in audit.fixes], "units": doc.units,
        "groups": {decode_dxf_unicode(name): len(g) for name, g in doc.groups},
        "crs": list(geo.get_crs()) if geo else None, "layers": {l.dxf.name: {"color": l.color, "rgb": list(l.rgb) if l.rgb else None} for l in doc.layers},
        "blocks": sorted(b.name for b in doc.blocks if not b.name.startswith("*")), "linetypes": sorted(l.dxf.name for l in doc.linetypes),
        "extents": [list(doc.header["$EXTMIN"]), list(doc.header["$EXTMAX"])], "types": collections.Counter(e["type"] for e in records), "records": records,
    })
json.dump(out, sys.stdout)
