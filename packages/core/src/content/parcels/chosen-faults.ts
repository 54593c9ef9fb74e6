import type { FaultCode } from '../derived/fault';
import type { FormatOption } from '../../formats/format-option';

/** A fault that somebody has chosen to be mended. */
export interface ChosenFault {
  kind: FaultCode;
  /** x and y in the plane that is worked in. */
  at: readonly [number, number];
  about: string;
}

/** Faults that are a piece of the plane that no area has, or several have. */
const OF_PIECES: ReadonlySet<FaultCode> = new Set(['gap', 'overlap', 'duplicate']);

/** Faults of one outline by itself, which the area that they are about has no more when it is put together anew. */
const OF_OUTLINES: ReadonlySet<FaultCode> = new Set(['self-crossing', 'self-touch', 'spike', 'repeated-vertex']);

/** Whether a fault can be mended by itself. */
export const isMendable = (kind: FaultCode): boolean => OF_PIECES.has(kind) || OF_OUTLINES.has(kind);

/** Whether it is a piece of the plane. */
export const isOfPiece = ({ kind }: ChosenFault): boolean => OF_PIECES.has(kind);
/** Whether it is an outline’s own. */
export const isOfOutline = ({ kind }: ChosenFault): boolean => OF_OUTLINES.has(kind);

/** The faults that are mended; all that there are where it is "". Nobody types it: they are chosen on the map. */
export const CHOSEN: FormatOption = {
  id: 'only',
  label: 'Only these faults',
  when: () => false,
  kind: 'text',
  asks: 'text',
  hint: 'all',
};

/** Chosen faults as a setting has them: one a line, its kind, where it is, and what it is about. */
export const chosenText = (faults: readonly ChosenFault[]): string =>
  faults.map(({ kind, at: [x, y], about }) => `${kind} ${x} ${y} ${about.replace(/\s+/g, ' ')}`.trim()).join('\n');

/** The inverse of {@link chosenText}; null where nothing is chosen. Lines that are none are passed over. */
export function chosenFaults(text: string): ChosenFault[] | null {
  if (text === '') return null;
  return text.split('\n').flatMap((line) => {
    const [, kind, x, y, about] = /^(\S+) (\S+) (\S+)(?: (.*))?$/.exec(line) ?? [];
    return kind && isMendable(kind as FaultCode) && Number.isFinite(Number(x)) && Number.isFinite(Number(y))
      ? [{ kind: kind as FaultCode, at: [Number(x), Number(y)] as const, about: about ?? '' }]
      : [];
  });
}
