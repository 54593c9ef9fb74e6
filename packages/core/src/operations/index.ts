import { areaOfInterest } from './area-of-interest';
import { blocks } from './blocks';
import { constants } from './constants';
import { dropDuplicates } from './drop-duplicates';
import { fills } from './fills';
import { filter } from './filter';
import { joined } from './join';
import type { LayerRule } from './layer-rule';
import type { Operation } from './operation';
import { retype } from './retype';
import { simplify } from './simplify';
import { byFields } from './target-layer';
import { textTransfer } from './text-transfer';
import { values } from './values';

/**
 * Every operation, in the order in which they are applied: texts find their objects before anything is left out, fields of tables are
 * there for filters, and what is left out is left out before shapes are worked on.
 */
export const OPERATIONS = [
  textTransfer,
  joined,
  areaOfInterest,
  filter,
  dropDuplicates,
  byFields,
  blocks,
  fills,
  simplify,
  values,
  constants,
  retype,
] as readonly Operation<unknown, object, LayerRule>[];
