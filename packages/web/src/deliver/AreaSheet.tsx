import { useCallback, useMemo, useState } from 'react';
import { Box, Button, Flex } from '@chakra-ui/react';
import { Check, Undo2 } from 'lucide-react';
import { useCrossing } from '../crossing/use-crossing';
import type { Taking } from '../map/map-tool';
import { PlanSheet } from '../map/PlanSheet';
import { sourceTiles, useFrame } from '../map/use-frame';
import { plural } from '../components/numbers';
import { ICON, Muted } from '../components/parts';

type Corner = [number, number];

/** The map, on which the corners of an area are set one after the other. */
export function AreaSheet({ onDone, onCancel }: { onDone(ring: Corner[]): void; onCancel(): void }) {
  const crossing = useCrossing();
  const frame = useFrame(crossing);
  const [corners, setCorners] = useState<Corner[]>([]);
  const layers = useMemo(() => [{ ...sourceTiles(crossing, () => ({ color: null })), key: 'sources' }], [crossing]);
  const enough = corners.length >= 3;
  const snap = useCallback(
    (x: number, y: number, reach: number): Promise<Corner | null> => {
      const [first] = corners;
      return Promise.resolve(first && corners.length >= 3 && Math.hypot(first[0] - x, first[1] - y) <= reach ? first : null);
    },
    [corners],
  );
  const taking: Taking = {
    prompt: enough ? 'Next corner, or the first one again to close the area' : `Corner ${corners.length + 1} of the area`,
    snap,
    take: (x, y, caught) => (caught ? onDone(corners) : setCorners([...corners, [x, y]])),
    cancel: onCancel,
  };
  if (!frame) return null;
  const card = (
    <Box bg="surface" borderWidth="1px" borderColor="ink" borderRadius="sheet" p="9px">
      <Muted display="block" mb="7px">
        {corners.length === 0 ? 'Click the corners one after the other.' : plural(corners.length, 'corner')}
      </Muted>
      <Flex gap="8px">
        <Button size="sm" variant="solid" disabled={!enough} onClick={() => onDone(corners)}>
          <Check {...ICON} size={14} />
          Use this area
        </Button>
        <Button size="sm" disabled={corners.length === 0} onClick={() => setCorners(corners.slice(0, -1))}>
          <Undo2 {...ICON} size={14} />
          Take back
        </Button>
        <Button size="sm" variant="ghost" onClick={onCancel}>
          Cancel
        </Button>
      </Flex>
    </Box>
  );
  return (
    <PlanSheet
      crossing={crossing.id}
      frame={frame}
      layers={layers}
      extent={crossing.frameExtent}
      fitKey="area"
      picked={null}
      onPick={() => {}}
      taking={taking}
      outline={enough ? [...corners.flat(), ...corners[0]!] : corners.flat()}
      card={card}
    />
  );
}
