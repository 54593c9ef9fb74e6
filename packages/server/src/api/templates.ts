import { templateOf } from '@pontrel/core/crossing/deliverable-template';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import type { Catalog } from '../store/catalog';

/** Deliverables that are kept under their names, to be made of any crossing. */
export class Templates {
  constructor(private readonly catalog: Catalog) {}

  list(): Deliverable[] {
    return this.catalog.templates();
  }

  keep(deliverable: Deliverable): Deliverable[] {
    this.catalog.saveTemplate(templateOf(deliverable), new Date().toISOString());
    return this.list();
  }

  forget(name: string): Deliverable[] {
    this.catalog.deleteTemplate(name);
    return this.list();
  }
}
