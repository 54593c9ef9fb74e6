import { Box } from '@chakra-ui/react';
import { max, scaleBand, scaleLinear } from 'd3';
import { grouped } from './numbers';

/** How numbers lie between a lowest and a highest, in bars of equal width. */
export function Bars({
  bins,
  lowest,
  highest,
  width,
  height,
  label,
  figure,
  toneOf = () => 'verdigris',
}: {
  bins: readonly number[];
  lowest: number;
  highest: number;
  width: number;
  height: number;
  /** What is drawn, for those who do not see it. */
  label: string;
  /** A number as it is told. */
  figure(value: number): string;
  /** What a bar is drawn in. @param from and @param to the numbers that it counts */
  toneOf?: (from: number, to: number) => 'verdigris' | 'amber';
}) {
  const x = scaleBand(
    bins.map((_, k) => k),
    [0, width],
  ).paddingInner(0.08);
  const y = scaleLinear([0, max(bins) ?? 1], [0, height]);
  const edge = (k: number): number => lowest + (k * (highest - lowest)) / bins.length;
  return (
    <svg width={width} height={height + 1} role="img" aria-label={label}>
      {bins.map((n, k) => (
        <Box asChild key={k} fill={toneOf(edge(k), edge(k + 1))}>
          <rect x={x(k)} y={height - y(n)} width={x.bandwidth()} height={n > 0 ? Math.max(1, y(n)) : 0}>
            <title>{`${grouped(n)} from ${figure(edge(k))} to ${figure(edge(k + 1))}`}</title>
          </rect>
        </Box>
      ))}
      <Box asChild stroke="line">
        <line x1="0" x2={width} y1={height + 0.5} y2={height + 0.5} />
      </Box>
    </svg>
  );
}
