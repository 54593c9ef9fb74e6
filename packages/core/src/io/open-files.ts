import type { FolderSink } from './bytes';

/** What {@link closingAfterFailure} remembers of the work's files. */
export interface OpenFiles extends FolderSink {
  /** Closes all that was opened. An error of that is no news beside the one that ended the work. */
  closeAll(): Promise<void>;
}

/**
 * A folder that remembers what is opened in it to be written, so that work which breaks off in the middle leaves nothing open:
 * a process in which many runs fail would come to the end of its descriptors.
 */
export function closingAfterFailure(folder: FolderSink): OpenFiles {
  const opened: { close(): Promise<void> | void }[] = [];
  const remember = <T extends { close(): Promise<void> | void }>(one: T): T => {
    opened.push(one);
    return one;
  };
  return {
    create: async (name) => remember(await folder.create(name)),
    scratch: async () => remember(await folder.scratch()),
    database: async (name, from) => remember(await folder.database(name, from)),
    async closeAll() {
      for (const one of opened)
        try {
          await one.close();
        } catch {
          // told already by what ended the work
        }
    },
  };
}
