"""Object coordinate systems as ezdxf has them: [{"normal": [x, y, z], "point": [x, y, z]}] to world points."""
import json, sys
from ezdxf.math import OCS

json.dump([list(OCS(job['normal']).to_wcs(job['point'])) for job in json.load(sys.stdin)], sys.stdout)
