import { useEffect, useState } from 'react';
import { Box, Button, chakra, Flex, Input, Text } from '@chakra-ui/react';
import { Copy } from 'lucide-react';
import { useForm } from 'react-hook-form';
import type { CrsName } from '@pontrel/contract/crossing';
import { type Crs, isOnEarth, ownSigns } from '@pontrel/core/crs/crs';
import { grouped } from '../components/numbers';
import { CrsSearch } from '../components/CrsSearch';
import { ICON, Mono, Muted } from '../components/parts';
import { TextButton } from '../components/TextButton';
import { useLazyWhereQuery } from '../state/api';
import { frameText, readPlace } from './coordinates';
import { frameUnit } from './frame-map';
import { dms } from './ticks';

const PINNED = 'pontrel.pinned-crs';

/** The pinned second system, kept in the browser. */
function readPinned(): CrsName | null {
  try {
    return JSON.parse(localStorage.getItem(PINNED) ?? 'null') as CrsName | null;
  } catch {
    return null;
  }
}

/** A place in every notation, each to be copied, and a line to go to one. */
export function PlaceCard({
  crossing,
  frame,
  at,
  middle,
  onGo,
  onClose,
}: {
  crossing: string;
  frame: Crs;
  at: readonly [number, number] | null;
  middle(): readonly [number, number];
  onGo(x: number, y: number): void;
  onClose(): void;
}) {
  const [pinned, setPinned] = useState(readPinned);
  const [pinning, setPinning] = useState(false);
  const {
    register,
    handleSubmit,
    setError,
    formState: { errors },
  } = useForm({ defaultValues: { place: '' } });
  const [copied, setCopied] = useState<string | null>(null);
  const [ask, { data }] = useLazyWhereQuery();
  useEffect(() => {
    if (at) void ask({ id: crossing, frame: at.join(','), ...(pinned ? { crs: pinned.id } : {}) });
  }, [ask, crossing, at, pinned]);
  const degrees = frameUnit(frame) === null;
  const wrong = (message: string): void => setError('place', { message });
  const go = handleSubmit(async ({ place }) => {
    const typed = readPlace(place, degrees);
    if (!typed)
      return wrong(`Two numbers are wanted: an easting and a northing${isOnEarth(frame) ? ', or a latitude and a longitude' : ''}.`);
    const [sx, sy] = ownSigns(frame);
    if (typed.kind === 'frame') {
      const inFrame: [number, number] = [sx * typed.at[0], sy * typed.at[1]];
      // the same two numbers may be meant in the pinned system: the nearer one to what is seen is taken
      const inPinned =
        pinned && pinned.kind === 'projected'
          ? (await ask({ id: crossing, other: typed.at.join(','), crs: pinned.id }).unwrap()).frame
          : null;
      const [mx, my] = middle();
      const away = (p: readonly [number, number]): number => Math.hypot(p[0] - mx, p[1] - my);
      return inPinned && away(inPinned) < away(inFrame) ? onGo(...inPinned) : onGo(...inFrame);
    }
    const { frame: found } = await ask({ id: crossing, degrees: typed.at.join(',') }).unwrap();
    if (found) onGo(found[0], found[1]);
    else wrong('The frame has no coordinates there.');
  });
  const lines: [string, string][] = at
    ? [
        [frame.id ?? (isOnEarth(frame) ? frame.name : 'Local plane'), frameText(frame, at).replace(/[\u2009\u00a0\u202f]/g, '\u202f')],
        ...(data?.degrees
          ? ([
              ['Decimal degrees', `${data.degrees[1].toFixed(8)}, ${data.degrees[0].toFixed(8)}`],
              ['Degrees', `${dms(data.degrees[1], 'NS')} ${dms(data.degrees[0], 'EW')}`],
            ] as [string, string][])
          : []),
        ...(pinned && data?.other
          ? ([
              [
                pinned.label,
                pinned.kind === 'geographic'
                  ? `${data.other[1].toFixed(8)}, ${data.other[0].toFixed(8)}`
                  : `${grouped(data.other[0], 3)}  ${grouped(data.other[1], 3)}`,
              ],
            ] as [string, string][])
          : []),
      ]
    : [];
  return (
    <Box
      position="absolute"
      left="8px"
      top="8px"
      w="330px"
      maxH="calc(100% - 16px)"
      overflowY="auto"
      bg="surface"
      borderWidth="1px"
      borderColor="line"
      borderRadius="sheet"
      px="12px"
      py="9px"
      role="group"
      aria-label="Coordinates"
    >
      <Flex justify="space-between" align="center" mb="5px">
        <Text textStyle="section">Coordinates</Text>
        <Button size="sm" variant="ghost" h="20px" px="4px" onClick={onClose}>
          Close
        </Button>
      </Flex>
      <Flex as="form" gap="6px" onSubmit={(e) => void go(e)}>
        <Input
          aria-label="Go to"
          placeholder={degrees ? 'latitude longitude' : isOnEarth(frame) ? 'E N, or latitude longitude' : 'E N'}
          aria-invalid={errors.place !== undefined}
          {...register('place')}
        />
        <Button type="submit" size="sm" h="28px">
          Go
        </Button>
      </Flex>
      {errors.place && (
        <Text color="madderInk" textStyle="small" mt="4px" role="alert">
          {errors.place.message}
        </Text>
      )}
      {at ? (
        <Box mt="8px">
          {lines.map(([name, value]) => (
            <Flex key={name} align="center" gap="6px" minH="26px" borderTopWidth="1px" borderColor="hairline">
              <Box flex="1" minW="0" py="3px">
                <Muted textStyle="small" display="block">
                  {name}
                </Muted>
                <Mono display="block" fontSize="11.5px" whiteSpace="pre-wrap">
                  {value}
                </Mono>
              </Box>
              <chakra.button
                type="button"
                aria-label={`Copy ${name}`}
                minW="24px"
                minH="24px"
                display="grid"
                placeItems="center"
                cursor="pointer"
                color={copied === name ? 'verdigris' : 'muted'}
                onClick={() => void navigator.clipboard.writeText(value.replace(/[\u2009\u00a0\u202f]/g, '')).then(() => setCopied(name))}
              >
                <Copy {...ICON} size={14} />
              </chakra.button>
            </Flex>
          ))}
        </Box>
      ) : (
        <Muted textStyle="small" display="block" mt="7px">
          Click a place on the map; a vertex nearby catches it exactly.
        </Muted>
      )}
      <Box mt="8px">
        {pinning ? (
          <CrsSearch
            label="Pin a second system"
            autoFocus
            onChoose={(crs) => {
              localStorage.setItem(PINNED, JSON.stringify(crs));
              setPinned(crs);
              setPinning(false);
            }}
          />
        ) : (
          <TextButton textAlign="left" onClick={() => setPinning(true)}>
            {pinned ? `Pinned: ${pinned.label} ${pinned.name}` : 'Pin a second system'}
          </TextButton>
        )}
      </Box>
    </Box>
  );
}
