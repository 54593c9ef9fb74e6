import { placeBatch, sourceTransform, transformBatch } from '../content/features/transform-batch';
import type { Derivation, Derived } from '../content/derived/derivation';
import { faultFindings } from '../content/derived/fault';
import type { LayerProfile } from '../content/features/profile';
import { type Crs, isPlane, metresPerUnit, verticalOf } from '../crs/crs';
import { label } from '../crs/transform';
import type { OptionValues } from '../formats/format-option';
import { initialOf } from '../formats/options';
import { curveLoad } from '../geometry/flatten';
import type { FeatureBatch } from '../model/batch';
import type { Finding } from '../model/finding';
import { Problem } from '../model/problem';
import type { ReadBatches } from '../operations/operation';
import type { PlacedIn } from '../placement/route';
import { DERIVED_CHORD_M } from './derived-source';
import type { LayerOf } from './worked-out';

/** A source that records are worked out of, and where it lies. */
export interface DerivationSource {
  name: string;
  layers: readonly LayerProfile[];
  findings: readonly Finding[];
  placed: PlacedIn;
  records: ReadBatches;
}

/** The layers that have each role. */
export type LayerRoles = Readonly<Record<string, readonly LayerOf[]>>;

const is = (a: LayerOf, b: LayerOf): boolean => a.source === b.source && a.layer === b.layer;

/**
 * The layers that have each role: those that are said, and for a role of which nothing is said those that have records of its kinds and no
 * role yet.
 * @throws Problem `role-empty` where a role has no layer and cannot do without
 */
export function layerRoles(derivation: Derivation, layers: readonly (LayerOf & { profile: LayerProfile })[], said: LayerRoles): LayerRoles {
  const roles: Record<string, readonly LayerOf[]> = { ...said };
  const known = Object.values(said).flat();
  for (const { id, kinds, title, optional } of derivation.roles) {
    roles[id] ??= layers
      .filter((l) => !known.some((k) => is(k, l)) && l.profile.groups.some((g) => kinds.includes(g.kind)))
      .map(({ source, layer }) => ({ source, layer }));
    if (roles[id].length === 0 && !optional)
      throw new Problem(
        'role-empty',
        kinds.length === 0
          ? `${title}: say which layers or which file that is (${id}).`
          : `${title}: no layer has such records (${kinds.join(', ')}). Choose layers that have, or name one for it (${id}).`,
      );
  }
  return roles;
}

/** The value of each setting: what is said, or what holds when nothing is said. */
export const settingsOf = (derivation: Derivation, said: OptionValues): OptionValues =>
  Object.fromEntries(derivation.settings.map((s) => [s.id, said[s.id] ?? initialOf(s)]));

/**
 * Works records out of the layers of some sources.
 * @param crs the plane that is worked in
 * @returns with findings that also tell of the faults, and of what the sources themselves could not take
 * @throws Problem `derive-degrees` where the system is no plane; those of the operation
 */
export async function deriveRecords(
  derivation: Derivation,
  sources: readonly DerivationSource[],
  { roles, settings, name, crs }: { roles: LayerRoles; settings: OptionValues; name: string; crs: Crs },
  passed: (records: number) => void = () => {},
): Promise<Derived> {
  if (!isPlane(crs))
    throw new Problem('derive-degrees', `${label(crs)} is in degrees, and lengths and areas want a plane. Choose a system that is one.`);
  const curved = new Map<string, number>();
  const derived = await derivation.run({
    records: (role) => placedIn(sources, roles[role] ?? [], crs, curved, passed),
    has: (role) => (roles[role] ?? []).length > 0,
    settings: settingsOf(derivation, settings),
    name,
    unit_m: metresPerUnit(crs, null),
    crs,
  });
  const used = Object.values(roles).flat();
  return {
    ...derived,
    findings: [
      ...sources.filter((s) => used.some((u) => u.source === s.name)).flatMap((s) => s.findings.map(({ left: _left, ...f }) => f)),
      ...chordsOf([...curved.values()].reduce((n, c) => n + c, 0)),
      ...(derivation.heights ? heightFindings(sources, used, crs) : []),
      ...layersLeft(sources, used),
      ...derived.findings,
      ...faultFindings(derived.faults),
    ],
  };
}

/** Every record of some layers in the plane that is worked in, curves in chords. @param curved gets how many records of each layer have some */
async function* placedIn(
  sources: readonly DerivationSource[],
  layers: readonly LayerOf[],
  crs: Crs,
  curved: Map<string, number>,
  passed: (records: number) => void,
): AsyncGenerator<FeatureBatch> {
  for (const source of sources) {
    const own = layers.filter((l) => l.source === source.name).map((l) => l.layer);
    if (own.length === 0) continue;
    for (const layer of own) curved.set(`${source.name}\n${layer}`, 0);
    const way = sourceTransform(source.name, source.placed, crs);
    for await (const batch of source.records()) {
      if (!own.includes(batch.layer)) continue;
      const key = `${source.name}\n${batch.layer}`;
      for (let i = 0; i < batch.count; i++) if (curveLoad(batch, i)) curved.set(key, curved.get(key)! + 1);
      yield transformBatch(placeBatch(batch, way, DERIVED_CHORD_M), way.transform).batch;
      passed(batch.count);
    }
  }
}

const chordsOf = (count: number): Finding[] =>
  count === 0
    ? []
    : [
        {
          code: 'curves-as-chords',
          severity: 'info',
          message: `Records have curves: chords stand for them, within ${DERIVED_CHORD_M * 1000} mm.`,
          count,
        },
      ];

/** What is to be known of heights that are worked on together: in which systems they are, and what becomes of them on the way. */
function heightFindings(sources: readonly DerivationSource[], used: readonly LayerOf[], crs: Crs): Finding[] {
  const own = (s: DerivationSource): LayerProfile[] => s.layers.filter((l) => used.some((u) => is(u, { source: s.name, layer: l.name })));
  // an elevation model has no layers, and heights are all that it has
  const high = sources.filter((s) =>
    s.layers.length === 0 ? used.some((u) => u.source === s.name) : own(s).some((l) => l.groups.some((g) => g.heights)),
  );
  const told = high.flatMap((s): Finding[] => {
    const stated = verticalOf(s.placed.crs);
    const note =
      sourceTransform(s.name, s.placed, crs).transform.heightNote ??
      (stated && !verticalOf(crs) ? `Heights stay those of ${stated.name}, of which ${label(crs)} says nothing.` : null);
    return note ? [{ code: 'heights-as-they-are', severity: 'caution', message: note, count: 1, location: s.name }] : [];
  });
  const systems = new Map(high.map((s) => [s.name, verticalOf(s.placed.crs)?.name ?? null]));
  if (new Set(systems.values()).size < 2) return told;
  const each = [...systems].map(([name, system]) => `${name} ${system === null ? 'does not say which it has' : `has those of ${system}`}`);
  return [
    ...told,
    {
      code: 'heights-differ',
      severity: 'wrong',
      message: `Heights are not of one system: ${each.join('; ')}. Place them in systems with the same heights, or add what lies between.`,
      count: systems.size,
    },
  ];
}

/** Layers of the sources that nothing was worked out of. */
function layersLeft(sources: readonly DerivationSource[], used: readonly LayerOf[]): Finding[] {
  const left = sources.flatMap((s) =>
    s.layers.filter((l) => !used.some((u) => is(u, { source: s.name, layer: l.name }))).map((l) => l.name),
  );
  return left.length === 0
    ? []
    : [
        {
          code: 'layers-left',
          severity: 'info',
          message: `Layers have no part in this: ${left.slice(0, LISTED).join(', ')}${left.length > LISTED ? ' and others' : ''}.`,
          count: left.length,
        },
      ];
}

/** Names of layers that a sentence has room for. */
const LISTED = 8;
