"""Writes a workbook with openpyxl: {"file": ...}. Its texts are shared, its days are styled, one cell is a formula, one is merged over two."""
import datetime, json, sys
import openpyxl

book = openpyxl.Workbook()
s = book.active
s.title = 'Valves'
s.append(['Easting', 'Northing', 'RL', 'id', 'made', 'seen', 'live', 'note', 'twice'])
s.append([1464000.25, 5101500.5, 3.25, 'V-001', datetime.date(2019, 2, 28), datetime.datetime(2026, 11, 25, 8, 30), True, 'Shed 3\nŌtautahi', '=C2*2'])
s.append([1464010, 5101510, None, '007', datetime.date(1900, 3, 1), None, False, 'on the quay', None])
s.append([None, None, None, 'V-003', None, None, None, None, None])
s.cell(row=7, column=4, value='after a gap')
s.merge_cells('H7:I7')
t = book.create_sheet('Register')
t.append(['PARCEL', 'rent'])
t.append(['A-1', 1200.5])
book.create_sheet('Empty')
book.save(json.load(sys.stdin)['file'])
json.dump({}, sys.stdout)
