import type { ReactNode } from 'react';
import { Button, chakra, Flex } from '@chakra-ui/react';
import { Crosshair, Images, Layers, type LucideIcon, Maximize, Minus, Plus, Printer, Ruler } from 'lucide-react';
import { ICON } from '../components/parts';

/** What stands above the map: what the page puts there, its two tools, and how it is looked at. */
export function SheetBar({
  children,
  measuring,
  telling,
  listing,
  legend,
  touched,
  onLegend,
  onPrint,
  onMeasure,
  onTell,
  onList,
  onZoom,
  onFit,
}: {
  children: ReactNode;
  measuring: boolean;
  telling: boolean;
  /** Whether the images are listed; null where there are none. */
  listing: boolean | null;
  /** Whether the legend is open; null where there is none. */
  legend: boolean | null;
  /** Layers that are switched off or dimmed. */
  touched: number;
  onLegend(): void;
  /** Absent where there is nothing to print. */
  onPrint?: (() => void) | undefined;
  onMeasure(): void;
  onTell(): void;
  onList(): void;
  onZoom(steps: number): void;
  onFit(): void;
}) {
  return (
    <Flex align="center" gap="12px" h="44px" px="12px" flex="none" containerType="inline-size">
      <Flex flex="1" minW="0" align="center" gap="12px" overflow="hidden">
        {children}
      </Flex>
      {legend !== null && (
        <ToolButton name={touched > 0 ? `Legend · ${touched} off` : 'Legend'} shortcut="k" icon={Layers} on={legend} onClick={onLegend} />
      )}
      {listing !== null && <ToolButton name="Images" shortcut="i" icon={Images} on={listing} onClick={onList} />}
      <ToolButton name="Measure" shortcut="m" icon={Ruler} on={measuring} onClick={onMeasure} />
      <ToolButton name="Coordinates" shortcut="c" icon={Crosshair} on={telling} onClick={onTell} />
      <Flex>
        <Button size="sm" px="0" borderEndRadius="0" aria-label="Zoom in" aria-keyshortcuts="+" onClick={() => onZoom(1)}>
          <Plus {...ICON} size={14} />
        </Button>
        <Button size="sm" px="0" ml="-1px" borderRadius="0" aria-label="Zoom out" aria-keyshortcuts="-" onClick={() => onZoom(-1)}>
          <Minus {...ICON} size={14} />
        </Button>
        <Button size="sm" px="0" ml="-1px" borderStartRadius="0" aria-label="Fit everything" aria-keyshortcuts="f" onClick={onFit}>
          <Maximize {...ICON} size={14} />
        </Button>
        {onPrint && (
          <Button size="sm" px="0" ml="6px" aria-label="Print the map" title="Print the map as a PDF" onClick={onPrint}>
            <Printer {...ICON} size={14} />
          </Button>
        )}
      </Flex>
    </Flex>
  );
}

/** A tool that is on or off; its name goes where the bar is too narrow for it. */
function ToolButton({
  name,
  shortcut,
  icon: Icon,
  on,
  onClick,
}: {
  name: string;
  shortcut: string;
  icon: LucideIcon;
  on: boolean;
  onClick(): void;
}) {
  return (
    <Button
      size="sm"
      aria-pressed={on}
      aria-label={name}
      aria-keyshortcuts={shortcut}
      {...(on ? { bg: 'verdigrisTint', borderColor: 'verdigris', color: 'verdigrisInk' } : {})}
      onClick={onClick}
    >
      <Icon {...ICON} size={14} />
      <chakra.span css={{ '@container (max-width: 520px)': { display: 'none' } }}>{name}</chakra.span>
    </Button>
  );
}
