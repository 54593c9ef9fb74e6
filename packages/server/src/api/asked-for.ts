import { type Deliverable, type Recipe } from '@pontrel/core/crossing/recipe';
import { Problem } from '@pontrel/core/model/problem';
import type { DataFolder } from '../store/data-folder';
import type { SourceRecord } from '../store/records';
import { storedFiles } from '../work/read-source';
import type { StoredSource } from '../work/stored-source';
import { summaryOf } from './views';

/** @throws Problem `deliverable-unknown` */
export function deliverableOf({ deliverables }: Recipe, id: string): Deliverable {
  const deliverable = deliverables.find((d) => d.id === id);
  if (!deliverable) throw new Problem('deliverable-unknown', 'This deliverable is not in the crossing any more.');
  return deliverable;
}

/** A source of records as a worker is told of it. */
export function storedSource(data: DataFolder, record: SourceRecord): StoredSource {
  const folder = data.source(record.crossing, record.id);
  return { ...summaryOf(record), format: record.format, files: storedFiles(folder, record.name, record.format, record.facts.reading) };
}
