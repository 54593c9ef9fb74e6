import { beginsWith } from './begins';

/** A kind of file that people hand in and that is not read here. */
interface UnreadKind {
  is(head: Uint8Array, name: string): boolean;
  /** What it is and what to do, after its name. */
  answer: string;
}

const begins = (head: Uint8Array, ...bytes: number[]): boolean => beginsWith(head, bytes);
const isNamed = (name: string, pattern: RegExp): boolean => pattern.test(name);

const PICTURE = 'It holds no records: give pictures by themselves. If it shows a plan, give the drawing that it was made of.';

/**
 * What a file is known by that nothing here reads. Sources: the first bytes as the published descriptions of each have them (PNG, JFIF, TIFF 6.0,
 * BMP, GIF, JPEG 2000, PDF, ZIP, RAR, 7z, gzip).
 */
const KINDS: readonly UnreadKind[] = [
  {
    is: (head) =>
      begins(head, 0x89, 0x50, 0x4e, 0x47) ||
      begins(head, 0xff, 0xd8, 0xff) ||
      begins(head, 0x49, 0x49, 0x2a, 0) ||
      begins(head, 0x49, 0x49, 0x2b, 0) ||
      begins(head, 0x4d, 0x4d, 0, 0x2a) ||
      begins(head, 0x4d, 0x4d, 0, 0x2b) ||
      (begins(head, 0x42, 0x4d) && [6, 7, 8, 9].every((k) => head[k] === 0)) ||
      begins(head, 0xff, 0x4f, 0xff, 0x51) ||
      (begins(head, 0, 0, 0, 0x0c, 0x6a, 0x50) && head.length > 12),
    answer: `is a picture. ${PICTURE}`,
  },
  {
    is: (head) => begins(head, 0x47, 0x49, 0x46, 0x38),
    answer: 'is a picture of a kind that is not read here. Save it as PNG or TIFF.',
  },
  {
    is: (_head, name) => isNamed(name, /\.([jtp]gw|[jtp]fw|tifw|pngw|jpgw|wld|bpw)$/i),
    answer: `is a world file, which says where a picture lies. ${PICTURE}`,
  },
  {
    is: (head, name) => isNamed(name, /\.dgn$/i) || begins(head, 0x08, 0x09, 0xfe, 0x02),
    answer: 'is a drawing of a kind whose form is not published. Save it as DXF in the program that made it, and give that.',
  },
  {
    is: (head) => begins(head, 0x25, 0x50, 0x44, 0x46),
    answer: 'is a PDF, a picture of pages. Ask for the drawing or the data that it was made of.',
  },
  {
    is: (head) => begins(head, 0xd0, 0xcf, 0x11, 0xe0),
    answer: 'is a document of an older office program. Save a table as .xlsx or .csv in that program, and give that.',
  },
  {
    is: (head) =>
      begins(head, 0x50, 0x4b, 3, 4) ||
      begins(head, 0x50, 0x4b, 5, 6) ||
      begins(head, 0x52, 0x61, 0x72, 0x21) ||
      begins(head, 0x37, 0x7a, 0xbc, 0xaf) ||
      begins(head, 0x1f, 0x8b),
    answer: 'is an archive. Unpack it, and give the files in it.',
  },
  {
    is: (_head, name) => isNamed(name, /\.(shx|prj|cpg|sbn|sbx|qpj|shp\.xml)$/i),
    answer: 'is a part of a shapefile and holds no records. Give it together with the .shp and the .dbf of the same name.',
  },
];

/** Why a file is not read, as a sentence with what to do; null where it is of no kind that is known. */
export const unreadKind = (head: Uint8Array, name: string): string | null => KINDS.find((kind) => kind.is(head, name))?.answer ?? null;
