import { useCallback, useEffect, useMemo, useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { type Crs, isOnEarth, northUp } from '@pontrel/core/crs/crs';
import { areaText, lengthText, lengthUnit } from '../components/length-unit';
import { plural } from '../components/numbers';
import { Mono, Muted } from '../components/parts';
import { askCrs } from './ask-crs';
import { nearestVertex } from './ask-place';
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
  nearest(x: number, y: number, reach: number): Promise<[number, number] | null>;
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
  const nearest = useCallback((x: number, y: number, reach: number) => nearestVertex(crossing, x, y, reach), [crossing]);
  const add = useCallback(
    (x: number, y: number, reach: number) => {
      void nearest(x, y, reach).then((vertex) => {
        setPoints((p) => [...p, ...(vertex ?? [x, y])]);
        if (vertex) setCaught((n) => n + 1);
      });
    },
    [nearest],
  );
  const hover = useCallback((x: number, y: number) => setPointer([x, y]), []);
  const line = useMemo(() => (on && points.length > 0 && pointer ? [...points, ...pointer] : points), [on, points, pointer]);
  return { on, line: on ? line : [], points, caught, toggle, clear, add, hover, nearest };
}

/** The distance so far, and the area that it encloses: in the plane of the frame, and on the ellipsoid. */
export function MeasureCard({ measure, frame }: { measure: Measure; frame: Crs }) {
  const { points, line } = measure;
  const metres = frameUnit(frame);
  const unit = lengthUnit(metres);
  const [ground, setGround] = useState<{ total_m: number; last_m: number; bearing: number } | null>(null);
  const [area, setArea] = useState<number | null>(null);
  useEffect(() => {
    let current = true;
    setGround(null);
    setArea(null);
    if (points.length >= 4) void askCrs({ ask: 'distance', frame: northUp(frame), points }).then((g) => current && setGround(g));
    if (points.length >= 6) void askCrs({ ask: 'area', frame: northUp(frame), points }).then((g) => current && setArea(g.area_m2));
    return () => {
      current = false;
    };
  }, [points, frame]);
  const [dx, dy] = line.length >= 4 ? [line.at(-2)! - line.at(-4)!, line.at(-1)! - line.at(-3)!] : [0, 0];
  return (
    <Box
      position="absolute"
      left="8px"
      top="8px"
      w="264px"
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
      {points.length < 2 ? (
        <Muted textStyle="small">
          Click two or more points; from three on there is an area. A vertex nearby catches the point exactly.
        </Muted>
      ) : (
        <Grid templateColumns="104px 1fr" rowGap="2px">
          {metres !== null && (
            <>
              <Muted>to the pointer</Muted>
              <Mono textAlign="right">{lengthText(Math.hypot(dx, dy) * metres, unit)}</Mono>
              <Muted>in the plane</Muted>
              <Mono textAlign="right" fontWeight={600}>
                {lengthText(planeLength(points) * metres, unit)}
              </Mono>
            </>
          )}
          {points.length >= 4 && isOnEarth(frame) && (
            <>
              <Muted>on the ellipsoid</Muted>
              <Mono textAlign="right">{ground ? lengthText(ground.total_m, unit) : '…'}</Mono>
            </>
          )}
          {points.length >= 4 && (
            <>
              <Muted>last bearing</Muted>
              <Mono textAlign="right">{ground && Number.isFinite(ground.bearing) ? `${ground.bearing.toFixed(4)}°` : '…'}</Mono>
            </>
          )}
          {points.length >= 6 && (
            <>
              <Text textStyle="section" gridColumn="1 / -1" mt="4px">
                Area
              </Text>
              {metres !== null && (
                <>
                  <Muted>in the plane</Muted>
                  <Mono textAlign="right" fontWeight={600}>
                    {areaText(planeArea(points) * metres ** 2, unit)}
                  </Mono>
                </>
              )}
              {isOnEarth(frame) && (
                <>
                  <Muted>on the ellipsoid</Muted>
                  <Mono textAlign="right">{area === null ? '…' : areaText(area, unit)}</Mono>
                </>
              )}
            </>
          )}
          <Muted textStyle="small" gridColumn="1 / -1">
            {measure.caught} of {plural(points.length / 2, 'point')} on a vertex
          </Muted>
        </Grid>
      )}
    </Box>
  );
}

/** Length of a line, in units of its numbers. */
function planeLength(points: readonly number[]): number {
  let sum = 0;
  for (let k = 0; k + 3 < points.length; k += 2) sum += Math.hypot(points[k + 2]! - points[k]!, points[k + 3]! - points[k + 1]!);
  return sum;
}

/** Area of the outline through some points, in squares of the unit of their numbers. */
function planeArea(points: readonly number[]): number {
  const [x0, y0] = [points[0]!, points[1]!];
  let sum = 0;
  for (let k = 2; k + 3 < points.length; k += 2)
    sum += (points[k]! - x0) * (points[k + 3]! - y0) - (points[k + 2]! - x0) * (points[k + 1]! - y0);
  return Math.abs(sum) / 2;
}
