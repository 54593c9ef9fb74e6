import { Command } from 'commander';
import { compare, type CompareOptions } from './compare';
import { convert } from './convert';
import type { ConvertOptions } from './convert-options';
import { type CrsOptions, find, identifyFile, show, transform } from './crs';
import type { Derivation } from '@pontrel/core/content/derived/derivation';
import { DERIVATIONS } from '@pontrel/core/content/derived/derivations';
import { initialOf } from '@pontrel/core/formats/options';
import { derive, type DeriveOptions } from './derive';
import { formats } from './formats';
import { inspect } from './inspect';
import type { Result } from './result';

const CRS_WORDS = `A CRS is an EPSG code such as EPSG:2193, two of them for positions and heights (EPSG:2193+7839), one with the date at which
its coordinates hold (EPSG:9000@2026.5), WKT, or a PROJ string. Grid files are looked for among those shipped and in the folders that
PONTREL_GRIDS names.`;

const collect = (value: string, before: string[] = []): string[] => [...before, value];

/** What an operation does, and its settings. */
function operationHelp({ id, says, settings, roles }: Derivation): string {
  const wants = roles.map((r) => `${r.id} (layers)`);
  const takes = settings.map((o) => {
    if (o.kind === 'choice') return `${o.id} (${o.choices.map((c) => c.value).join('|')})`;
    return o.kind === 'length' || o.kind === 'number' ? `${o.id} (${initialOf(o)})` : o.id;
  });
  return `  ${id.padEnd(12)} ${says}\n${' '.repeat(15)}--set ${[...takes, ...wants].join(', ')}`;
}

/** What each command is asked, and two worked examples of it. */
const EXAMPLES: Record<string, string> = {
  inspect: `
Examples:
  pontrel inspect quay-design.dxf
  pontrel inspect roads.shp parcels.gpkg --json`,
  convert: `
OUTPUT is a file (roads.shp: one set a geometry kind; plan.dxf: one drawing; site.tif: one picture of all those given, the first on
top) or, with --format, a folder (one set a layer and kind). What was written is read back and proved against the inputs before it is put in its place.
${CRS_WORDS}

Examples:
  pontrel convert quay-design.dxf quay.gpkg --from EPSG:2193 --unit millimetre --where "color <> '#ff0000'"
  pontrel convert survey.dxf handed-over/ --recipe council.json
  pontrel convert tile-1.tif tile-2.tif site.jpg --to EPSG:2193 --bounds 1463700,5101000,1464400,5102000 --pixel-size 0.2 --quality 80
  pontrel convert quay.dxf tile-1.tif map.png --from EPSG:2193 --option scale=500 --option dpi=300`,
  derive: `
Operations, and what can be said of each with --set NAME=VALUE:
${DERIVATIONS.map(operationHelp).join('\n')}
Lengths given with --set are metres unless they carry a unit: 5mm, 0.1ft. What wants layers takes names of layers or files, with commas
between them; where nothing is said, layers that have such records. The output is proved like that of convert.
${CRS_WORDS}

Examples:
  pontrel derive polygonize cadastre.dxf parcels.gpkg --from EPSG:2193 --layer BOUNDARY --layer LOT-NUMBER --set tolerance=0.02
  pontrel derive topology parcels.shp faults.gpkg --set near=20mm --json
  pontrel derive surface survey.dxf ground.tif --from EPSG:2193 --layer SPOT-LEVEL --layer BREAKLINE --pixel-size 0.5`,
  compare: `
Records are one by the field that --key names, or else by where they lie; of what lies elsewhere, those whose values are the same, and the
same as those of no other. A record is added, removed, moved, changed (its values, whether it has moved or not) or the same.

Examples:
  pontrel compare parcels-2025.shp parcels-2026.shp --key PARCEL_ID
  pontrel compare quay-revA.dxf quay-revB.dxf --tolerance 0.005 --json`,
  formats: `
Examples:
  pontrel formats
  pontrel formats dxf --json`,
  transform: `
Lines are "x y [z]", the east-west axis first; "* *" stands where there is no image.
${CRS_WORDS}

Examples:
  echo "172 -41" | pontrel crs transform --from EPSG:4272 --to EPSG:2193
  pontrel crs transform --from EPSG:27200 --to EPSG:2193 --no-grids < points.txt`,
  show: `
Examples:
  pontrel crs show EPSG:2193 --as prj
  pontrel crs show "+proj=tmerc +lon_0=173 +ellps=GRS80" --as wkt2`,
  identify: `
Examples:
  pontrel crs identify roads.prj
  pontrel crs identify survey.prj --json`,
  find: `
Examples:
  pontrel crs find --extent 1463700,5101000,1464400,5102000
  pontrel crs find --extent 350000,740000,351000,741000 --near 171.2,-44.4`,
};

/**
 * The commands, their options and their help pages.
 * @param run gets what a command works on, once it is asked to
 */
export function program(run: (work: () => Result | Promise<Result>, noGrids: boolean) => Promise<void>): Command {
  const pontrel = new Command('pontrel')
    .description('Carries layers between CAD drawings and GIS formats and proves that nothing was lost on the way.')
    .addHelpText('after', '\nExit status: 0 done, 1 the input is bad, 2 wrong usage.');
  const add = (parent: Command, name: string, text: string): Command =>
    parent
      .command(name)
      .description(text)
      .option('--json', 'print the result as JSON')
      .addHelpText('after', EXAMPLES[name.split(' ')[0]!]!);
  const does = <O>(command: Command, work: (words: string[], options: O) => Result | Promise<Result>): void => {
    command.action((...args: unknown[]) => {
      const own = args.at(-1) as Command;
      const options = own.opts<O & { grids?: boolean }>();
      return run(() => work(own.args, options), options.grids === false);
    });
  };

  does(add(pontrel, 'inspect', 'Says what is in files.').argument('<file...>'), (files) => inspect(files));
  does<ConvertOptions>(
    add(pontrel, 'convert', 'Converts files, and proves what it wrote.')
      .argument('<input-or-output...>', 'the inputs, and the output last')
      .option('--from <crs>', 'the system that the inputs are in, where they state none or another one; "local" for a site grid')
      .option('--unit <unit>', 'the unit of their numbers, by name or by its length in metres')
      .option('--to <crs>', 'the system of the output; that of the first input when absent')
      .option('--layer <name>', 'only this layer; may be said several times', collect)
      .option('--where <cql2>', 'only records that this filter (CQL2) takes')
      .option('--chord <metres>', 'largest distance of a chord from its curve')
      .option('--format <id>', 'the format, where the extension of the output does not say it (see: pontrel formats)')
      .option('--option <name=value>', 'an option of the format; may be said several times', collect)
      .option('--bounds <minx,miny,maxx,maxy>', "only what touches this box, in the output's system")
      .option('--pixel-size <x[,y]>', 'of a picture, in units of the output; such that none is lost when absent')
      .option(
        '--resample <way>',
        'how values between pixels are worked out: nearest, bilinear (when nothing is said), cubic, average or mode',
      )
      .option('--quality <n>', 'of what is packed as JPEG, 1 to 100')
      .option('--append', 'add to an output that is there, and keep a copy of it as it was')
      .option('--recipe <file>', 'run the rules of a crossing on the inputs; the output is a folder')
      .option('--source <name=file...>', 'with --recipe: the input that takes the place of a source of the recipe'),
    (files, options) => convert(files, options),
  );
  does<DeriveOptions>(
    add(pontrel, 'derive', 'Works records out of those of files: areas of lines.')
      .argument('<operation>')
      .argument('<input-or-output...>', 'the inputs, and the output last')
      .option('--from <crs>', 'the system that the inputs are in, where they state none or another one; "local" for a site grid')
      .option('--unit <unit>', 'the unit of their numbers, by name or by its length in metres')
      .option('--to <crs>', 'the plane that is worked in, and the system of the output; that of the first input when absent')
      .option('--layer <name>', 'only this layer; may be said several times', collect)
      .option('--set <name=value>', 'a parameter of the operation; may be said several times', collect)
      .option('--pixel-size <n>', 'of a surface that is written as an elevation model, in units of the plane that is worked in')
      .option('--format <id>', 'the format, where the extension of the output does not say it (see: pontrel formats)')
      .option('--option <name=value>', 'an option of the format; may be said several times', collect),
    (words, options) => derive(words, options),
  );
  does<CompareOptions>(
    add(pontrel, 'compare', 'Compares two revisions of a file, record by record.')
      .argument('<old>')
      .argument('<new>')
      .option('--key <field>', 'the field by which records are one; by where they lie when absent')
      .option('--tolerance <metres>', 'within which a record has not moved; 0.001 when absent')
      .option('--from <crs>', 'the system that both are in, where they state none or another one'),
    (files, options) => compare(files, options),
  );
  does(add(pontrel, 'formats', 'Says what is read and written, with the options of each format.').argument('[id]'), ([id]) => formats(id));

  const crs = pontrel.command('crs').description('Coordinate reference systems.');
  does<CrsOptions>(
    add(crs, 'transform', 'Transforms points from the standard input.')
      .option('--from <crs>')
      .option('--to <crs>')
      .option('--operation <id>', 'the operation to take instead of the best one')
      .option('--no-grids', 'take no operation that needs a grid file'),
    (_words, options) => transform(options),
  );
  does<CrsOptions>(
    add(crs, 'show', 'Shows a system.').argument('<crs>').option('--as <form>', 'wkt1, wkt2, prj, proj or json'),
    ([name], options) => show(name!, options),
  );
  does(add(crs, 'identify', 'Finds the registered systems that a .prj file means.').argument('<file>'), ([file]) => identifyFile(file!));
  does<CrsOptions>(
    add(crs, 'find', 'Finds the systems in which an extent would make sense.')
      .option('--extent <minx,miny,maxx,maxy>')
      .option('--near <lon,lat>', 'a place that it is near to'),
    (_words, options) => find(options),
  );
  return pontrel;
}
