import { Button, Flex } from '@chakra-ui/react';
import { MousePointerClick } from 'lucide-react';
import { Link } from 'react-router';
import { joinFields } from '@pontrel/core/content/features/profile';
import { fieldText, valueText } from '@pontrel/core/filter/expected';
import { useCrossing } from '../crossing/use-crossing';
import { FilterInput } from '../components/FilterInput';
import { grouped } from '../components/numbers';
import { ICON, Select } from '../components/parts';
import { recordsOf } from '../records/address';
import { Rule } from './Rule';
import { useShaping } from './shaping';

/** Which records of a layer cross: by what is in their fields, where they lie, or because somebody picked them. */
export function WhereRule() {
  const crossing = useCrossing();
  const { name, layer, rule, chosen, differs, edit, report, onTyped } = useShaping();
  const { source } = chosen[0]!;
  const fields = joinFields(layer.profile.groups);
  const first = fields.find((f) => f.samples.length > 0);
  const example = first?.samples[0];
  // one layer's own; several layers have none in common that says the same of each
  const kept = chosen.length === 1 ? (rule.selections ?? []) : [];
  const placed =
    crossing.recipe.frame !== null && chosen.every((l) => (crossing.recipe.sources[l.source.name]?.placement ?? null) !== null);
  const set = (text: string): void =>
    edit(text === '' ? `all records of ${name}` : `filter of ${name}`, (r) => {
      if (text === '') delete r.where;
      else r.where = text;
    });
  return (
    <Rule
      title="Only where"
      of={['where']}
      aside={rule.where !== undefined && report ? `${grouped(report.where?.filtered ?? 0)} stay behind` : 'CQL2'}
    >
      <FilterInput
        label={`Only records of ${name} where`}
        value={rule.where ?? ''}
        hint={
          differs.has('where')
            ? 'one filter for all of them'
            : first && example !== null && example !== undefined
              ? `${fieldText(first.name)} = ${valueText(example)}`
              : 'all'
        }
        of={{ crossing: crossing.id, source: source.id, layer: chosen[0]!.layer.profile.name, fields, placed }}
        onChange={set}
        onTyped={onTyped}
      />
      {chosen.length === 1 && (
        <Flex mt="3px" gap="6px" align="center">
          {kept.length > 0 && (
            <Select
              label={`Kept selections of ${name}`}
              width="132px"
              value={kept.find((s) => s.where === rule.where)?.name ?? ''}
              options={[
                { value: '', label: rule.where === undefined ? 'all records' : 'as written' },
                ...kept.map((s) => ({ value: s.name, label: s.name })),
              ]}
              onChange={(wanted) => set(kept.find((s) => s.name === wanted)?.where ?? '')}
            />
          )}
          <Button asChild size="sm" variant="ghost" px="4px" color="verdigrisInk">
            <Link to={recordsOf(crossing.id, source.name, name)}>
              <MousePointerClick {...ICON} size={13} />
              Pick records
            </Link>
          </Button>
        </Flex>
      )}
    </Rule>
  );
}
