import type { Crs } from '../crs/crs';
import type { Finding } from '../model/finding';
import { symbolKey } from '../symbology/library';
import { lengthUnit } from '../symbology/sizes';
import type { CarriedSymbology } from '../symbology/carried';
import { styleRulesOf } from '../symbology/style-rules';
import { sldText } from '../symbology/sld-write';
import type { TargetSet, WriteContext } from './format';

/** Styles that lie beside a file. */
export const STYLE = '.sld';

/** What a style of SLD holds of looks: all but the drawing of a symbol that it does not know by name. */
export const SLD_LOOKS: CarriedSymbology = {
  color: true,
  fill: true,
  opacity: true,
  width: true,
  ground: true,
  dash: true,
  marker: 'marks',
  size: true,
  label: true,
  scales: true,
  byFields: true,
  how: 'as a style (SLD)',
};

/** Whether a set has looks that a style can tell. Patterns of lines alone are none. */
export const hasSheet = (set: TargetSet): boolean => styleRulesOf(set, () => undefined, 1).categories.length > 0;

/** The style of a set as SLD. */
export function sldOf(set: TargetSet, { crs, libraries }: { crs: Crs } & Pick<WriteContext, 'libraries'>): string {
  const patternOf = (name: string): ReturnType<(typeof libraries)[number]['library']['lines']['get']> => {
    for (const { library } of libraries) {
      const found = library.lines.get(symbolKey(name));
      if (found) return found;
    }
    return undefined;
  };
  return sldText(set.name, styleRulesOf(set, patternOf, lengthUnit(crs)).categories, set.style);
}

/** What of the looks of a set its style cannot tell apart. */
export function sheetFindings(set: TargetSet): Finding[] {
  const { missing, categories } = styleRulesOf(set, () => undefined, 1);
  if (categories.length === 0) return [];
  const untold = set.count - set.symbology.reduce((n, l) => n + l.count, 0);
  const many: Finding[] =
    untold > 0
      ? [
          {
            code: 'looks-many',
            severity: 'caution',
            message: 'More looks come in it than a style is made for: records of the rarer ones get none, and keep theirs as fields.',
            count: untold,
            location: set.name,
          },
        ]
      : [];
  return missing.length === 0
    ? many
    : [
        ...many,
        {
          code: 'looks-merged',
          severity: 'caution',
          message: `Its style cannot tell looks apart by ${missing.join(' and ')}, which ${missing.length === 1 ? 'stays' : 'stay'} behind: records get the look of most of them. Take ${missing.length === 1 ? 'the field' : 'the fields'} along in Shape to keep all.`,
          count: set.symbology.length,
          location: set.name,
        },
      ];
}
