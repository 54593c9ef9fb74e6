import type { Finding } from '../../model/finding';

/** What the size of a fault is measured in. */
export type FaultUnit = 'm' | 'm2' | 'percent';

interface FaultKind {
  /** What a person calls one of them. */
  title: string;
  /** What its size is; null where it has none. */
  of: FaultUnit | null;
  severity: 'caution' | 'wrong';
  /** The sentence of the finding that sums them up. */
  message: string;
}

/** What may be wrong with records that are to hold together. The keys are the codes of their findings. */
export const FAULTS = {
  'line-loose': {
    title: 'Line with a loose end',
    of: 'm',
    severity: 'caution',
    message: 'Lines have a loose end: they bound no area.',
  },
  'line-between': {
    title: 'Line between two parts',
    of: 'm',
    severity: 'caution',
    message: 'Lines lead from one part to another: they bound no area.',
  },
  'line-extended': {
    title: 'Line extended',
    of: 'm',
    severity: 'caution',
    message: 'Lines were extended until they meet another one.',
  },
  'line-trimmed': { title: 'Overshoot trimmed', of: 'm', severity: 'caution', message: 'Ends of lines beyond a crossing were trimmed.' },
  'label-outside': {
    title: 'Label in no area',
    of: null,
    severity: 'caution',
    message: 'Labels stand in no area: their values go nowhere.',
  },
  'label-on-line': {
    title: 'Label on a line',
    of: null,
    severity: 'caution',
    message: 'Labels stand on a line: which area they mean is not certain.',
  },
  'no-label': { title: 'Area without a label', of: null, severity: 'caution', message: 'Areas have no label.' },
  'labels-differ': {
    title: 'Area with two labels',
    of: null,
    severity: 'caution',
    message: 'Areas have two labels that tell different things in one field: they get both, one below the other.',
  },
  overlap: { title: 'Overlap', of: 'm2', severity: 'wrong', message: 'Areas overlap.' },
  duplicate: { title: 'Area there twice', of: 'm2', severity: 'wrong', message: 'Areas are there twice.' },
  gap: { title: 'Gap', of: 'm2', severity: 'wrong', message: 'Gaps lie between areas.' },
  sliver: { title: 'Sliver', of: 'm', severity: 'caution', message: 'Areas are narrower than a sliver may be.' },
  'self-crossing': { title: 'Outline crosses itself', of: null, severity: 'wrong', message: 'Outlines cross themselves.' },
  'self-touch': {
    title: 'Outline meets itself',
    of: null,
    severity: 'caution',
    message: 'Outlines come back to one of their own corners.',
  },
  spike: { title: 'Spike', of: 'm', severity: 'caution', message: 'Outlines run out and back along one line.' },
  collapsed: { title: 'Outline encloses nothing', of: null, severity: 'wrong', message: 'Outlines have fewer than three corners.' },
  'repeated-vertex': { title: 'Vertex repeated', of: null, severity: 'caution', message: 'Vertices are repeated one after the other.' },
  unclosed: {
    title: 'Outline not closed',
    of: 'm',
    severity: 'wrong',
    message: 'Lines end close to where they began, and are not closed.',
  },
  'corner-near': {
    title: 'Corner nearly met',
    of: 'm',
    severity: 'caution',
    message: 'Corners lie close to the outline of a neighbour without meeting it.',
  },
  'gap-filled': { title: 'Gap filled', of: 'm2', severity: 'caution', message: 'Gaps were given to a neighbour.' },
  'overlap-settled': { title: 'Overlap settled', of: 'm2', severity: 'caution', message: 'Overlaps were given to one of their areas.' },
  'area-gone': {
    title: 'Area gone',
    of: null,
    severity: 'wrong',
    message: 'Areas have nothing left: all of each went to others, or is within the tolerance of nothing.',
  },
  'area-differs': {
    title: 'Area not as stated',
    of: 'm2',
    severity: 'caution',
    message: 'Areas differ from what is stated of them by more than the tolerance.',
  },
  misclosure: { title: 'Does not close', of: 'm', severity: 'wrong', message: 'A traverse misses its end by more than it may.' },
  'two-heights': {
    title: 'Two heights at one place',
    of: 'm',
    severity: 'wrong',
    message: 'Places have two heights: that of the first point holds.',
  },
  'breaklines-cross': {
    title: 'Lines cross at two heights',
    of: 'm',
    severity: 'wrong',
    message: 'Breaklines or contours cross at different heights: the mean of both holds there.',
  },
  'triangles-overlap': {
    title: 'Triangles overlap',
    of: null,
    severity: 'wrong',
    message: 'Triangles have a side that another one has on the same hand: they are left out.',
  },
  upright: {
    title: 'Triangle without an area',
    of: null,
    severity: 'caution',
    message: 'Triangles have no area seen from above: they are left out.',
  },
  'spike-height': { title: 'Height stands out', of: 'm', severity: 'caution', message: 'Heights stand out of all those around them.' },
  'off-surface': {
    title: 'Outside the ground',
    of: null,
    severity: 'caution',
    message: 'Records lie outside the surface, at least in part: there they get no height.',
  },
  'outline-beyond': {
    title: 'Outline beyond the surface',
    of: 'm2',
    severity: 'wrong',
    message: 'Outlines reach beyond a surface: what lies there has no volume.',
  },
  'height-none': {
    title: 'No height found',
    of: null,
    severity: 'caution',
    message: 'Nothing says how high records lie: they stay as they are.',
  },
  'height-odd': {
    title: 'Height not plausible',
    of: 'm',
    severity: 'wrong',
    message: 'Heights lie outside what is plausible: these records stay as they are.',
  },
  floats: { title: 'Floats', of: 'm', severity: 'caution', message: 'Records float above the surface by more than the tolerance.' },
  buried: { title: 'Buried', of: 'm', severity: 'caution', message: 'Records lie below the surface by more than the tolerance.' },
  'end-moved': {
    title: 'End beside its structure',
    of: 'm',
    severity: 'caution',
    message: 'Ends of pipes lay beside their structure: they were moved there.',
  },
  'end-open': {
    title: 'End without a structure',
    of: 'm',
    severity: 'wrong',
    message: 'Ends of pipes meet no structure; the size is how far the next one is.',
  },
  'structure-missing': { title: 'Structure missing', of: null, severity: 'wrong', message: 'Pipes meet where there is no structure.' },
  'structure-alone': { title: 'Structure without a pipe', of: null, severity: 'caution', message: 'Structures have no pipe.' },
  'structure-twice': {
    title: 'Structure drawn twice',
    of: 'm',
    severity: 'wrong',
    message: 'Structures lie within the tolerance of each other.',
  },
  'structure-passed': {
    title: 'Structure passed by',
    of: null,
    severity: 'wrong',
    message: 'Pipes go through a structure without ending there.',
  },
  'pipe-twice': { title: 'Pipe drawn twice', of: null, severity: 'wrong', message: 'Pipes are there twice.' },
  'pipes-cross': { title: 'Pipes cross', of: null, severity: 'caution', message: 'Pipes cross without a structure.' },
  'against-slope': { title: 'Flows against its slope', of: 'm', severity: 'wrong', message: 'Pipes rise the way that they are drawn.' },
  'no-slope': { title: 'Pipe without a slope', of: 'percent', severity: 'caution', message: 'Pipes lie level.' },
  'no-diameter': {
    title: 'Pipe without a diameter',
    of: null,
    severity: 'caution',
    message: 'Neither a field nor a text says how wide pipes are.',
  },
  'above-rim': { title: 'Invert above the rim', of: 'm', severity: 'wrong', message: 'Inverts lie above the rim of their structure.' },
  'below-sump': { title: 'Invert below the sump', of: 'm', severity: 'caution', message: 'Inverts lie below the sump of their structure.' },
  'flow-loop': { title: 'Flow in a loop', of: null, severity: 'wrong', message: 'Water that goes through these pipes comes back to them.' },
  'reference-differs': {
    title: 'Reference differs',
    of: null,
    severity: 'wrong',
    message: 'Pipes say that they lead from or to another structure than the one that they meet.',
  },
} as const satisfies Record<string, FaultKind>;

export type FaultCode = keyof typeof FAULTS;

/** What a kind of faults is. */
export const faultKind = (code: FaultCode): FaultKind => FAULTS[code];

/** One place where records do not hold together. */
export interface Fault {
  kind: FaultCode;
  /** x and y in the plane that was worked in. */
  at: [number, number];
  /** In metres, square metres or percent, as its kind says. */
  size: number | null;
  /** The records that it is about, for people; "" where that goes without saying. */
  about: string;
}

/** The size of a fault for people; "" where it has none. Less than a metre is told in millimetres. */
export function faultSize({ kind, size }: Pick<Fault, 'kind' | 'size'>): string {
  const { of } = faultKind(kind);
  if (of === null || size === null) return '';
  if (of === 'percent') return `${Number(size.toPrecision(3))} %`;
  if (of === 'm2') return `${Number(size.toPrecision(4))} m²`;
  return size < 1 ? `${Number((1000 * size).toPrecision(3))} mm` : `${size.toFixed(2)} m`;
}

/** A place as findings write it. */
export const atText = (at: readonly [number, number]): string => at.map((v) => v.toFixed(3)).join(' ');

/** One finding a kind of faults, with the largest one. */
export function faultFindings(faults: readonly Fault[]): Finding[] {
  const byKind = new Map<FaultCode, Fault[]>();
  for (const fault of faults) {
    const own = byKind.get(fault.kind);
    if (own) own.push(fault);
    else byKind.set(fault.kind, [fault]);
  }
  return [...byKind].map(([code, own]): Finding => {
    const { severity, message, of } = faultKind(code);
    const largest = own.reduce((a, b) => ((b.size ?? 0) > (a.size ?? 0) ? b : a));
    const which = of === null ? 'The first is' : `The largest has ${faultSize(largest)},`;
    const about = largest.about === '' ? '' : ` (${largest.about})`;
    return {
      code,
      severity,
      message: `${message} ${which} at ${atText(largest.at)}${about}.`,
      count: own.length,
      location: atText(largest.at),
    };
  });
}
