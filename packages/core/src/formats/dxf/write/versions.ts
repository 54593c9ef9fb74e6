/** What a version of the format can say. Source: DXF Reference of each, and for R12 its chapter on the old form. */
export interface Version {
  id: 'R12' | 'R2000' | 'R2010' | 'R2018';
  /** $ACADVER */
  mark: string;
  /** Subclass marks, owners, LWPOLYLINE, MTEXT, HATCH, line weights, layouts: everything since R13. */
  modern: boolean;
  trueColor: boolean;
  /** Text is UTF-8; otherwise what is not ASCII is escaped. */
  utf8: boolean;
  /** Has a geographic location object. */
  located: boolean;
}

/** The versions that are written; the first is the one where nothing is said. */
export const WRITTEN: readonly Version[] = [
  { id: 'R2010', mark: 'AC1024', modern: true, trueColor: true, utf8: true, located: true },
  { id: 'R2018', mark: 'AC1032', modern: true, trueColor: true, utf8: true, located: true },
  { id: 'R2000', mark: 'AC1015', modern: true, trueColor: false, utf8: false, located: false },
  { id: 'R12', mark: 'AC1009', modern: false, trueColor: false, utf8: false, located: false },
];
