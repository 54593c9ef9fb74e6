import { Button, Flex } from '@chakra-ui/react';
import type { SourceState, UnitQuestion } from '@pontrel/contract/crossing';
import type { Placement } from '@pontrel/core/placement/placement';
import { sameLength, unitsOfLength } from '@pontrel/core/placement/ratio';
import { Note } from '../components/parts';

/** What a placement keeps when somebody settles the unit of a source. */
export const settledBy = (source: Pick<SourceState, 'unit'>): Pick<Placement, 'settled_m'> =>
  source.unit ? { settled_m: source.unit.metres } : {};

/** Asks which of two units the numbers of a source are in, and says how far apart they put it. */
export function UnitNote({
  question: { message, stated, own },
  unit_m,
  onSettle,
}: {
  question: UnitQuestion;
  /** As its numbers are taken now; null for the unit of the system. */
  unit_m: number | null;
  onSettle(unit_m: number | null): void;
}) {
  const asStated = unit_m !== null && sameLength(unit_m, stated.metres);
  return (
    <Note
      tone="caution"
      mt="8px"
      actions={
        <Flex gap="6px" wrap="wrap">
          <Button size="sm" aria-pressed={!asStated} variant={asStated ? 'outline' : 'solid'} onClick={() => onSettle(null)}>
            They are {unitsOfLength(own.metres)}
          </Button>
          <Button size="sm" aria-pressed={asStated} variant={asStated ? 'solid' : 'outline'} onClick={() => onSettle(stated.metres)}>
            They are {unitsOfLength(stated.metres)}
          </Button>
        </Flex>
      }
    >
      {message} Which is it?
    </Note>
  );
}
