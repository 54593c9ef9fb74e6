/** What lies between the names of folders within folders in the name of a layer. */
export const WITHIN = ' / ';

/** A step through the folders of a file: one that holds folders opens or closes, or a layer's own comes. */
export type FolderStep = { open: string } | { close: true } | { set: number };

/** The folders of layers: those whose names begin alike before " / " lie in one, in the order in which they first come. */
export function folderSteps(names: readonly string[]): FolderStep[] {
  interface Branch {
    name: string;
    inner: (Branch | number)[];
  }
  const root: Branch = { name: '', inner: [] };
  names.forEach((name, set) => {
    let at = root;
    for (const outer of name.split(WITHIN).slice(0, -1)) {
      let next = at.inner.find((b): b is Branch => typeof b === 'object' && b.name === outer);
      if (!next) at.inner.push((next = { name: outer, inner: [] }));
      at = next;
    }
    at.inner.push(set);
  });
  const walk = (branch: Branch): FolderStep[] =>
    branch.inner.flatMap((b) => (typeof b === 'number' ? [{ set: b }] : [{ open: b.name }, ...walk(b), { close: true as const }]));
  return walk(root);
}

/** The order in which layers come in the file. */
export const setOrder = (names: readonly string[]): number[] => folderSteps(names).flatMap((s) => ('set' in s ? [s.set] : []));
