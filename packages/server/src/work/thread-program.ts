import { fileURLToPath } from 'node:url';

/** The built program of a thread that works on pictures, beside that of the job. */
export const THREAD = fileURLToPath(new URL('./image-thread.mjs', import.meta.url));
