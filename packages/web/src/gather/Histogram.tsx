import { useMemo, useRef } from 'react';
import { Box, chakra, Flex } from '@chakra-ui/react';
import { area as d3Area, curveMonotoneX, max, scaleLinear } from 'd3';
import type { BandProfile } from '@pontrel/core/content/raster/profile';
import { useAppSelector } from '../state/store';
import { DAY, NIGHT, type Palette } from '@pontrel/contract/palette';

const WIDTH = 248,
  HEIGHT = 84,
  BASE = 66;

/** What bands are drawn in: those of a colour picture in order, others in ink. */
const coloursOf = (bands: number, p: Palette): string[] => (bands >= 3 ? [p.madder, p.verdigris, p.ink] : [p.ink]);

/** How the values of an image lie, with the two that become black and white, which can be dragged. */
export function Histogram({
  bands,
  range,
  stretch,
  onStretch,
}: {
  bands: readonly BandProfile[];
  /** The lowest and the highest value of the axis. */
  range: [number, number];
  stretch: [number, number];
  onStretch(stretch: [number, number]): void;
}) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const svg = useRef<SVGSVGElement>(null);
  const x = useMemo(() => scaleLinear(range, [4, WIDTH - 4]), [range]);
  const shown = bands.slice(0, 3).filter((b) => b.histogram.length > 0);
  const most = max(shown.flatMap((b) => b.histogram.slice(1, -1))) ?? max(shown.flatMap((b) => b.histogram)) ?? 1;
  const path = (b: BandProfile): string =>
    d3Area<number>()
      .x((_, k) => x(b.lowest + ((k + 0.5) / b.histogram.length) * (b.highest - b.lowest)))
      .y0(BASE)
      .y1((n) => BASE - (BASE - 6) * Math.min(1, n / Math.max(1, most)))
      .curve(curveMonotoneX)(b.histogram) ?? '';
  const step = (range[1] - range[0]) / 255;
  const set = (k: 0 | 1, value: number): void => {
    const next: [number, number] = [...stretch];
    const [low, high] = [k === 0 ? range[0] : stretch[0] + step, k === 0 ? stretch[1] - step : range[1]];
    next[k] = Number(Math.min(high, Math.max(low, value)).toPrecision(6));
    onStretch(next);
  };
  const at = (clientX: number): number => {
    const bounds = svg.current!.getBoundingClientRect();
    return x.invert(((clientX - bounds.left) / bounds.width) * WIDTH);
  };
  const tint = coloursOf(shown.length, palette);
  return (
    <Box>
      <svg ref={svg} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width="100%" style={{ display: 'block' }}>
        <Box asChild fill="sunk">
          <rect x="0" y="0" width={x(stretch[0])} height={BASE} />
        </Box>
        <Box asChild fill="sunk">
          <rect x={x(stretch[1])} y="0" width={Math.max(0, WIDTH - x(stretch[1]))} height={BASE} />
        </Box>
        <path d={`M${x(stretch[0])} ${BASE}L${x(stretch[1])} 4`} stroke={palette.ghost} strokeDasharray="2 3" fill="none" strokeWidth="1" />
        {shown.map((b, k) => (
          <path key={k} d={path(b)} fill={tint[k]} fillOpacity={0.12} stroke={tint[k]} strokeWidth="1.2" />
        ))}
        <path d={`M0 ${BASE}H${WIDTH}`} stroke={palette.ink} strokeWidth="1" />
        {([0, 1] as const).map((k) => (
          <chakra.g
            key={k}
            role="slider"
            tabIndex={0}
            aria-label={k === 0 ? 'Value that becomes black' : 'Value that becomes white'}
            aria-valuemin={range[0]}
            aria-valuemax={range[1]}
            aria-valuenow={stretch[k]}
            transform={`translate(${x(stretch[k])} 0)`}
            cursor="ew-resize"
            style={{ touchAction: 'none' }}
            onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => {
              if (e.currentTarget.hasPointerCapture(e.pointerId)) set(k, at(e.clientX));
            }}
            onKeyDown={(e) => {
              const by = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[e.key];
              if (by === undefined) return;
              e.preventDefault();
              set(k, stretch[k] + by * step * (e.shiftKey ? 10 : 1));
            }}
          >
            <rect x="-7" y="0" width="14" height={HEIGHT} fill="transparent" />
            <path d={`M0 0V${BASE}`} stroke={palette.verdigris} strokeWidth="1.4" />
            <path d={`M-5 ${BASE + 6}l5 -6l5 6v8h-10z`} fill={palette.surface} stroke={palette.verdigris} strokeWidth="1.2" />
          </chakra.g>
        ))}
      </svg>
      <Flex justify="space-between" textStyle="small" color="muted" mt="-2px">
        <span>{Number(range[0].toPrecision(6))}</span>
        <span>{Number(range[1].toPrecision(6))}</span>
      </Flex>
    </Box>
  );
}
