import { type Deliverable, sourceOfArea } from './recipe';

/** A deliverable as it can be made of any crossing: all that is said of its format and its looks, and nothing of sources or a card. */
export function templateOf(deliverable: Deliverable): Deliverable {
  const { area, into: _into, without: _without, image, stem: _stem, ...own } = deliverable;
  const { sources: _sources, card: _card, split, ...ofImage } = image ?? { resampling: 'bilinear' as const };
  const { areas: _areas, ...splitByNumbers } = split ?? {};
  return {
    ...own,
    ...(area && sourceOfArea(area) === null ? { area } : {}),
    ...(image ? { image: { ...ofImage, ...(split?.into === undefined ? {} : { split: splitByNumbers }) } } : {}),
  };
}

/**
 * A deliverable of a crossing made from a template.
 * @param id of its own
 * @param taken names that deliverables of the crossing have
 */
export function fromTemplate(template: Deliverable, id: string, taken: readonly string[]): Deliverable {
  let { name } = template;
  for (let n = 2; taken.includes(name); n++) name = `${template.name.slice(0, 76)} ${n}`;
  return { ...template, id, name };
}
