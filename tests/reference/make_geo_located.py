"""Writes drawings with a geographic location object by ezdxf. Arguments: folder. Files: projected.dxf (EPSG:2193 as it is), local.dxf (tied to it, turned)."""
import sys

import ezdxf

XML = """<?xml version="1.0" encoding="UTF-16" standalone="no" ?>
<Dictionary version="1.0" xmlns="http://www.osgeo.org/mapguide/coordinatesystem">
<ProjectedCoordinateSystem id="NZGD2000/NZTM"><Name>NZGD2000/NZTM</Name></ProjectedCoordinateSystem>
<Alias id="2193" type="CoordinateSystem">
<ObjectId>NZGD2000/NZTM</ObjectId>
<Namespace>EPSG Code</Namespace>
</Alias>
<Alias id="6167" type="Datum"><ObjectId>NZGD2000</ObjectId><Namespace>EPSG Code</Namespace></Alias>
</Dictionary>
"""

for name, local in (("projected", False), ("local", True)):
    doc = ezdxf.new("R2010")
    doc.units = ezdxf.units.M
    space = doc.modelspace()
    geo = space.new_geodata()
    geo.coordinate_system_definition = XML
    if local:
        # north is 30 degrees to the left of the drawing's y
        geo.setup_local_grid(design_point=(100, 200), reference_point=(1463700, 5101400), north_direction=(-0.5, 0.8660254037844386))
        space.add_line((100, 200), (150, 286.60254037844386))
    else:
        geo.dxf.coordinate_type = geo.PROJECTED_GRID
        space.add_line((1463700, 5101400), (1463800, 5101500))
    doc.saveas(f"{sys.argv[1]}/{name}.dxf")
