import { grouped } from '../components/numbers';
import { Choice } from '../components/parts';
import { Rule } from './Rule';
import { useShaping } from './shaping';

/** Whether of records with the same geometry only the first crosses, whatever data the others have. */
export function Duplicates() {
  const { name, chosen, report, edit } = useShaping();
  const dropping = chosen.filter((l) => l.rule.dropDuplicates === true).length;
  return (
    <Rule
      title="Duplicate geometry"
      of={['dropDuplicates']}
      aside={report?.dropDuplicates ? grouped(report.dropDuplicates.dropped) : ''}
      control={
        <Choice
          small
          label={`Duplicate geometry of ${name}`}
          value={dropping === 0 ? 'keep' : dropping === chosen.length ? 'drop' : null}
          options={[
            { value: 'keep', label: 'Keep' },
            { value: 'drop', label: 'Drop' },
          ]}
          onChange={(how) =>
            edit(`${how} duplicates of ${name}`, (r) => {
              if (how === 'drop') r.dropDuplicates = true;
              else delete r.dropDuplicates;
            })
          }
        />
      }
    />
  );
}
