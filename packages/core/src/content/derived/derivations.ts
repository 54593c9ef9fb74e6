import { NETWORK } from '../networks/network-derivation';
import { PROFILE } from '../networks/profile-derivation';
import { AREAS } from '../parcels/measures';
import { MEND } from '../parcels/mend';
import { POLYGONIZE } from '../parcels/polygonize';
import { SIDES } from '../parcels/sides';
import { TOPOLOGY } from '../parcels/topology';
import { HEIGHTS } from '../surfaces/heights';
import { CONTOURS } from '../surfaces/contour-lines';
import { SURFACE_OF } from '../surfaces/ground-surface';
import { DRAPE } from '../surfaces/records-on-ground';
import { VOLUME } from '../surfaces/volumes';
import { TRAVERSE } from '../parcels/traverse';
import type { Derivation } from './derivation';

/** What can be worked out of whole layers. */
export const DERIVATIONS: readonly Derivation[] = [
  POLYGONIZE,
  TOPOLOGY,
  MEND,
  AREAS,
  SIDES,
  TRAVERSE,
  NETWORK,
  PROFILE,
  SURFACE_OF,
  CONTOURS,
  DRAPE,
  HEIGHTS,
  VOLUME,
];

/** The operation of that name. */
export const derivationById = (id: string): Derivation | undefined => DERIVATIONS.find((d) => d.id === id);
