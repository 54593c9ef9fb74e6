import { Problem } from '../../model/problem';
import { type Derivation, type DerivationInput, type Derived, lengthOf } from '../derived/derivation';
import { OF_SURFACES, SURFACE, surfaceOf } from '../surfaces/surface-role';
import { Ground } from '../surfaces/tin';
import { type GroundPlace, groundAlong } from './ground-along';
import { longProfile } from './long-profile';
import { FIELD_SETTINGS, fieldsOf } from './network-derivation';
import { readNetwork } from './read-network';
import { profileRecords } from './profile-records';

/** How a profile is drawn where nobody says otherwise. */
const TIMES = 10,
  SCALE = 500;

/** A run of a network from the side, as a drawing in a plane of its own. */
export const PROFILE: Derivation = {
  id: 'profile',
  title: 'Long profile',
  says: 'A run of pipes from the side: ground, rims, inverts, pipes with their diameters, slopes and stations, as a drawing in a plane of its own.',
  ownPlane: true,
  heights: true,
  roles: [
    { id: 'pipes', title: 'Pipes', kinds: ['line'] },
    { id: 'structures', title: 'Structures', kinds: ['point'] },
    { ...SURFACE, kinds: [], optional: true },
  ],
  settings: [
    { id: 'from', label: 'From structure', kind: 'text', asks: 'text', hint: 'its id' },
    { id: 'to', label: 'To structure', kind: 'text', asks: 'text', hint: 'the farthest' },
    {
      id: 'way',
      label: 'Followed',
      kind: 'choice',
      choices: [
        { value: 'downstream', label: 'downstream' },
        { value: 'upstream', label: 'upstream' },
      ],
    },
    { id: 'times', label: 'Heights enlarged', kind: 'number', initial: TIMES, least: 1, most: 1000 },
    { id: 'scale', label: 'Plotted at 1 to', kind: 'number', initial: SCALE, least: 1, most: 1e6 },
    { id: 'tolerance', label: 'Ends meet within', kind: 'length', initial_m: 0.05, orNone: true },
    ...FIELD_SETTINGS,
    ...OF_SURFACES,
  ],
  run: profile,
};

async function profile(input: DerivationInput): Promise<Derived> {
  const { records, has, settings, name, unit_m } = input;
  const tolerance = lengthOf(settings, 'tolerance', unit_m);
  const fields = fieldsOf(settings);
  const network = await readNetwork(records('pipes'), records('structures'), {
    tolerance,
    makeMissing: false,
    textReach: 0,
    fields,
    unit_m,
  });
  const number = (id: string): number => {
    const found = network.structures.findIndex((s) => s.id === id);
    if (found < 0) {
      const some = network.structures.slice(0, 8).map((s) => s.id);
      throw new Problem(
        'no-structure',
        `There is no structure "${id}". There are ${some.join(', ')}${network.structures.length > 8 ? ' and others' : ''}.`,
      );
    }
    return found;
  };
  const way = settings.way === 'upstream' ? 'upstream' : 'downstream';
  const [from, to] = [String(settings.from ?? ''), String(settings.to ?? '')];
  const run = longProfile(network, number(from), way, to === '' ? undefined : number(to));
  if (!run)
    throw new Problem(
      'no-run',
      to === '' ? `No pipe leads ${way} from ${from} to where the water leaves.` : `No pipe leads from ${from} ${way} to ${to}.`,
    );
  const ground = has('surface') ? await surfaceOf(input, 'surface') : null;
  const along: GroundPlace[] = ground ? groundAlong(new Ground(ground.tin), run.course) : [];
  const batches = profileRecords(run, along, { name, times: Number(settings.times), scale: Number(settings.scale), unit_m });
  const covers = run.pipes.flatMap((p, k) => {
    const cover = coverOf(along, run.structures[k]!.station, p, unit_m);
    return cover === null ? [] : [cover];
  });
  return {
    records: () => batches,
    figures: {
      pipes: run.pipes.length,
      structures: run.structures.length,
      length_m: run.structures.at(-1)!.station * unit_m,
      ...(covers.length > 0 ? { leastCover_m: Math.min(...covers) } : {}),
      outside: along.filter(([, height]) => height === null).length,
    },
    faults: [],
    findings: [...network.findings, ...(ground?.findings ?? [])],
  };
}

/** The least that the ground lies above the crown of a pipe, metres; null where either is not known. */
function coverOf(
  along: readonly GroundPlace[],
  station: number,
  { start, end, length, diameter }: { start: number | null; end: number | null; length: number; diameter: number | null },
  unit_m: number,
): number | null {
  if (start === null || end === null) return null;
  const over = along.flatMap(([s, height]) => {
    const t = length === 0 ? 0 : (s - station) / length;
    return height === null || t < 0 || t > 1 ? [] : [(height - start - (end - start) * t) * unit_m - (diameter ?? 0) / 1000];
  });
  return over.length === 0 ? null : Math.min(...over);
}
