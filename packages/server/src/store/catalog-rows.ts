import type { Job } from '@pontrel/contract/job';
import type { Proof } from '@pontrel/core/content/features/proof';
import { EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { readRecipe } from '@pontrel/core/crossing/recipe-upgrade';
import { Problem } from '@pontrel/core/model/problem';
import { z } from 'zod';
import type { BinnedSource, RunRecord, SourceRecord } from './records';

/** A row of the catalog as the database gives it. */
export type Raw = Record<string, string | number | null>;

export const text = (v: unknown): string => v as string;
const json = <T>(v: unknown): T => JSON.parse(v as string) as T;

export function sourceOf(r: Raw): SourceRecord {
  return {
    id: text(r.id),
    crossing: text(r.crossing),
    name: text(r.name),
    format: text(r.format),
    bytes: r.bytes as number,
    added: text(r.added),
    facts: json(r.facts),
    layers: json(r.layers),
    findings: json(r.findings),
  };
}

export function binnedOf(r: Raw): BinnedSource {
  return {
    source: json(r.source),
    layout: r.layout as number,
    binned: text(r.binned),
    by: r.by as string | null,
    rules: jsonOf(text(r.rules)) as BinnedSource['rules'],
  };
}

/** Stored JSON; null where it is none. */
export function jsonOf(stored: string): unknown {
  try {
    return json(stored);
  } catch {
    return null;
  }
}

/** @throws Problem `crossing-newer`, `crossing-damaged` */
export function recipeOf(stored: unknown): Recipe {
  const parsed = readRecipe(stored);
  if (parsed.success) return parsed.data;
  const { version } = z.object({ version: z.number() }).catch({ version: 0 }).parse(stored);
  if (version > EMPTY_RECIPE.version)
    throw new Problem('crossing-newer', 'Its rules were made by a newer Pontrel than this one; start that one. Nothing of it was changed.');
  const at = parsed.error.issues[0]?.path.join('.');
  throw new Problem(
    'crossing-damaged',
    `Its rules cannot be read any more${at ? ` (at ${at})` : ''}. Put back a copy of the catalog from the folder backups in the data folder, or delete the crossing.`,
  );
}

export function runOf(r: Raw): RunRecord {
  return {
    id: text(r.id),
    crossing: text(r.crossing),
    deliverable: text(r.deliverable),
    name: text(r.name),
    finished: text(r.finished),
    revision: r.revision as number,
    rules: text(r.rules),
    files: json(r.files),
    target: text(r.target),
    proof: soundProof(json(r.proof)),
    seconds: r.seconds as number,
    pinned: r.pinned === 1,
    recipe: jsonOf(text(r.recipe)) as Recipe | null,
  };
}

/** A proof as it can be shown: one that was stored with a number that is none says so. */
function soundProof(proof: Proof): Proof {
  if (Number.isFinite(proof.maxDeviation_m)) return proof;
  return {
    ...proof,
    status: 'failed',
    maxDeviation_m: 0,
    worst: null,
    differences: [
      {
        code: 'unreadable',
        set: '',
        count: 1,
        expected: false,
        samples: [],
        message: 'This proof was stored damaged. Run the deliverable again.',
      },
      ...proof.differences,
    ],
  };
}

export function jobOf(r: Raw): Job {
  return {
    id: text(r.id),
    crossing: text(r.crossing),
    kind: r.kind as Job['kind'],
    subject: text(r.subject),
    subjectId: text(r.subject_id),
    status: r.status as Job['status'],
    phase: text(r.phase),
    done: r.done as number,
    total: r.total as number,
    unit: r.unit as Job['unit'],
    message: r.message as string | null,
    started: text(r.started),
    ended: r.ended as string | null,
    result: r.result as string | null,
  };
}
