import path from 'node:path';
import { expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { shareOf } from '../share';
import { checkAll } from './check';
import { DRAWINGS } from './drawings';
import { harmed, soundFiles } from './harmed';
import { RECORDS } from './records';
import { TABLES } from './tables';

const { folder, remove } = temporaryFolder();
const files = harmed(soundFiles(path.join(folder, 'sound')));
remove();

it('there are hostile files by the hundred', () => {
  expect(DRAWINGS.length + RECORDS.length + TABLES.length + files.length).toBeGreaterThanOrEqual(300);
});

checkAll('a file harmed on its way', shareOf(files, 3));
