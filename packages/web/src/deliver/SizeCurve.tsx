import { area, curveMonotoneX, line, scaleLinear } from 'd3';
import { Box } from '@chakra-ui/react';
import type { PictureSizes } from '@pontrel/contract/pictures';
import { useAppSelector } from '../state/store';
import { DAY, NIGHT } from '@pontrel/contract/palette';

const [WIDTH, HEIGHT, LEFT, BOTTOM] = [244, 112, 30, 18];

/** Share by which an estimate may be off. */
export const UNCERTAIN = 0.1;

/** The largest quality whose files stay under a size, by the estimates between which it lies; null where none does. */
export function qualityUnder({ curve }: PictureSizes, limit: number): number | null {
  const sorted = [...curve].sort((a, b) => a.quality - b.quality);
  for (let q = 100; q >= 1; q--) if (bytesAt(sorted, q) <= limit) return q;
  return null;
}

/** The quality at which pixels are made larger rather than the picture worse. */
export const GOOD_ENOUGH = 50;

/** What small files take beside their pixels, as a share of a side. */
const BESIDE = 1.02;

/** Pixels so large that the files stay under a size, rounded up: sizes go with the number of pixels. */
export function pixelUnder({ bytes, curve }: PictureSizes, limit: number, pixelSize: readonly [number, number]): [number, number] {
  const sorted = [...curve].sort((a, b) => a.quality - b.quality);
  const least = sorted.length > 1 ? bytesAt(sorted, GOOD_ENOUGH) : bytes;
  const times = Math.max(1, Math.sqrt(least / limit) * BESIDE);
  const up = (v: number): number => {
    const step = 10 ** (Math.floor(Math.log10(v)) - 1);
    return Number((Math.ceil(v / step - 1e-9) * step).toPrecision(2));
  };
  return [up(pixelSize[0] * times), up(pixelSize[1] * times)];
}

function bytesAt(sorted: PictureSizes['curve'], quality: number): number {
  const k = sorted.findIndex((c) => c.quality >= quality);
  if (k < 0) {
    const [a, b] = sorted.slice(-2) as [PictureSizes['curve'][number], PictureSizes['curve'][number]];
    return b.bytes + ((b.bytes - a.bytes) / (b.quality - a.quality)) * (quality - b.quality) * 1.6;
  }
  if (k === 0) return sorted[0]!.bytes * (0.6 + (0.4 * quality) / sorted[0]!.quality);
  const [a, b] = [sorted[k - 1]!, sorted[k]!];
  return a.bytes + ((b.bytes - a.bytes) * (quality - a.quality)) / (b.quality - a.quality);
}

/** How large the files are at each quality, with the one that is chosen and the size that they are to stay under. */
export function SizeCurve({ sizes, quality, limit }: { sizes: PictureSizes; quality: number; limit: number | undefined }) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const most = Math.max(...sizes.curve.map((c) => c.bytes), (limit ?? 0) * 1.15, sizes.bytes);
  const x = scaleLinear([sizes.curve[0]!.quality, 100], [LEFT, WIDTH - 14]);
  const y = scaleLinear([0, most / 1e6], [HEIGHT - BOTTOM, 8]);
  const points = sizes.curve.map((c): [number, number] => [c.quality, c.bytes / 1e6]);
  const at = (p: [number, number]): number => x(p[0]);
  return (
    <Box mt="6px">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width="100%" role="img" aria-label="Megabytes by quality">
        {limit !== undefined && (
          <>
            <rect x={LEFT} y={8} width={WIDTH - LEFT - 8} height={Math.max(0, y(limit / 1e6) - 8)} fill={palette.sunk} />
            <path d={`M${LEFT} ${y(limit / 1e6)}H${WIDTH - 8}`} stroke={palette.oxide} strokeDasharray="4 3" />
          </>
        )}
        {y.ticks(4).map((t) => (
          <g key={t}>
            <path d={`M${LEFT} ${y(t)}H${WIDTH - 8}`} stroke={palette.hairline} strokeWidth={0.7} />
            <text x={LEFT - 5} y={y(t) + 3.5} textAnchor="end" fontSize="9.5" fill={palette.muted}>
              {t}
            </text>
          </g>
        ))}
        {[40, 60, 80, 100].map((q) => (
          <text key={q} x={x(q)} y={HEIGHT - 5} textAnchor="middle" fontSize="9.5" fill={palette.muted}>
            {q}
          </text>
        ))}
        <path
          d={
            area<[number, number]>()
              .x(at)
              .y0((p) => y(p[1] * (1 - UNCERTAIN)))
              .y1((p) => y(p[1] * (1 + UNCERTAIN)))
              .curve(curveMonotoneX)(points) ?? ''
          }
          fill={palette.verdigris}
          fillOpacity={0.13}
        />
        <path
          d={
            line<[number, number]>()
              .x(at)
              .y((p) => y(p[1]))
              .curve(curveMonotoneX)(points) ?? ''
          }
          fill="none"
          stroke={palette.verdigris}
          strokeWidth="1.6"
        />
        <path d={`M${x(quality)} ${y(sizes.bytes / 1e6)}V${HEIGHT - BOTTOM}`} stroke={palette.verdigris} strokeDasharray="2 2" />
        <circle cx={x(quality)} cy={y(sizes.bytes / 1e6)} r="4" fill={palette.surface} stroke={palette.verdigris} strokeWidth="1.8" />
      </svg>
    </Box>
  );
}
