"""The first column of a table, which has well-known texts: {"file": ...} to texts, by the csv module and openpyxl.

Positions without a measure say NaN, which the reader of the texts knows as a number."""
import csv, json, sys

file = json.load(sys.stdin)['file']
if file.endswith('.csv'):
    with open(file, newline='', encoding='utf-8-sig') as f:
        rows = list(csv.reader(f))
else:
    import openpyxl
    rows = list(openpyxl.load_workbook(file, read_only=True).active.iter_rows(values_only=True))
json.dump([row[0] for row in rows[1:]], sys.stdout)
