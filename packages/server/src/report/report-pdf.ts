import PDFDocument from 'pdfkit';
import { DAY } from '@pontrel/contract/palette';
import { type Block, type Cell, PICTURE, type Report } from './blocks';
import { bytesOf, type Face, PdfText } from './pdf-text';

/** A4 in points, and its margins. */
const WIDTH = 595.28,
  HEIGHT = 841.89,
  MARGIN = 46;
const INNER = WIDTH - 2 * MARGIN;
/** Points that the head of a table and its first rows take: they stay together. */
const KEPT = 48;

/** A report as a PDF of A4 pages. */
export async function reportPdf(report: Report): Promise<Buffer> {
  const doc = new PDFDocument({
    size: 'A4',
    margins: { top: MARGIN, bottom: MARGIN, left: MARGIN, right: MARGIN },
    font: '',
    bufferPages: true,
    info: { Title: `Proof of ${report.title}`, Creator: 'Pontrel' },
  } as PDFKit.PDFDocumentOptions);
  const done = bytesOf(doc);
  new Pages(doc).write(report);
  doc.end();
  return done;
}

class Pages {
  private y = MARGIN;
  private readonly lettering: PdfText;

  constructor(private readonly doc: PDFKit.PDFDocument) {
    this.lettering = new PdfText(doc);
  }

  write({ title, of, verdict, sections, made }: Report): void {
    this.text('Pontrel · proof of a crossing', 'plain', 9, DAY.muted);
    this.text(title, 'bold', 20, DAY.ink);
    this.text(of, 'plain', 11, DAY.ink);
    this.y += 8;
    this.verdict(verdict);
    for (const section of sections) {
      this.room(100);
      this.y += 12;
      this.text(section.title, 'bold', 12, DAY.ink);
      this.y += 3;
      for (const block of section.blocks) this.block(block);
    }
    this.y += 10;
    this.block({ kind: 'table', head: [], rows: made });
    const { count } = this.doc.bufferedPageRange();
    for (let page = 0; page < count; page++) {
      this.doc.switchToPage(page);
      this.line(`${title} · page ${page + 1} of ${count}`, 'plain', 8, DAY.muted, MARGIN, HEIGHT - MARGIN + 14);
    }
  }

  private verdict({ good, title, text }: Report['verdict']): void {
    const lines = [
      ...this.wrapped(title, 'bold', 12, INNER - 24).map((l) => ({ l, face: 'bold' as Face, size: 12 })),
      ...this.wrapped(text, 'plain', 9.5, INNER - 24).map((l) => ({ l, face: 'plain' as Face, size: 9.5 })),
    ];
    const height = lines.reduce((n, { size }) => n + size * 1.4, 18);
    this.doc
      .roundedRect(MARGIN, this.y, INNER, height, 3)
      .fillAndStroke(good ? DAY.verdigrisTint : DAY.madderTint, good ? DAY.verdigrisLine : DAY.madderLine);
    let y = this.y + 9;
    for (const { l, face, size } of lines) {
      this.line(l, face, size, DAY.ink, MARGIN + 12, y);
      y += size * 1.4;
    }
    this.y += height + 4;
  }

  private block(b: Block): void {
    switch (b.kind) {
      case 'text':
        return this.text(b.text, 'plain', b.small ? 8.5 : 9.5, b.small ? DAY.muted : DAY.ink);
      case 'heading':
        this.room(KEPT + 20);
        this.y += 5;
        return this.text(b.text, 'bold', 9.5, DAY.ink);
      case 'table':
        return this.table(b.head, b.rows);
      case 'bars': {
        this.table(
          b.head,
          b.rows.map((r) => [{ n: r.name }, { n: r.count }]),
          [90, 80],
          (k, x, y) => {
            const row = b.rows[k]!;
            this.doc.roundedRect(x + 12, y + 2, Math.max(1, row.share * (INNER - 190)), 6, 1.5).fill(row.far ? DAY.madder : DAY.verdigris);
          },
        );
        return;
      }
      case 'picture':
        return this.picture(b);
    }
  }

  private picture({ picture, bar, caption }: Extract<Block, { kind: 'picture' }>): void {
    const scale = INNER / PICTURE.width,
      height = PICTURE.height * scale;
    this.room(height + 34);
    const { doc } = this;
    doc.save().translate(MARGIN, this.y).scale(scale);
    doc.rect(0, 0, PICTURE.width, PICTURE.height).fillAndStroke(DAY.map, DAY.ink);
    picture.paths.forEach(({ lines, points }, k) => {
      const color = k === 0 ? DAY.amberLine : DAY.verdigris;
      if (lines !== '')
        doc
          .path(lines)
          .lineWidth(k === 0 ? 2.4 : 0.9)
          .stroke(color);
      if (points !== '')
        doc
          .path(points)
          .lineCap('round')
          .lineWidth(k === 0 ? 4.5 : 2.2)
          .stroke(color);
    });
    doc
      .path(`M14 ${PICTURE.height - 16}v5H${14 + bar.px}v-5`)
      .lineWidth(1)
      .stroke(DAY.ink);
    doc.restore();
    this.line(bar.name, 'plain', 8, DAY.ink, MARGIN + 14 * scale, this.y + height - 26);
    this.y += height + 5;
    this.text(`Broad: the source. Thin: what was read back. ${caption}`, 'plain', 8.5, DAY.muted);
  }

  /** @param after draws behind a row, where its columns end */
  private table(
    head: readonly string[],
    rows: readonly (readonly Cell[])[],
    given?: readonly number[],
    after?: (row: number, x: number, y: number) => void,
  ): void {
    const columns = Math.max(head.length, ...rows.map((r) => r.length), 0);
    if (columns === 0) return;
    const widths = given ?? this.widths(head, rows, columns);
    const put = (cells: readonly Cell[], bold: boolean, index: number): void => {
      const lines = cells.map((c, k) => this.wrapped(textOf(c), faceOf(c, bold), sizeOf(c), widths[k]! - 8));
      const height = Math.max(1, ...lines.map((l) => l.length)) * 11 + 4;
      // what goes on on another page says there again what its columns are
      if (this.room(height) && index > 0 && head.length > 0) put(head, true, -1);
      let x = MARGIN;
      lines.forEach((cell, k) => {
        cell.forEach((l, n) => {
          const c = cells[k]!;
          const right = typeof c === 'object' && 'n' in c;
          this.line(
            l,
            faceOf(c, bold),
            sizeOf(c),
            DAY.ink,
            right ? x + widths[k]! - 8 - this.width(l, faceOf(c, bold), sizeOf(c)) : x,
            this.y + 2 + 11 * n,
          );
        });
        x += widths[k]!;
      });
      if (index >= 0) after?.(index, x, this.y + 2);
      this.doc
        .moveTo(MARGIN, this.y + height)
        .lineTo(MARGIN + INNER, this.y + height)
        .lineWidth(0.5)
        .stroke(bold ? DAY.line : DAY.hairline);
      this.y += height;
    };
    if (head.length > 0) {
      this.room(KEPT);
      put(head, true, -1);
    }
    rows.forEach((r, k) => put(r, false, k));
    this.y += 5;
  }

  /** As wide as what they hold, within the page: what is longer than its share is broken. */
  private widths(head: readonly string[], rows: readonly (readonly Cell[])[], columns: number): number[] {
    const wanted = Array.from(
      { length: columns },
      (_, k) =>
        Math.max(
          this.width(head[k] ?? '', 'bold', 8.5),
          ...rows.slice(0, 200).map((r) => this.width(textOf(r[k] ?? ''), faceOf(r[k] ?? '', false), sizeOf(r[k] ?? ''))),
        ) + 10,
    );
    const total = wanted.reduce((n, w) => n + w, 0);
    if (total <= INNER) return wanted;
    const share = INNER / columns;
    const small = wanted.filter((w) => w <= share).reduce((n, w) => n + w, 0),
      large = wanted.filter((w) => w > share).reduce((n, w) => n + w, 0);
    return wanted.map((w) => (w <= share ? w : ((INNER - small) * w) / large));
  }

  private text(text: string, face: Face, size: number, color: string): void {
    for (const l of this.wrapped(text, face, size, INNER)) {
      this.room(size * 1.4);
      this.line(l, face, size, color, MARGIN, this.y);
      this.y += size * 1.4;
    }
  }

  /** Goes on on another page where there is not as much room. @returns whether it did */
  private room(height: number): boolean {
    if (this.y + height <= HEIGHT - MARGIN) return false;
    this.doc.addPage();
    this.y = MARGIN;
    return true;
  }

  private width(text: string, face: Face, size: number): number {
    return this.lettering.width(text, face, size);
  }

  private line(text: string, face: Face, size: number, color: string, x: number, y: number): void {
    this.lettering.line(text, face, size, color, x, y);
  }

  /** Lines of a text within a width; what has no blank to break at is broken anywhere. */
  private wrapped(text: string, face: Face, size: number, width: number): string[] {
    const out: string[] = [];
    for (const paragraph of text.split('\n')) {
      let line = '';
      for (const word of paragraph.split(' ')) {
        const longer = line === '' ? word : `${line} ${word}`;
        if (this.width(longer, face, size) <= width) {
          line = longer;
          continue;
        }
        if (line !== '') out.push(line);
        line = '';
        for (const letter of word) {
          if (line !== '' && this.width(line + letter, face, size) > width) {
            out.push(line);
            line = '';
          }
          line += letter;
        }
      }
      out.push(line);
    }
    return out;
  }
}

const textOf = (c: Cell): string => (typeof c === 'string' ? c : 'n' in c ? c.n : c.code);
const faceOf = (c: Cell, bold: boolean): Face => (bold ? 'bold' : typeof c === 'object' && 'code' in c ? 'code' : 'plain');
const sizeOf = (c: Cell): number => (typeof c === 'object' && 'code' in c ? 7 : 8.5);
