import { Box } from '@chakra-ui/react';
import { type Bounds, join } from '@pontrel/core/geometry/bounds';
import { gridOf, type ImageMember, type ImageProfile } from '@pontrel/core/content/raster/profile';
import { extentOfGrid } from '@pontrel/core/raster/pixel-grid';
import { useAppSelector } from '../state/store';
import { DAY, NIGHT } from '@pontrel/contract/palette';

const WIDTH = 216,
  MARGIN = 8;

/** Tiles up to which each gets its number. */
const MOST_NUMBERED = 36;

/** Where the tiles of a mosaic lie: overlaps hatched, gaps and what cannot be taken in colour. */
export function TileIndex({
  images,
  picture,
  numbers,
  left,
  chosen,
}: {
  images: ImageProfile;
  /** The mosaic as it looks, under the index. */
  picture: string;
  /** What the tiles are called, by name. */
  numbers: ReadonlyMap<string, number>;
  /** Names of tiles that stay behind. */
  left: readonly string[];
  chosen?: string | null;
}) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const placed = images.members.filter((m) => m.map !== null);
  if (placed.length === 0) return null;
  const all = placed
    .map((m) => extentOfGrid(gridOf(m)))
    .reduce<Bounds>((a, b) => (join(a, b), a), [Infinity, Infinity, -Infinity, -Infinity]);
  const scale = (WIDTH - 2 * MARGIN) / (all[2] - all[0]);
  const height = Math.min(WIDTH, (all[3] - all[1]) * scale + 2 * MARGIN);
  const own = Math.min(scale, (height - 2 * MARGIN) / (all[3] - all[1]));
  const x0 = (WIDTH - (all[2] - all[0]) * own) / 2;
  const box = (b: Bounds) => ({
    x: x0 + (b[0] - all[0]) * own,
    y: height - MARGIN - (b[3] - all[1]) * own,
    width: Math.max(1, (b[2] - b[0]) * own),
    height: Math.max(1, (b[3] - b[1]) * own),
  });
  const shade = (m: ImageMember): string => (m.unfit !== null ? palette.madder : palette.ink);
  return (
    <Box bg="map" borderWidth="1px" borderColor="ghost" lineHeight="0">
      <svg viewBox={`0 0 ${WIDTH} ${height}`} width="100%" role="img" aria-label={`Index of ${placed.length} tiles`}>
        <defs>
          <pattern id="overlap" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="4" height="4" fill={palette.verdigrisTint} fillOpacity={0.75} />
            <path d="M0 0V4" stroke={palette.verdigris} strokeWidth="1.4" />
          </pattern>
        </defs>
        <image href={picture} {...box(all)} preserveAspectRatio="none" opacity={0.45} />
        {placed.map((m) => (
          <rect
            key={m.name}
            {...box(extentOfGrid(gridOf(m)))}
            fill={left.includes(m.name) ? palette.map : 'none'}
            fillOpacity={0.8}
            stroke={shade(m)}
            strokeWidth={m.name === chosen ? 2 : 0.9}
            strokeDasharray={left.includes(m.name) ? '3 2' : undefined}
          />
        ))}
        {images.overlaps.map((o) => (
          <rect key={`${o.a} ${o.b}`} {...box(o.box)} fill="url(#overlap)" stroke={palette.verdigris} strokeWidth={0.5} />
        ))}
        {images.gaps.map((g) => (
          <rect key={g.join(' ')} {...box(g)} fill={palette.amberTint} stroke={palette.amber} strokeWidth={1.2} />
        ))}
        {placed.length <= MOST_NUMBERED &&
          placed.map((m) => {
            const b = box(extentOfGrid(gridOf(m)));
            return (
              <g key={m.name} transform={`translate(${b.x + b.width / 2} ${b.y + b.height / 2})`}>
                <circle r="8" fill={palette.surface} stroke={shade(m)} strokeWidth={0.9} />
                <text y="3.6" textAnchor="middle" fontSize="10" fontWeight={650} fill={shade(m)}>
                  {numbers.get(m.name)}
                </text>
              </g>
            );
          })}
      </svg>
    </Box>
  );
}
