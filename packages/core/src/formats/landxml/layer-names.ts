import type { Part } from './set-roles';

/** What the layers of a file are called where its elements have no name. */
export const UNNAMED = {
  CgPoints: 'Points',
  Parcels: 'Parcels',
  Alignments: 'Alignments',
  PlanFeatures: 'Plan features',
  Surface: 'Surface',
  PipeNetwork: 'Network',
} as const;

/** The layer of a part of a group: of what has parts, the name says which. */
export const layerOf = (group: string, part: Part): string =>
  part === 'structures' || part === 'pipes' || part === 'breaklines' || part === 'contours' ? `${group} ${part}` : group;
