import { useCallback, useEffect, useMemo, useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { type Crs, isOnEarth, northUp } from '@pontrel/core/crs/crs';
import { length } from '../components/numbers';
import { Mono, Muted } from '../components/parts';
import { askCrs } from './ask-crs';
import { frameUnit } from './frame-map';

export interface Measure {
  on: boolean;
  /** x, y pairs in the frame; the last one follows the pointer. */
  line: number[];
  /** Points that were set. */
  points: number[];
  /** How many of them were caught by a vertex. */
  caught: number;
  toggle(): void;
  clear(): void;
  /** Sets a point; a vertex within `reach` (units of the frame) takes it exactly. */
  add(x: number, y: number, reach: number): void;
  hover(x: number, y: number): void;
}

export function useMeasure(crossing: string, frame: Crs): Measure {
  const [on, setOn] = useState(false);
  const [points, setPoints] = useState<number[]>([]);
  const [caught, setCaught] = useState(0);
  const [pointer, setPointer] = useState<[number, number] | null>(null);
  const clear = useCallback(() => {
    setPoints([]);
    setCaught(0);
    setPointer(null);
  }, []);
  const toggle = useCallback(() => {
    setOn((was) => !was);
    clear();
  }, [clear]);
  useEffect(clear, [frame, clear]);
  const add = useCallback(
    (x: number, y: number, reach: number) => {
      void nearestVertex(crossing, x, y, reach).then((vertex) => {
        setPoints((p) => [...p, ...(vertex ?? [x, y])]);
        if (vertex) setCaught((n) => n + 1);
      });
    },
    [crossing],
  );
  const hover = useCallback((x: number, y: number) => setPointer([x, y]), []);
  const line = useMemo(() => (on && points.length > 0 && pointer ? [...points, ...pointer] : points), [on, points, pointer]);
  return { on, line: on ? line : [], points, caught, toggle, clear, add, hover };
}

/** The vertex of the sources that is nearest to a place, to full precision; null when none is within reach. */
export async function nearestVertex(crossing: string, x: number, y: number, reach: number): Promise<[number, number] | null> {
  const response = await fetch(`/api/crossings/${crossing}/vertex?x=${x}&y=${y}&reach=${reach}`);
  return response.ok ? ((await response.json()) as { vertex: [number, number] | null }).vertex : null;
}

/** The distance so far: in the plane of the frame, and along the ellipsoid. */
export function MeasureCard({ measure, frame }: { measure: Measure; frame: Crs }) {
  const { points } = measure;
  const unit = frameUnit(frame);
  const [ground, setGround] = useState<{ total_m: number; last_m: number; bearing: number } | null>(null);
  useEffect(() => {
    let current = true;
    setGround(null);
    if (points.length >= 4) void askCrs({ ask: 'distance', frame: northUp(frame), points }).then((g) => current && setGround(g));
    return () => {
      current = false;
    };
  }, [points, frame]);
  let plane = 0;
  for (let i = 0; i + 3 < points.length; i += 2) plane += Math.hypot(points[i + 2]! - points[i]!, points[i + 3]! - points[i + 1]!);
  return (
    <Box
      position="absolute"
      left="8px"
      top="8px"
      w="250px"
      bg="surface"
      borderWidth="1px"
      borderColor="line"
      borderRadius="sheet"
      px="10px"
      py="8px"
      role="status"
      aria-label="Measurement"
    >
      <Flex justify="space-between" align="center" mb="2px">
        <Text textStyle="section">Distance</Text>
        {points.length > 0 && (
          <Button size="sm" variant="ghost" h="20px" px="4px" onClick={measure.clear}>
            Again
          </Button>
        )}
      </Flex>
      {points.length < 4 ? (
        <Muted textStyle="small">Click two or more points. A vertex nearby catches the point exactly.</Muted>
      ) : (
        <Grid templateColumns="92px 1fr" rowGap="2px">
          {unit !== null && (
            <>
              <Muted>in the plane</Muted>
              <Mono textAlign="right" fontWeight={600}>
                {length(plane * unit)}
              </Mono>
            </>
          )}
          {isOnEarth(frame) && (
            <>
              <Muted>on the ellipsoid</Muted>
              <Mono textAlign="right">{ground ? length(ground.total_m) : '…'}</Mono>
            </>
          )}
          <Muted>last bearing</Muted>
          <Mono textAlign="right">{ground && Number.isFinite(ground.bearing) ? `${ground.bearing.toFixed(4)}°` : '…'}</Mono>
          <Muted textStyle="small" gridColumn="1 / -1">
            {measure.caught} of {points.length / 2} points on a vertex
          </Muted>
        </Grid>
      )}
    </Box>
  );
}
