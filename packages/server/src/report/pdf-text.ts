import { fontFile } from '@pontrel/host-node/fonts';

/** Typefaces: for each, the files that hold its letters, the first that has one counts. */
const FACES = {
  plain: ['public-sans', ['latin-400', 'latin-ext-400', 'vietnamese-400']],
  bold: ['public-sans', ['latin-600', 'latin-ext-600', 'vietnamese-600']],
  code: ['spline-sans-mono', ['latin-400', 'latin-ext-400']],
} as const;
/** How a text is set. */
export type Face = keyof typeof FACES;

/** Stands for letters that no typeface here has. */
const MISSING = '\u00b7';

/** Control characters and halves of surrogate pairs: typefaces that claim to have them break over them. */
const UNSEEN = /[\p{Cc}\p{Cs}]/u;

/** All bytes of a document, once it has ended; to be asked for before anything is written. */
export function bytesOf(doc: PDFKit.PDFDocument): Promise<Buffer> {
  const pieces: Buffer[] = [];
  return new Promise((resolve, reject) => {
    doc.on('data', (piece: Buffer) => pieces.push(piece));
    doc.on('end', () => resolve(Buffer.concat(pieces)));
    doc.on('error', reject);
  });
}

interface Run {
  font: string;
  text: string;
}

/** Lettering of a PDF in the typefaces that ship, which come in pieces: each letter is set by the first that has it. */
export class PdfText {
  private readonly has = new Map<string, (code: number) => boolean>();

  constructor(private readonly doc: PDFKit.PDFDocument) {
    for (const [family, subsets] of Object.values(FACES)) {
      for (const subset of subsets) {
        const name = `${family}-${subset}`;
        doc.registerFont(name, fontFile(family, subset));
        doc.font(name);
        const { font } = (doc as unknown as { _font: { font: { hasGlyphForCodePoint(code: number): boolean } } })._font;
        this.has.set(name, (code) => font.hasGlyphForCodePoint(code));
      }
    }
  }

  /** Points across. */
  width(text: string, face: Face, size: number): number {
    return this.runs(text, face).reduce((n, r) => n + this.doc.font(r.font).fontSize(size).widthOfString(r.text), 0);
  }

  /** A line of text, from its upper left corner. */
  line(text: string, face: Face, size: number, color: string, x: number, y: number, options: PDFKit.Mixins.TextOptions = {}): void {
    for (const { font, text: piece } of this.runs(text, face)) {
      this.doc
        .font(font)
        .fontSize(size)
        .fillColor(color)
        .text(piece, x, y, { lineBreak: false, ...options });
      x += this.doc.widthOfString(piece);
    }
  }

  /** A text cut by the typefaces that have its letters. */
  private runs(text: string, face: Face): Run[] {
    const [family, subsets] = FACES[face];
    const out: Run[] = [];
    for (const letter of text) {
      const code = letter.codePointAt(0)!;
      const subset = UNSEEN.test(letter) ? undefined : subsets.find((s) => this.has.get(`${family}-${s}`)!(code));
      const font = `${family}-${subset ?? subsets[0]}`;
      const shown = subset ? letter : /\s/.test(letter) ? ' ' : MISSING;
      const last = out.at(-1);
      if (last?.font === font) last.text += shown;
      else out.push({ font, text: shown });
    }
    return out;
  }
}
