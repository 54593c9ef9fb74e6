import { rmSync } from 'node:fs';
import { unpackedFolders } from '@pontrel/host-node/image-engine';

/** Folders that are gone when the command is, however it ends. */
const folders = new Set<string>();

/** Has a folder removed if a signal ends the command before its work does. @returns what takes it off the list again */
export function removedAtEnd(folder: string): () => void {
  folders.add(folder);
  return () => folders.delete(folder);
}

const SIGNALS = { SIGINT: 130, SIGTERM: 143 } as const;

/** Clears away what is half made when somebody stops the command; the exit status is the shell's for the signal. */
export function clearAwayOnSignals(): void {
  for (const [signal, status] of Object.entries(SIGNALS))
    process.on(signal, () => {
      for (const folder of [...folders, ...unpackedFolders()]) rmSync(folder, { recursive: true, force: true });
      process.exit(status);
    });
}
