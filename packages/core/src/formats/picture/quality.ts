import type { FormatOption, OptionValues } from '../format-option';

/** How much a picture may lose when it is packed as JPEG. */
export const qualityOption = (when?: (values: OptionValues) => boolean): FormatOption => ({
  id: 'quality',
  label: 'Quality',
  kind: 'number',
  initial: 85,
  least: 1,
  most: 100,
  ...(when ? { when } : {}),
});
