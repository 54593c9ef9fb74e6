import type OlMap from 'ol/Map';
import PointerInteraction from 'ol/interaction/Pointer';
import type { Mark } from './Marks';
import type { MapTool, XY } from './map-tool';

/** Pixels that a hand may shake and still only click. */
const SHAKE = 4;
/** Pixels within which a mark is held. */
const HOLD = 10;

const xy = (coordinate: number[]): XY => [coordinate[0]!, coordinate[1]!];

/** A box that is drawn by dragging, where the tool at hand wants one. */
export function boxDrag(tool: () => MapTool): PointerInteraction {
  let corner: { at: XY; pixel: number[]; moved: boolean } | null = null;
  return new PointerInteraction({
    handleDownEvent(e) {
      corner = tool().drag ? { at: xy(e.coordinate), pixel: e.pixel, moved: false } : null;
      return corner !== null;
    },
    handleDragEvent(e) {
      corner!.moved ||= Math.hypot(e.pixel[0]! - corner!.pixel[0]!, e.pixel[1]! - corner!.pixel[1]!) >= SHAKE;
      if (corner!.moved) tool().drag?.(corner!.at, xy(e.coordinate), false);
    },
    handleUpEvent(e) {
      if (corner!.moved) tool().drag?.(corner!.at, xy(e.coordinate), true);
      return false;
    },
  });
}

/** A mark that is moved by dragging, where marks can be; told by its number. */
export function markDrag(
  map: OlMap,
  marks: () => readonly Mark[],
  onDrag: () => ((mark: number, x: number, y: number) => void) | undefined,
): PointerInteraction {
  let held = -1;
  return new PointerInteraction({
    handleDownEvent(e) {
      held = onDrag()
        ? marks().findIndex((m) => {
            const [x, y] = map.getPixelFromCoordinate([m.x, m.y]) as [number, number];
            return Math.hypot(x - e.pixel[0]!, y - e.pixel[1]!) < HOLD;
          })
        : -1;
      return held >= 0;
    },
    handleDragEvent: (e) => onDrag()?.(held, ...xy(e.coordinate)),
    handleUpEvent: () => false,
  });
}
