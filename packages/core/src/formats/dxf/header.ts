import { codePageOf } from '../../io/code-pages';

/** What the HEADER section says that matters here. */
export interface DxfHeader {
  /** $ACADVER, for example AC1027. */
  version: string;
  /** $INSUNITS; 0 when not stated. */
  units: number;
  /** $DWGCODEPAGE, for example ANSI_1252. */
  codePage: string;
  /** $LTSCALE: what lengths of line patterns are multiplied with. */
  patternScale: number;
  /** $EXTMIN and $EXTMAX: x, y, z each; null when not stated. */
  min: [number, number, number] | null;
  max: [number, number, number] | null;
}

/** Versions by their $ACADVER mark. Source: DXF Reference, HEADER section. */
export const VERSIONS: Record<string, string> = {
  AC1009: 'R12',
  AC1012: 'R13',
  AC1014: 'R14',
  AC1015: 'R2000',
  AC1018: 'R2004',
  AC1021: 'R2007',
  AC1024: 'R2010',
  AC1027: 'R2013',
  AC1032: 'R2018',
};

/** From this version on the text of a drawing is UTF-8. */
const UTF8_FROM = 'AC1021';

/** How the bytes above 127 of a drawing are to be read. */
export function encodingOf(header: DxfHeader): string {
  return statedEncoding(header) ?? 'windows-1252';
}

/** The encoding that a drawing states; null where it is a code page that is not read here. */
export function statedEncoding({ version, codePage }: DxfHeader): string | null {
  return version >= UTF8_FROM ? 'utf-8' : (codePageOf(codePage)?.id ?? null);
}

/** Takes the groups of the HEADER section: a variable's name (group 9), then its values. */
export class HeaderReader {
  readonly header: DxfHeader = { version: 'AC1009', units: 0, codePage: 'ANSI_1252', patternScale: 1, min: null, max: null };
  private variable = '';

  take(code: number, text: string, number: number): void {
    if (code === 9) this.variable = text;
    else if (this.variable === '$ACADVER') this.header.version = text.trim();
    else if (this.variable === '$DWGCODEPAGE') this.header.codePage = text.trim();
    else if (this.variable === '$LTSCALE' && number > 0) this.header.patternScale = number;
    else if (this.variable === '$INSUNITS') this.header.units = number;
    else if (this.variable === '$EXTMIN') this.header.min = corner(this.header.min, code, number);
    else if (this.variable === '$EXTMAX') this.header.max = corner(this.header.max, code, number);
  }
}

function corner(known: [number, number, number] | null, code: number, number: number): [number, number, number] {
  const out = known ?? [0, 0, 0];
  if (code === 10 || code === 20 || code === 30) out[code / 10 - 1] = number;
  return out;
}
