"""Makes two revisions of one drawing with ezdxf: {"folder"}. B has another name, one layer more, one called otherwise, and one field less."""
import json, sys
import ezdxf

job = json.load(sys.stdin)
X, Y = 1464000, 5101500


def make(name, pipes, fields, more):
    doc = ezdxf.new('R2010', setup=True)
    doc.header['$INSUNITS'] = 6
    m = doc.modelspace()
    for k in range(6):
        m.add_line((X + 10 * k, Y), (X + 10 * k, Y + 50), dxfattribs={'layer': pipes})
    block = doc.blocks.new('VALVE')
    block.add_circle((0, 0), 0.5)
    for tag in fields:
        block.add_attdef(tag, (0, 0))
    for k in range(4):
        ref = m.add_blockref('VALVE', (X + 10 * k, Y + 25), dxfattribs={'layer': 'VALVES'})
        for tag in fields:
            ref.add_attrib(tag, f'{tag} {k}', (X, Y))
    for k in range(more):
        m.add_line((X, Y + 60 + k), (X + 50, Y + 60 + k), dxfattribs={'layer': 'CABLES'})
    doc.saveas(f"{job['folder']}/{name}")


make('mains-a.dxf', 'PIPES', ['VALVE_ID', 'STATE'], 0)
make('mains-b.dxf', 'MAINS', ['VALVE_ID'], 3)
print('{}')
