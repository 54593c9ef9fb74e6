import { useMemo, useRef } from 'react';
import { Box } from '@chakra-ui/react';
import { geoEquirectangular, geoPath } from 'd3';
import { feature } from 'topojson-client';
import type { GeometryCollection, Topology } from 'topojson-specification';
import land from 'world-atlas/land-110m.json';

const WIDTH = 290,
  HEIGHT = 145;
const topology = land as unknown as Topology<{ land: GeometryCollection }>;

/** The world in outline, to point at a place. Land: Natural Earth, 1:110 million, public domain. */
export function Locator({
  at,
  candidates,
  onPoint,
}: {
  at: readonly [number, number] | null;
  candidates: readonly { lon: number; lat: number; on: boolean }[];
  onPoint(at: [number, number]): void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const projection = useMemo(() => geoEquirectangular().fitSize([WIDTH, HEIGHT], { type: 'Sphere' }), []);
  const outline = useMemo(() => geoPath(projection)(feature(topology, topology.objects.land)) ?? '', [projection]);
  const place = (lon: number, lat: number): readonly [number, number] => projection([lon, lat]) ?? [0, 0];
  return (
    <Box asChild w="100%" borderWidth="1px" borderColor="line" borderRadius="sheet" bg="map" cursor="crosshair" display="block">
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label="Locator map: click where the work lies"
        onClick={(e) => {
          const box = svg.current!.getBoundingClientRect();
          const found = projection.invert?.([((e.clientX - box.left) / box.width) * WIDTH, ((e.clientY - box.top) / box.height) * HEIGHT]);
          if (found) onPoint([Number(found[0].toFixed(2)), Number(found[1].toFixed(2))]);
        }}
      >
        <Box asChild fill="sunk" stroke="line">
          <path d={outline} strokeWidth=".5" />
        </Box>
        {candidates.map((c, i) => {
          const [x, y] = place(c.lon, c.lat);
          return (
            <Box asChild key={i} fill={c.on ? 'oxide' : 'verdigris'}>
              <circle cx={x} cy={y} r={c.on ? 3 : 2} />
            </Box>
          );
        })}
        {at &&
          (() => {
            const [x, y] = place(at[0], at[1]);
            return (
              <Box asChild stroke="oxide">
                <path d={`M${x - 7} ${y}h5M${x + 2} ${y}h5M${x} ${y - 7}v5M${x} ${y + 2}v5`} fill="none" strokeWidth="1.4" />
              </Box>
            );
          })()}
      </svg>
    </Box>
  );
}
