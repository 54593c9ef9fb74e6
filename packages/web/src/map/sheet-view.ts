import { useSyncExternalStore } from 'react';

/** What part of the frame is seen: pixels, and the middle of the picture in the frame. */
export interface SheetView {
  width: number;
  height: number;
  x: number;
  y: number;
  resolution: number;
}

/** What is seen, for those that draw over the map: they follow each movement, and nothing else of the page does. */
export class SheetViews {
  private view: SheetView | null = null;
  private readonly listeners = new Set<() => void>();

  readonly now = (): SheetView | null => this.view;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  set(view: SheetView): void {
    this.view = view;
    for (const listener of this.listeners) listener();
  }
}

export const useSheetView = (views: SheetViews): SheetView | null => useSyncExternalStore(views.subscribe, views.now);

/** A colour of the theme where a plain element is drawn with each movement, and the theme's own parts would cost frames. */
export const token = (name: string): string => `var(--chakra-colors-${name})`;
