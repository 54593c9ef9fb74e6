import { useCallback, useMemo, useState } from 'react';
import type { Crs } from '@pontrel/core/crs/crs';
import type { Taking } from '../map/map-tool';
import { Choice } from '../components/parts';
import { boxFilter, outlineFilter } from './choose';

/** What a click on the map does. */
export type Tool = 'look' | 'pick' | 'box' | 'outline';

type Corner = readonly [number, number];

const TOOLS: readonly { value: Tool; label: string }[] = [
  { value: 'look', label: 'Look' },
  { value: 'pick', label: 'Pick' },
  { value: 'box', label: 'Box' },
  { value: 'outline', label: 'Outline' },
];

export function ToolChoice({ tool, onChange }: { tool: Tool; onChange(tool: Tool): void }) {
  return <Choice small label="What a click on the map does" value={tool} options={TOOLS} onChange={onChange} />;
}

const boxRing = ([x0, y0]: Corner, [x1, y1]: Corner): number[] => [x0, y0, x1, y0, x1, y1, x0, y1, x0, y0];

/** A box or an outline that is being drawn on the map; a filter comes of it. */
export function useDrawnFilter(
  tool: Tool,
  frame: Crs | undefined,
  onFilter: (text: string) => void,
  onEnd: () => void,
): { taking: Taking | null; outline: number[] } {
  const [corners, setCorners] = useState<Corner[]>([]);
  const [pointer, setPointer] = useState<Corner | null>(null);
  const clear = useCallback(() => {
    setCorners([]);
    setPointer(null);
  }, []);
  const snap = useCallback(
    (x: number, y: number, reach: number): Promise<[number, number] | null> => {
      const [first] = corners;
      return Promise.resolve(
        tool === 'outline' && corners.length >= 3 && Math.hypot(first![0] - x, first![1] - y) <= reach ? [first![0], first![1]] : null,
      );
    },
    [corners, tool],
  );
  const taking = useMemo((): Taking | null => {
    if (!frame || (tool !== 'box' && tool !== 'outline')) return null;
    const done = (text: string): void => {
      clear();
      onFilter(text);
    };
    const cancel = (): void => {
      if (corners.length === 0) onEnd();
      clear();
    };
    const hover = (x: number, y: number): void => setPointer([x, y]);
    if (tool === 'outline') {
      return {
        prompt: corners.length >= 3 ? 'Next corner, or the first one again' : `Corner ${corners.length + 1}`,
        snap,
        hover,
        cancel,
        take: (x, y, caught) => (caught ? done(outlineFilter(frame, corners)) : setCorners([...corners, [x, y]])),
      };
    }
    return {
      prompt: corners.length === 0 ? 'Drag a box, or click two corners' : 'The corner across',
      snap,
      hover,
      cancel,
      take: (x, y) => (corners.length > 0 ? done(boxFilter(frame, corners[0]!, [x, y])) : setCorners([[x, y]])),
      drag: (from, to, ended) => {
        if (ended) done(boxFilter(frame, from, to));
        else {
          setCorners([from]);
          setPointer(to);
        }
      },
    };
  }, [tool, frame, corners, snap, clear, onFilter, onEnd]);
  const outline =
    corners.length === 0
      ? []
      : tool === 'box'
        ? pointer
          ? boxRing(corners[0]!, pointer)
          : [...corners[0]!]
        : [...corners, ...(pointer ? [pointer] : []), ...(corners.length >= 2 ? [corners[0]!] : [])].flat();
  return { taking, outline };
}
