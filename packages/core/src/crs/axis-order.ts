import type { Crs } from './crs';

/** Whether the registry puts the north-south axis first, as formats that follow it do. Inside, the other one always comes first. */
export function northComesFirst(crs: Crs): boolean {
  return crs.kind === 'geographic' ? crs.lonFirst !== true : crs.axes.northFirst;
}
