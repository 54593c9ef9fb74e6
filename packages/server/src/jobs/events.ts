import type { LiveEvent } from '@pontrel/contract/job';

/** Tells everybody who listens what has changed. */
export class Events {
  private readonly listeners = new Set<(event: LiveEvent) => void>();

  listen(listener: (event: LiveEvent) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  emit(event: LiveEvent): void {
    for (const listener of this.listeners) listener(event);
  }
}
