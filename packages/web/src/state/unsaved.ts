import type { Recipe } from '@pontrel/core/crossing/recipe';

/** Rules, by crossing, that were changed here and have not reached the server yet. What the server says meanwhile is older. */
export const unsaved = new Map<string, Recipe>();
