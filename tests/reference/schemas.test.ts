import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import schemas from 'ogc-schemas';
import { afterAll, describe, expect, it } from 'vitest';
import { formatById } from '@pontrel/core/formats/index';
import { readXml, type XmlNode } from '@pontrel/core/io/xml';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { temporaryFolder } from '../server/client';
import { crossInto } from './cross-file';
import { oddLayers } from './odd-layers';
import { pontrel } from './python';

type Mapping = (typeof schemas)[string];
type Type = Mapping['tis'][number];
type Property = NonNullable<Type['ps']>[number];

const local = (name: string | { lp: string }): string => (typeof name === 'string' ? name : name.lp);

/** The schemas of a document, as the package of their mappings has them: which elements an element may hold, in which order, and how often. */
class Schema {
  private readonly types = new Map<string, { type: Type; module: string }>();
  private readonly elements = new Map<string, string>();
  private readonly heads = new Map<string, string>();

  constructor(...modules: string[]) {
    for (const module of modules) {
      for (const type of schemas[module]!.tis) this.types.set(`${module}.${type.ln}`, { type, module });
      for (const element of schemas[module]!.eis) {
        if (element.ti) this.elements.set(local(element.en), this.full(element.ti, module));
        if (element.sh) this.heads.set(local(element.en), local(element.sh));
      }
    }
  }

  /** @param type a name; a list of plain values is told otherwise, and is not looked into */
  private full(type: unknown, module: string): string {
    return typeof type !== 'string' ? '' : type.startsWith('.') ? module + type : type;
  }

  /** Members of a type in their order, those of its base first. */
  private members(name: string): { property: Property; module: string }[] {
    const found = this.types.get(name);
    if (!found) return [];
    const { type, module } = found;
    return [...(type.bti ? this.members(this.full(type.bti, module)) : []), ...(type.ps ?? []).map((property) => ({ property, module }))];
  }

  /** Whether an element may stand where another one is named: itself, or one that it is said to stand in for. */
  private standsFor(element: string, named: string): boolean {
    for (let at: string | undefined = element; at !== undefined; at = this.heads.get(at)) if (at === named) return true;
    return false;
  }

  /** What is wrong in a document, and where. */
  faults(root: XmlNode): string[] {
    const out: string[] = [];
    const type = this.elements.get(root.name);
    if (type === undefined) return [`${root.name} is no element of the schema`];
    this.walk(root, type, root.name, out);
    return out;
  }

  private walk(node: XmlNode, type: string, path: string, out: string[]): void {
    const members = this.members(type).filter(({ property }) => property.t !== 'a' && property.t !== 'v');
    // a type of another schema, or of plain values, is not looked into
    if (members.length === 0) return;
    let last = -1;
    for (const child of node.children) {
      // what stands beyond the standard has a schema of its own
      if (child.name === 'physicalWidth') continue;
      const at = members.findIndex(({ property }) =>
        property.etis
          ? property.etis.some((e) => this.standsFor(child.name, local(e.en)))
          : this.standsFor(child.name, local(property.en ?? property.n)),
      );
      if (at < 0) {
        out.push(`${path}: ${child.name} may not stand here`);
        continue;
      }
      const { property, module } = members[at]!;
      // a sequence that may come again holds its members by turns
      if (at < last && !property.col) out.push(`${path}: ${child.name} stands too late`);
      if (at === last && !property.col) out.push(`${path}: ${child.name} stands twice`);
      last = Math.max(last, at);
      const own = property.t === 'er' || property.t === 'ers' ? this.elements.get(child.name) : property.etis ? undefined : property.ti;
      const next = own ?? this.elements.get(child.name);
      if (next) this.walk(child, this.full(next, module), `${path}/${child.name}`, out);
    }
  }
}

const KML = new Schema('KML_2_2_0');
const SLD = new Schema('SLD_1_1_0', 'SE_1_1_0', 'Filter_1_1_0');
const NZTM = 'EPSG:2193';

// ogc-schemas: mappings made of the schemas of OGC 07-147r2 (KML 2.2), 05-078r4 (SLD 1.1), 05-077r4 (SE 1.1) and 04-095 (filters 1.1)
describe('written files, by the schemas of their standards', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;
  const written = async (
    format: string,
    options: Record<string, string | number>,
    rules: Parameters<typeof crossInto>[2]['rules'] = {},
  ): Promise<string> => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    await crossInto(path, oddLayers(), {
      format,
      crs: prescribedCrs(formatById(format)!, options) ?? NZTM,
      placement: { crs: NZTM, unit_m: null },
      options,
      rules,
    });
    return path;
  };
  const labelled = Object.fromEntries(
    ['Water mains / Wai', 'Levels', 'Zones', 'Mixed'].map((layer) => [
      layer,
      { label: { field: layer === 'Levels' ? 'level' : 'name' }, scales: { min: 500, max: 25_000 } },
    ]),
  );

  it('tells what is out of order, not known, or twice', () => {
    const faults = (text: string): string[] =>
      KML.faults(
        readXml('a.kml', new TextEncoder().encode(`<kml xmlns="http://www.opengis.net/kml/2.2"><Placemark>${text}</Placemark></kml>`)),
      );
    expect(
      faults('<name>a</name><description>b</description><styleUrl>#c</styleUrl><Point><coordinates>1,2</coordinates></Point>'),
    ).toEqual([]);
    expect(faults('<description>b</description><name>a</name>')).toEqual(['kml/Placemark: name stands too late']);
    expect(faults('<name>a</name><name>b</name>')).toEqual(['kml/Placemark: name stands twice']);
    expect(faults('<title>a</title>')).toEqual(['kml/Placemark: title may not stand here']);
    expect(faults('<LineString><coordinates>1,2</coordinates><tessellate>1</tessellate></LineString>')).toEqual([
      'kml/Placemark/LineString: tessellate stands too late',
    ]);
  });

  const OPTIONS: Record<string, string | number>[] = [
    {},
    { container: 'kmz', points: 'symbol', heights: 'absolute', extrude: 'yes', raise: 2 },
    { widths: 'metres', width_m: 3, heights: 'above' },
    { shown: 'near', image: 'note', description: 'about <it>', link: 'http://localhost/?a=1&b=2' },
    { balloon: 'text', text: '{name}', texts: 'marks' },
  ];
  it.each(OPTIONS.map((options) => [JSON.stringify(options), options] as const))('KML with %s', async (_name, options) => {
    const path = await written('kml', options, labelled);
    const [file] = readdirSync(path);
    const bytes = readFileSync(`${path}/${file!}`);
    const text = file!.endsWith('.kmz') ? unzipSync(bytes)['doc.kml']! : bytes;
    expect(KML.faults(readXml(file!, text))).toEqual([]);
  });

  it('the documents of a pyramid by regions', async () => {
    const picture = `${folder}/pyramid.png`;
    await sharp({ create: { width: 700, height: 300, channels: 3, background: 'teal' } })
      .png()
      .toFile(picture);
    writeFileSync(`${folder}/pyramid.pgw`, '0.00001\n0\n0\n-0.00001\n171.2\n-44.2\n');
    const out = `${folder}/pyramid.kmz`;
    expect(pontrel('convert', picture, out, '--from', 'EPSG:4326', '--option', 'layout=pyramid').status).toBe(0);
    const documents = Object.entries(unzipSync(readFileSync(out))).filter(([name]) => name.endsWith('.kml'));
    expect(documents.length).toBe(1 + 6 + 2 + 1);
    for (const [name, text] of documents) expect({ name, faults: KML.faults(readXml(name, text)) }).toEqual({ name, faults: [] });
  });

  it('styles beside a shapefile', async () => {
    const path = await written('shapefile', {}, labelled);
    const styles = readdirSync(path).filter((f) => f.endsWith('.sld'));
    expect(styles.length).toBeGreaterThan(3);
    const zones = readFileSync(`${path}/${styles.find((s) => s.startsWith('zones'))!}`, 'utf8');
    const turned = zones.replace(/(<se:Fill>.*?<\/se:Fill>)(<se:Stroke>.*?<\/se:Stroke>)/, '$2$1');
    expect(turned).not.toBe(zones);
    expect(SLD.faults(readXml('turned.sld', new TextEncoder().encode(turned)))).toEqual([
      'StyledLayerDescriptor/NamedLayer/UserStyle/FeatureTypeStyle/Rule/PolygonSymbolizer: Fill stands too late',
    ]);
    for (const style of styles)
      expect({ style, faults: SLD.faults(readXml(style, readFileSync(`${path}/${style}`))) }).toEqual({ style, faults: [] });
  });
});
