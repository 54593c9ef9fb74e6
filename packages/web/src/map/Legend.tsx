import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { SunDim, X } from 'lucide-react';
import type { SourceLayer } from '@pontrel/contract/crossing';
import { layerRule } from '@pontrel/core/crossing/recipe';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { DAY, NIGHT, type Palette } from '@pontrel/contract/palette';
import { grouped } from '../components/numbers';
import { ICON, Mono, Muted } from '../components/parts';
import { useCrossing } from '../crossing/use-crossing';
import { useAppSelector } from '../state/store';
import { onPaper } from '../theme/on-paper';
import { EyeButton, MapToggle } from './MapToggle';
import type { LayerName, MapLayers } from './use-map-layers';

/** What is drawn on the map: each layer with what it is drawn with, to be switched off or dimmed here without changing what crosses. */
export function Legend({ shown, all, onClose }: { shown: MapLayers; all: boolean; onClose(): void }) {
  const { recipe, sources } = useCrossing();
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const groups = sources
    .map((s) => ({
      source: s.name,
      layers: s.layers.filter((l) => l.profile.extent !== null && (all || isTaken(layerRule(recipe, s.name, l.profile.name)))),
    }))
    .filter((g) => g.layers.length > 0 && recipe.sources[g.source]?.placement);
  const names = (source: string, layers: readonly SourceLayer[]): LayerName[] => layers.map((l) => ({ source, layer: l.profile.name }));
  return (
    <Box
      position="absolute"
      right="40px"
      top="8px"
      w="264px"
      maxH="calc(100% - 16px)"
      display="flex"
      flexDirection="column"
      bg="surface"
      borderWidth="1px"
      borderColor="ink"
      borderRadius="sheet"
      role="region"
      aria-label="Legend"
    >
      <Flex align="center" gap="8px" pl="10px" pr="4px" h="34px" flex="none">
        <Text fontWeight={650}>Legend</Text>
        <Box flex="1" />
        {shown.touched > 0 && (
          <Button
            size="sm"
            variant="ghost"
            h="24px"
            onClick={() => {
              const every = groups.flatMap((g) => names(g.source, g.layers));
              shown.hide(every, false);
              shown.dim(every, false);
            }}
          >
            Show all
          </Button>
        )}
        <Button size="sm" variant="ghost" px="0" minW="24px" h="24px" aria-label="Close the legend" onClick={onClose}>
          <X {...ICON} size={14} />
        </Button>
      </Flex>
      <Box overflowY="auto" scrollbarWidth="thin" pb="6px" tabIndex={0} role="group" aria-label="Layers of the map">
        {groups.length === 0 && (
          <Muted display="block" px="10px" pb="6px">
            Nothing that is taken has a place yet.
          </Muted>
        )}
        {groups.map(({ source, layers }) => {
          const own = names(source, layers);
          const off = own.every((n) => shown.isHidden(n.source, n.layer));
          const faint = own.every((n) => shown.isDimmed(n.source, n.layer));
          return (
            <Box key={source} pt="3px">
              <Flex align="center" gap="4px" pl="10px" pr="4px" h="24px">
                <Mono flex="1" truncate fontWeight={600} fontSize="11.5px" title={source}>
                  {source}
                </Mono>
                <Toggles
                  name={source}
                  hidden={off}
                  dimmed={faint}
                  onHide={() => shown.hide(own, !off)}
                  onDim={() => shown.dim(own, !faint)}
                />
              </Flex>
              {layers.map((layer) => {
                const { name, count } = layer.profile;
                const hidden = shown.isHidden(source, name);
                const dimmed = shown.isDimmed(source, name);
                return (
                  <Flex key={name} align="center" gap="7px" pl="10px" pr="4px" h="24px" color={hidden ? 'muted' : 'ink'}>
                    <Swatch layer={layer} palette={palette} faint={hidden || dimmed} />
                    <Text flex="1" truncate title={name} textDecoration={hidden ? 'line-through' : undefined}>
                      {name}
                    </Text>
                    <Mono fontSize="10.5px" color="muted">
                      {grouped(count)}
                    </Mono>
                    <Toggles
                      name={`${name} of ${source}`}
                      hidden={hidden}
                      dimmed={dimmed}
                      onHide={() => shown.hide([{ source, layer: name }], !hidden)}
                      onDim={() => shown.dim([{ source, layer: name }], !dimmed)}
                    />
                  </Flex>
                );
              })}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}

function Toggles({
  name,
  hidden,
  dimmed,
  onHide,
  onDim,
}: {
  name: string;
  hidden: boolean;
  dimmed: boolean;
  onHide(): void;
  onDim(): void;
}) {
  return (
    <Flex flex="none">
      <MapToggle
        icon={SunDim}
        label={`Dim ${name}`}
        title="Dim on the map"
        pressed={dimmed}
        color={dimmed ? 'oxideInk' : 'muted'}
        disabled={hidden}
        onClick={onDim}
      />
      <EyeButton label={name} on={!hidden} onChange={onHide} />
    </Flex>
  );
}

/** What records of a layer are drawn with: areas as a box, lines as a stroke, points as a ring, texts as a letter, in the colours that they have. */
function Swatch({ layer: { plan, profile }, palette, faint }: { layer: SourceLayer; palette: Palette; faint: boolean }) {
  const kinds = new Set(profile.groups.map((g) => g.kind));
  const colorOf = (kind: string): string =>
    onPaper(plan.strokes.find((s) => s.kind === kind)?.color ?? plan.strokes[0]?.color ?? '', palette);
  return (
    <svg width="22" height="14" viewBox="0 0 22 14" aria-hidden="true" opacity={faint ? 0.35 : 1}>
      {kinds.has('polygon') && (
        <rect
          x="1"
          y="2"
          width="20"
          height="10"
          fill={colorOf('polygon')}
          fillOpacity="0.14"
          stroke={colorOf('polygon')}
          strokeWidth="1.2"
        />
      )}
      {kinds.has('line') && <path d="M1 11 L8 5 L14 9 L21 3" fill="none" stroke={colorOf('line')} strokeWidth="1.4" />}
      {kinds.has('point') && <circle cx="11" cy="7" r="3" fill="none" stroke={colorOf('point')} strokeWidth="1.3" />}
      {kinds.has('text') && !kinds.has('polygon') && (
        <text x="11" y="11.5" textAnchor="middle" fontSize="11" fontWeight="600" fill={colorOf('text')}>
          A
        </text>
      )}
    </svg>
  );
}
