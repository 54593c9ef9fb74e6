import type { Placement } from '@pontrel/core/placement/placement';
import { useEffect, useState } from 'react';
import { Box, Button, Flex, Grid, Input } from '@chakra-ui/react';
import { Ruler } from 'lucide-react';
import type { SourceState } from '@pontrel/contract/crossing';
import { metresPerUnit } from '@pontrel/core/crs/crs';
import { unitBehind } from '@pontrel/core/placement/ratio';
import { useChange, useCrossing, sourceRules } from '../crossing/use-crossing';
import { lengthText, useLengthUnit } from '../components/length-unit';
import { parseLength } from '@pontrel/core/io/length-text';
import { ICON, Mono, Muted, Note, Section } from '../components/parts';
import { unitsOfLength } from '@pontrel/core/placement/ratio';
import type { PlaceMap } from './use-place-map';

type XY = [number, number];

/** A distance in the drawing that is known: what it measures, what it should be, and which mistake about units lies between. */
export function KnownDistance({
  source,
  map,
  unit_m,
  onUnit,
}: {
  source: SourceState;
  map: PlaceMap;
  unit_m: number | null;
  onUnit(metres: number): void;
}) {
  const crossing = useCrossing();
  const change = useChange();
  const placement: Placement | null = crossing.recipe.sources[source.name]?.placement ?? null;
  const [points, setPoints] = useState<XY[]>([]);
  const [text, setText] = useState('');
  const { frame, toMap, overlay } = map;
  const onMap = placement !== null && placement.fit !== undefined;
  useEffect(() => {
    overlay({
      marks: onMap ? points.map((p, i) => ({ x: toMap(p)[0], y: toMap(p)[1], tone: 'oxide', label: 'AB'[i]! })) : [],
      vectors: [],
    });
    return () => overlay({ marks: [], vectors: [] });
  }, [points, onMap, overlay, toMap]);
  // numbers of the drawing are measured in its own unit; of a fitted one in the frame
  const frame_m = frame ? metresPerUnit(frame, null) : 1;
  const taken_m = onMap ? frame_m : (unit_m ?? placement?.unit_m ?? frame_m);
  const measured = points.length === 2 ? Math.hypot(points[1]![0] - points[0]![0], points[1]![1] - points[0]![1]) * taken_m : null;
  const unit = useLengthUnit();
  const known = parseLength(text, unit.symbol);
  const ratio = measured && known ? known / measured : null;
  const cause = ratio ? unitBehind(ratio, taken_m) : null;
  const right = ratio !== null && Math.abs(ratio - 1) < 1e-3;
  const measure = async (): Promise<void> => {
    setPoints([]);
    const of = onMap ? 'map' : 'drawing';
    const a = await map.take('Click one end of the distance', of);
    if (!a) return;
    setPoints([a]);
    const b = await map.take('Click the other end', of);
    if (b) setPoints([a, b]);
  };
  const correct = (): void => {
    if (!ratio) return;
    if (onMap) {
      // the first end stays, and the drawing grows about it
      const factor = cause?.ratio ?? ratio;
      change(`scale ${source.name} by a known distance`, (draft) => {
        const rules = sourceRules(draft, source.name);
        const [cx, cy] = points[0]!;
        for (const p of rules.placement!.fit!.pairs) p.to = [cx + (p.to[0] - cx) * factor, cy + (p.to[1] - cy) * factor];
        if (rules.placement!.fit!.kind === 'rigid') rules.placement!.fit!.kind = 'similarity';
      });
    } else {
      const metres = taken_m * (cause?.ratio ?? ratio);
      onUnit(metres);
      if (placement)
        change(`unit of ${source.name} by a known distance`, (draft) => void (sourceRules(draft, source.name).placement!.unit_m = metres));
    }
    setPoints([]);
    setText('');
  };
  return (
    <Section title="Known distance" aside={onMap ? 'in the frame' : `taken as ${unitsOfLength(taken_m)}`}>
      <Muted textStyle="small" display="block" mb="7px">
        Measure between two vertices whose distance is written on the plan, or that you have taped, and type what it should be.
      </Muted>
      {map.taking ? (
        <Button size="sm" onClick={map.stopTaking}>
          Stop
        </Button>
      ) : (
        <Button size="sm" onClick={() => void measure()}>
          <Ruler {...ICON} size={14} />
          {points.length === 2 ? 'Measure again' : 'Measure'}
        </Button>
      )}
      <Grid templateColumns="1fr 130px" rowGap="6px" mt="9px" alignItems="center">
        <Muted>measures</Muted>
        <Mono fontWeight={600} textAlign="right" data-testid="measured">
          {measured === null ? '–' : lengthText(measured, unit)}
        </Mono>
        <Muted>should be</Muted>
        <Input
          aria-label="What the distance should be"
          placeholder="25.4 m, 100 ft, 2 ch"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </Grid>
      {text !== '' && known === null && <Muted textStyle="small">A length with its unit: 25.4 m, 100 ft, 2 ch.</Muted>}
      {right && (
        <Note tone="good" mt="8px">
          The distance agrees, within {(Math.abs(ratio - 1) * 1e6).toFixed(0)} ppm.
        </Note>
      )}
      {ratio !== null && !right && (
        <Box mt="8px">
          <Note tone={cause ? 'caution' : 'wrong'}>
            {cause
              ? cause.message
              : `No mistake about units explains the ratio ${ratio.toPrecision(6)}. Check both ends; scaled prints and warped paper are better fitted by control points.`}
          </Note>
          <Flex mt="7px">
            <Button variant={cause ? 'solid' : 'outline'} size="sm" onClick={correct}>
              {cause ? `Take them as ${unitsOfLength(taken_m * cause.ratio)}` : `Scale by ${ratio.toPrecision(6)} all the same`}
            </Button>
          </Flex>
        </Box>
      )}
    </Section>
  );
}
