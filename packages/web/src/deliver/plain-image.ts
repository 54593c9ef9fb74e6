import type { ImageSettings } from '@pontrel/core/crossing/recipe';

/** Settings of an image that has none yet. */
export const PLAIN: ImageSettings = { resampling: 'bilinear', aligned: true };
