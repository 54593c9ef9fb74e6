import { Button } from '@chakra-ui/react';
import { Link } from 'react-router';
import { type Stage, STAGE_NAMES } from '../app/stages';
import { useCrossing } from '../crossing/use-crossing';

/** The way to another stage, where this one has nothing to show. */
export function GoTo({ stage, solid }: { stage: Stage; solid?: boolean }) {
  const { id } = useCrossing();
  return (
    <Button asChild variant={solid ? 'solid' : 'outline'}>
      <Link to={`/crossings/${id}/${stage}`}>Go to {STAGE_NAMES[stage]}</Link>
    </Button>
  );
}
