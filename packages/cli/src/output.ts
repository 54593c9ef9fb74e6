import path from 'node:path';
import { type CrossingSource, runDeliverable, type RunReport } from '@pontrel/core/crossing/pipeline';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { accountJson, findingText } from './account-json';
import { runInPlace } from './in-place';
import { BY } from './said-by';

export interface Written {
  report: RunReport;
  files: { path: string; sets: number[] }[];
}

/** Runs a deliverable, and puts its files in their place. */
export async function writeProved(
  recipe: Recipe,
  deliverable: Deliverable,
  sources: readonly CrossingSource[],
  folder: string,
): Promise<Written> {
  const { report } = await runInPlace(deliverable.name, folder, (partial, watches) =>
    runDeliverable(recipe, deliverable, sources, partial, watches),
  );
  const { format, plan, target } = report.prepared;
  const files = format.features.write!.files(plan.sets, { stem: target.stem, options: target.options });
  return {
    report,
    files:
      report.proof.status === 'failed'
        ? []
        : files.filter((f) => f.sets.length > 0).map((f) => ({ path: path.join(folder, f.name), sets: f.sets })),
  };
}

/** What --json prints of some written deliverables, and what a person reads. */
export function resultOf(
  written: readonly Written[],
  more: readonly RunReport['findings'][number][] = [],
): { json: unknown; text: string; exit: 0 | 1 } {
  const proofs = written.map((w) => w.report.proof);
  const status = (['failed', 'differs', 'match'] as const).find((s) => proofs.some((p) => p.status === s))!;
  const account = written.flatMap((w) => w.report.account);
  const findings = [...more, ...written.flatMap((w) => w.report.findings)];
  return {
    json: {
      outputs: written.flatMap(({ report, files }) =>
        files.map((f) => ({
          path: f.path,
          format: report.prepared.format.id,
          layers: f.sets.map((k) => ({ name: report.prepared.plan.sets[k]!.name, count: report.written[k]! })),
        })),
      ),
      proof: {
        status,
        records: { in: sum(proofs, (p) => p.records.in), out: sum(proofs, (p) => p.records.out) },
        maxDeviation_m: Math.max(...proofs.map((p) => p.maxDeviation_m)),
        differences: proofs.flatMap((p) => p.differences),
        ways: proofs.flatMap((p) => p.ways ?? []),
      },
      account: account.map(accountJson),
      findings,
    },
    text: [...written.flatMap(textOf), ...findings.filter((f) => f.severity !== 'info').map(findingText)].join('\n'),
    exit: status === 'failed' ? 1 : 0,
  };
}

function textOf({ report: { prepared, proof, account }, files }: Written): string[] {
  const { crs } = prepared.target;
  return [
    ...files.map((f) => `wrote ${f.path}`),
    `${crs.id ?? crs.name}; proof: ${proof.status}, ${proof.records.out} of ${proof.records.in} records, at most ${(proof.maxDeviation_m * 1000).toPrecision(3)} mm off`,
    ...proof.differences.map(
      (d) => `  ${d.expected ? 'as forecast' : 'differs'}: ${d.count} × ${d.message} (${d.set}${d.field ? `.${d.field}` : ''})`,
    ),
    ...account
      .filter((row) => row.left.length > 0)
      .map(
        (row) =>
          `  ${row.source}, ${row.layer}: ${row.crossed} of ${row.read} crossed; ${row.left.map((l) => `${l.message} (${BY[l.by]})`).join('; ')}`,
      ),
  ];
}

const sum = <T>(list: readonly T[], pick: (item: T) => number): number => list.reduce((n, item) => n + pick(item), 0);
