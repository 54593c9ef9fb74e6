/** Who caused that a record stays behind: a person's choice, the reader, a rule that consumes records, the target's format, or its coordinate system. */
export type Cause = 'you' | 'reader' | 'rule' | 'format' | 'system';

/** Why a record stays behind. Readers and writers add their own by the codes of their findings. */
export interface Reason {
  /** Lower case with hyphens; for programs. */
  code: string;
  by: Cause;
  /** For people: what so many records are. */
  sentence(n: number): string;
}

const records = (n: number): string => `${n} ${n === 1 ? 'record' : 'records'}`;

/** The reasons that are not those of one format. */
export const REASONS = {
  layer: { code: 'layer', by: 'you', sentence: (n) => `${records(n)} of a layer that is not taken` },
  entity: { code: 'left-out', by: 'you', sentence: (n) => `${records(n)} of a type that is left out` },
  filter: { code: 'filtered', by: 'you', sentence: (n) => `${records(n)} not taken by the filter` },
  area: { code: 'outside-interest', by: 'you', sentence: (n) => `${records(n)} outside the area of interest` },
  duplicate: { code: 'duplicates', by: 'you', sentence: (n) => `${records(n)} with the geometry of one before` },
  transferred: { code: 'text-transferred', by: 'rule', sentence: (n) => `${n} ${n === 1 ? 'text' : 'texts'} given to objects as a field` },
  kind: { code: 'kind-not-carried', by: 'format', sentence: (n) => `${records(n)} of a kind that the format cannot hold` },
  noGeometry: { code: 'no-geometry', by: 'format', sentence: (n) => `${records(n)} without geometry, which the format cannot hold` },
  noImage: { code: 'no-image', by: 'system', sentence: (n) => `${records(n)} where the target system has no coordinates` },
  offPicture: { code: 'off-picture', by: 'you', sentence: (n) => `${records(n)} outside the picture` },
  scale: { code: 'scale', by: 'rule', sentence: (n) => `${records(n)} of a layer whose style does not show it at this scale` },
  drawsNothing: {
    code: 'draws-nothing',
    by: 'rule',
    sentence: (n) => `${records(n)} ${n === 1 ? 'draws' : 'draw'} nothing: texts without letters, or wholly transparent`,
  },
  notPlaced: { code: 'not-placed', by: 'you', sentence: (n) => `${records(n)} that ${n === 1 ? 'is' : 'are'} not placed` },
} as const satisfies Record<string, Reason>;
