import path from 'node:path';
import { type ProofStatus, worstOf } from '@pontrel/core/content/features/proof';
import { type DrawingReport, runWithImages } from '@pontrel/core/crossing/drawing-images';
import type { CrossingSource } from '@pontrel/core/crossing/crossing-source';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { type FileImage, fileImage } from '@pontrel/host-node/file-image';
import { imageThreads } from '@pontrel/host-node/image-threads';
import { accountJson, accountLines, findingText } from './account-json';
import { runInPlace } from './in-place';
import type { Result } from './result';

export interface Written {
  report: DrawingReport;
  files: { path: string; sets: number[] }[];
}

/** Runs a deliverable, and puts its files in their place. @param images those of the crossing */
export async function writeProved(
  recipe: Recipe,
  deliverable: Deliverable,
  sources: readonly CrossingSource[],
  folder: string,
  images: readonly FileImage[] = [],
): Promise<Written> {
  const { report } = await runInPlace(deliverable.name, folder, (partial, watches, at) =>
    runWithImages(recipe, deliverable, sources, images.map(fileImage), partial, { threads: imageThreads(images, at) }, watches),
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
export function resultOf(written: readonly Written[], more: readonly DrawingReport['findings'][number][] = []): Result {
  const proofs = written.map((w) => w.report.proof);
  const account = written.flatMap((w) => w.report.account);
  const findings = [...more, ...written.flatMap((w) => w.report.findings)];
  return {
    json: {
      outputs: written.flatMap(({ report, files }) =>
        files.map((f) => ({
          path: f.path,
          format: report.prepared.format.id,
          ...(report.below ? { images: report.below.files.map((name) => path.join(path.dirname(f.path), name)) } : {}),
          layers: f.sets.map((k) => ({ name: report.prepared.plan.sets[k]!.name, count: report.written[k]! })),
        })),
      ),
      proof: {
        status: worstOf(proofs),
        records: { in: sum(proofs, (p) => p.records.in), out: sum(proofs, (p) => p.records.out) },
        maxDeviation_m: Math.max(...proofs.map((p) => p.maxDeviation_m)),
        differences: proofs.flatMap((p) => p.differences),
        ways: proofs.flatMap((p) => p.ways ?? []),
        below: proofs.flatMap(({ below: own }) =>
          own
            ? [
                {
                  status: own.status,
                  size: own.size,
                  pixels: own.values,
                  registration: { rms_px: own.registration.rms_px, largest_px: own.registration.largest_px },
                  differences: own.differences,
                  account: own.account.map((row) => ({ ...(accountJson(row) as object), missing: row.missing })),
                },
              ]
            : [],
        ),
      },
      account: account.map(accountJson),
      findings,
    },
    text: [...written.flatMap(textOf), ...findings.filter((f) => f.severity !== 'info').map(findingText)].join('\n'),
    exit: worstOf(proofs) === 'failed' ? 1 : 0,
  };
}

/** What --json prints of a run: that of records and that of images alike. */
interface Printed {
  outputs: unknown[];
  proof: { status: ProofStatus; records: { in: number; out: number }; maxDeviation_m: number; differences: unknown[] };
  account: unknown[];
  findings: unknown[];
}

/** Several runs as one: where records and images were written, the proofs of the images stand beside that of the records. */
export function together(results: readonly Result[], more: readonly DrawingReport['findings'][number][]): Result {
  const [first, ...others] = results as [Result, ...Result[]];
  const told = more.filter((f) => f.severity !== 'info').map(findingText);
  const printed = results.map((r) => r.json as Printed);
  const proofs = printed.map((p) => p.proof);
  return {
    json: {
      ...(first.json as Printed),
      outputs: printed.flatMap((p) => p.outputs),
      proof: {
        ...printed[0]!.proof,
        status: worstOf(proofs),
        records: { in: sum(proofs, (p) => p.records.in), out: sum(proofs, (p) => p.records.out) },
        maxDeviation_m: Math.max(...proofs.map((p) => p.maxDeviation_m)),
        differences: proofs.flatMap((p) => p.differences),
        ...(others.length > 0 ? { each: proofs } : {}),
      },
      account: printed.flatMap((p) => p.account),
      findings: [...more, ...printed.flatMap((p) => p.findings)],
    },
    text: [...results.map((r) => r.text), ...told].filter((t) => t !== '').join('\n'),
    exit: results.some((r) => r.exit === 1) ? 1 : 0,
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
    ...(proof.below
      ? [
          `  image below: ${proof.below.status}, ${proof.below.size.width} by ${proof.below.size.height} pixels`,
          ...proof.below.differences.map((d) => `  ${d.expected ? 'as forecast' : 'differs'}: ${d.message}`),
        ]
      : []),
    ...accountLines(account),
  ];
}

const sum = <T>(list: readonly T[], pick: (item: T) => number): number => list.reduce((n, item) => n + pick(item), 0);
