import { z } from 'zod';
import { parseTemplate, type Template } from '../filter/template';
import type { FeatureBatch } from '../model/batch';
import { Problem } from '../model/problem';
import { selectRecords } from '../model/select-records';
import type { Operation } from './operation';

/** Layers that the records of one layer may be told apart into. */
const MOST_LAYERS = 2000;

/** The layer of the target that a layer goes into. */
export const TargetLayer = z.string().min(1).max(120);

interface ToLayer {
  to?: string | undefined;
}

/** The layer of a rule as a text with fields in braces; null where none is named, a sentence where it cannot be read. */
export function targetLayer(rule: ToLayer): Template | string | null {
  return rule.to === undefined ? null : parseTemplate(rule.to);
}

/** Whether the records of a layer go into different ones, by their own fields. */
export function tellsApart(rule: ToLayer): boolean {
  const target = targetLayer(rule);
  return target !== null && typeof target !== 'string' && target.fields.length > 0;
}

/** The one layer that all records of a rule go into; undefined where it names none, or where each record says so itself. */
export function oneTarget(rule: ToLayer): string | undefined {
  const target = targetLayer(rule);
  return target === null || typeof target === 'string' || target.fields.length > 0 ? undefined : (target.text ?? undefined);
}

/** Sends each record into the layer that its own fields name. */
export const byFields: Operation<string, object, ToLayer> = {
  id: 'to',
  scope: 'record',
  schema: TargetLayer,
  parameters(layer, rules) {
    const rule = rules[layer];
    return rule && tellsApart(rule) ? rule.to : undefined;
  },
  sentence: (to) => `into layers by ${to}`,
  tally: () => ({}),
  stage(to, { layer }) {
    const template = parseTemplate(to) as Template;
    const known = new Set<string>();
    return {
      *apply(batch) {
        const rows = new Map<string | undefined, number[]>();
        for (let i = 0; i < batch.count; i++) {
          const target = template.of(batch, i)?.trim() || undefined;
          const own = rows.get(target);
          if (own) own.push(i);
          else rows.set(target, [i]);
          if (target !== undefined && known.add(target).size > MOST_LAYERS)
            throw new Problem(
              'too-many-layers',
              `"${to}" makes more than ${MOST_LAYERS} layers of ${layer}. Name a field with fewer values in Shape.`,
            );
        }
        for (const [target, own] of rows) yield { ...selectRecords(batch, Uint32Array.from(own)), to: target } satisfies FeatureBatch;
      },
    };
  },
  effects: () => [],
};
