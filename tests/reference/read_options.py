"""What ezdxf, fastkml's parser and csv find in files written with options: {"dxf": [file], "kml": [file], "csv": [file]}."""
import csv, json, sys
import xml.etree.ElementTree as ET
import ezdxf

job = json.load(sys.stdin)
NS = {'k': 'http://www.opengis.net/kml/2.2'}


def drawing(file):
    doc = ezdxf.readfile(file)
    labels = [
        {
            'text': e.dxf.text, 'at': list(e.dxf.get('align_point', e.dxf.insert))[:2], 'insert': list(e.dxf.insert)[:2],
            'halign': e.dxf.get('halign', 0), 'valign': e.dxf.get('valign', 0), 'color': e.rgb and '#%02x%02x%02x' % e.rgb,
            'height': e.dxf.height, 'rotation': e.dxf.get('rotation', 0),
        }
        for e in doc.modelspace().query('TEXT')
    ]
    return {
        'version': doc.dxfversion, 'labels': labels, 'errors': len(doc.audit().errors),
        'kinds': sorted({e.dxftype() for e in doc.modelspace()}),
        'blocks': sorted({e.dxf.name for e in doc.modelspace().query('INSERT')}),
        'attributes': sorted({a.dxf.tag for e in doc.modelspace().query('INSERT') for a in e.attribs}),
    }


def placemarks(file):
    root = ET.parse(file).getroot()
    return {
        'names': [p.findtext('k:name', None, NS) for p in root.iterfind('.//k:Placemark', NS)],
        'descriptions': [p.findtext('k:description', None, NS) for p in root.iterfind('.//k:Placemark', NS)],
        'about': root.findtext('k:Document/k:description', None, NS),
        'regions': len(root.findall('.//k:Region', NS)),
    }


json.dump({
    'dxf': [drawing(f) for f in job.get('dxf', [])],
    'kml': [placemarks(f) for f in job.get('kml', [])],
    'csv': [list(csv.reader(open(f, encoding='utf-8-sig', newline=''))) for f in job.get('csv', [])],
}, sys.stdout)
