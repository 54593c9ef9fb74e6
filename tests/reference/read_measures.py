"""The vertices of a shapefile as pyshp reads them: {"file": ...} to [{points, m, z}]; no measure is null."""
import json, sys
import shapefile

out = []
with shapefile.Reader(json.load(sys.stdin)['file']) as r:
    for s in r.shapes():
        m = [None if v is None or v < -1e38 else v for v in getattr(s, 'm', [])]
        out.append({'points': [list(p[:2]) for p in s.points], 'm': m, 'z': list(s.z) if hasattr(s, 'z') else None})
json.dump(out, sys.stdout)
