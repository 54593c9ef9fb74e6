"""The 256 colour indexes as ezdxf has them."""
import json, sys
from ezdxf.colors import DXF_DEFAULT_COLORS, int2rgb
json.load(sys.stdin)
json.dump(['#%02x%02x%02x' % tuple(int2rgb(c)) for c in DXF_DEFAULT_COLORS], sys.stdout)
