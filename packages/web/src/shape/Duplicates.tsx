import { grouped } from '../components/numbers';
import { Choice } from '../components/parts';
import { Rule } from './Rule';
import { useShaping } from './shaping';

/** Whether of records that are the same in place and data only the first crosses. */
export function Duplicates() {
  const { name, chosen, report, edit } = useShaping();
  const dropping = chosen.filter((l) => l.rule.dropDuplicates === true).length;
  return (
    <Rule
      title="Exact duplicates"
      of={['dropDuplicates']}
      aside={report?.dropDuplicates ? grouped(report.dropDuplicates.dropped) : ''}
      control={
        <Choice
          small
          label={`Exact duplicates of ${name}`}
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
