/** Where the table of a layer's records is. */
export const recordsOf = (crossing: string, source: string, layer: string): string =>
  `/crossings/${crossing}/records?${new URLSearchParams({ source, layer }).toString()}`;
