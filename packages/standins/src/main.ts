import { insertCard, makeCard } from './field-controller/card';

const [what, folder, type] = process.argv.slice(2);
if (what === 'make-card' && folder && type) console.log(`${folder} plays the card of ${(await makeCard(folder, type)).model}.`);
else if (what === 'insert-card' && folder)
  for (const { file, accepted, reasons } of await insertCard(folder)) console.log(`${file}: ${accepted ? 'accepted' : reasons.join(' ')}`);
else {
  console.error('standins make-card FOLDER TYPE | standins insert-card FOLDER');
  process.exitCode = 2;
}
