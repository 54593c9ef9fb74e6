import { useState } from 'react';
import { Box, chakra, Flex, Text } from '@chakra-ui/react';
import type { PieceView } from '@pontrel/contract/pictures';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { formatOptions } from '@pontrel/core/formats/options';
import { useCrossing } from '../crossing/use-crossing';
import { Choice, Empty, Mono, Muted, Select } from '../components/parts';
import { Swipe } from '../map/Swipe';
import { messageOfError, useOverviewQuery, usePieceQuery } from '../state/api';

type Zoom = '1' | '2' | '4';

/** Pixels on the screen of a piece. */
const [WIDTH, HEIGHT] = [760, 460];

const QUALITIES = ['', '30', '50', '70', '85', '95'];

/** One piece of an image at full resolution: as it is to be beside what is written, and where it lies in the whole. */
export function PieceSheet({ deliverable: d, forecast }: { deliverable: Deliverable; forecast: ImageForecast }) {
  const crossing = useCrossing();
  const [zoom, setZoom] = useState<Zoom>('1');
  const [at, setAt] = useState<[number, number]>([0.5, 0.5]);
  const [other, setOther] = useState('');
  const [swipe, setSwipe] = useState(0.5);
  const key = `${crossing.revision}`;
  const { width, height } = forecast.info;
  const times = Number(zoom);
  const [w, h] = [Math.min(width, Math.round(WIDTH / times)), Math.min(height, Math.round(HEIGHT / times))];
  const window = {
    x: Math.max(0, Math.min(width - w, Math.round(at[0] * width - w / 2))),
    y: Math.max(0, Math.min(height - h, Math.round(at[1] * height - h / 2))),
    width: w,
    height: h,
  };
  const asked = { id: crossing.id, deliverable: d.id, key, ...window };
  const { data, error, isFetching } = usePieceQuery(asked);
  const { data: second } = usePieceQuery({ ...asked, quality: Number(other) }, { skip: other === '' });
  const { data: overview } = useOverviewQuery({ id: crossing.id, deliverable: d.id, key });
  const format = anyFormatById(d.format)!;
  const { quality } = formatOptions(format, d.options);
  const lossy = forecast.packed !== null;
  const names: [string, string] =
    other === '' ? ['As it is to be', lossy ? `Quality ${quality}` : 'As written'] : [`Quality ${quality}`, `Quality ${other}`];
  const left = other === '' ? data?.expected : data?.written,
    right = other === '' ? data?.written : second?.written;
  return (
    <Flex direction="column" flex="1 0 auto" h="0" minH="250px" px="16px" pt="8px" pb="10px">
      <Flex align="center" gap="10px" mb="7px" flex="none" containerType="inline-size">
        <Text fontWeight={650} truncate>
          One piece at full resolution
        </Text>
        <Mono color="muted" truncate css={{ '@container (max-width: 560px)': { display: 'none' } }}>
          {w} × {h} pixels
        </Mono>
        <Box flex="1" />
        {lossy && quality !== undefined && (
          <>
            <Muted whiteSpace="nowrap" css={{ '@container (max-width: 480px)': { display: 'none' } }}>
              compare with
            </Muted>
            <Select
              label="Compare with"
              value={other}
              onChange={setOther}
              options={QUALITIES.map((q) => ({ value: q, label: q === '' ? 'what it is to be' : `quality ${q}` }))}
            />
          </>
        )}
        <Box flex="none">
          <Choice<Zoom>
            small
            label="Screen pixels to a pixel"
            value={zoom}
            onChange={setZoom}
            options={[
              { value: '1', label: '1:1' },
              { value: '2', label: '2:1' },
              { value: '4', label: '4:1' },
            ]}
          />
        </Box>
      </Flex>
      <Flex flex="1" minH="0" gap="10px">
        <Box position="relative" flex="1" minW="0" borderWidth="1px" borderColor="ink" bg="sunk" overflow="hidden">
          {error ? (
            <Empty title="Nothing to show">{messageOfError(error)}</Empty>
          ) : (
            data && (
              <>
                <Piece src={right} view={data} times={times} />
                <Box position="absolute" inset="0" style={{ clipPath: `inset(0 ${100 - 100 * swipe}% 0 0)` }}>
                  <Piece src={left} view={data} times={times} />
                </Box>
                <Swipe names={names} onMove={setSwipe} />
              </>
            )
          )}
          {isFetching && (
            <Box position="absolute" left="10px" top="10px" bg="surface" borderWidth="1px" borderColor="line" borderRadius="chip" px="8px">
              <Muted textStyle="small">working it out</Muted>
            </Box>
          )}
        </Box>
        <Overview image={overview?.image} size={[width, height]} window={window} onMove={setAt} />
      </Flex>
      <Muted textStyle="small" mt="6px" flex="none" truncate>
        {data &&
          (data.worst === 0
            ? 'What is written is what it is to be, value by value.'
            : `What is written differs ${off(data)}${second ? `; with quality ${other} ${off(second, '')}` : ''}.`)}
      </Muted>
    </Flex>
  );
}

/** A piece as it is on the screen, its pixels as they are. */
function Piece({ src, view, times }: { src: string | undefined; view: PieceView; times: number }) {
  return (
    <chakra.img
      src={src ?? ''}
      alt=""
      position="absolute"
      left="50%"
      top="50%"
      w={`${view.width * times}px`}
      h={`${view.height * times}px`}
      maxW="none"
      transform="translate(-50%, -50%)"
      css={{ imageRendering: 'pixelated' }}
    />
  );
}

/** The whole image small, with the piece in it; a click, or the arrow keys, move the piece. */
function Overview({
  image,
  size: [width, height],
  window: { x, y, width: w, height: h },
  onMove,
}: {
  image: string | undefined;
  size: [number, number];
  window: { x: number; y: number; width: number; height: number };
  onMove(at: [number, number]): void;
}) {
  const at = (dx: number, dy: number): [number, number] => [
    Math.min(1, Math.max(0, (x + w / 2 + dx * w) / width)),
    Math.min(1, Math.max(0, (y + h / 2 + dy * h) / height)),
  ];
  return (
    <Box w="168px" flex="none" alignSelf="flex-start">
      <chakra.button
        type="button"
        position="relative"
        display="block"
        w="100%"
        cursor="crosshair"
        title="Click to move the piece"
        borderWidth="1px"
        borderColor="ink"
        bg="sunk"
        aria-label="The whole image: click, or use the arrow keys, to move the piece"
        style={{ aspectRatio: `${width} / ${height}` }}
        maxH="230px"
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          if (e.detail > 0) onMove([(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height]);
        }}
        onKeyDown={(e) => {
          const by = ({ ArrowLeft: [-0.5, 0], ArrowRight: [0.5, 0], ArrowUp: [0, -0.5], ArrowDown: [0, 0.5] } as const)[
            e.key as 'ArrowLeft'
          ];
          if (!by) return;
          e.preventDefault();
          onMove(at(by[0], by[1]));
        }}
      >
        {image && <chakra.img src={image} alt="" w="100%" h="100%" display="block" />}
        <Box
          position="absolute"
          borderWidth="1.5px"
          borderColor="oxide"
          bg="surface/20"
          style={{
            left: `${(100 * x) / width}%`,
            top: `${(100 * y) / height}%`,
            width: `${Math.max(3, (100 * w) / width)}%`,
            height: `${Math.max(3, (100 * h) / height)}%`,
          }}
        />
      </chakra.button>
    </Box>
  );
}

/** By how much a piece differs from what it is to be, in words. */
const off = ({ mean, worst }: PieceView, here = ' on the mean here'): string =>
  `by ${mean.toFixed(1)}${here}, by ${Math.round(worst)} at worst`;
