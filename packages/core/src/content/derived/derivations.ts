import { MEND } from '../parcels/mend';
import { POLYGONIZE } from '../parcels/polygonize';
import { TOPOLOGY } from '../parcels/topology';
import type { Derivation } from './derivation';

/** What can be worked out of whole layers. */
export const DERIVATIONS: readonly Derivation[] = [POLYGONIZE, TOPOLOGY, MEND];

/** The operation of that name. */
export const derivationById = (id: string): Derivation | undefined => DERIVATIONS.find((d) => d.id === id);
