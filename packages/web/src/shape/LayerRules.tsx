import { Box, Flex, Text } from '@chakra-ui/react';
import type { ForecastRow } from '@pontrel/core/content/features/forecast';
import { sentencesOf } from '@pontrel/core/operations/apply';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { excludedOf } from '../deliver/fates';
import { grouped, plural } from '../components/numbers';
import { Chip, Mono, Muted, Note, Scroll } from '../components/parts';
import { BlockRules } from './BlockRules';
import { Constants } from './Constants';
import { Curves } from './Curves';
import { DrawnAs } from './DrawnAs';
import { Duplicates } from './Duplicates';
import { setsOf } from './field-rows';
import { FillRules } from './FillRules';
import { JoinRule } from './JoinRule';
import { Measures } from './Measures';
import { Objects } from './Objects';
import { RuleGroup } from './Rule';
import { RULE_GROUPS, type RuleGroupId } from './rule-groups';
import { rowOf, type Shaping, useShaping } from './shaping';
import { Simplify } from './Simplify';
import { StyleRules } from './StyleRules';
import { TargetLayer } from './TargetLayer';
import { TextRules } from './TextRules';
import { ValueRules } from './ValueRules';
import { WhereRule } from './WhereRule';

/** The rules of the chosen layers, in groups that fold. */
export function LayerRules({ onChoose }: { onChoose(key: string): void }) {
  const shaping = useShaping();
  const { name, chosen, layer, row } = shaping;
  const sum = (id: RuleGroupId): string => summary(id, shaping);
  return (
    <>
      <Box px="14px" pt="12px" pb="10px">
        <Flex justify="space-between" align="baseline" gap="8px">
          <Text as="h2" textStyle="title" flex="none">
            {chosen.length === 1 ? 'Rules' : `Rules for ${name}`}
          </Text>
          {chosen.length === 1 && <Mono truncate>{name}</Mono>}
        </Flex>
        {chosen.length > 1 ? (
          <Flex wrap="wrap" gap="5px" mt="7px" maxH="74px" overflowY="auto" scrollbarWidth="thin">
            {chosen.map((l) => (
              <button
                key={l.key}
                type="button"
                title={`Only ${l.layer.profile.name} of ${l.source.name}`}
                aria-label={`Choose only ${l.layer.profile.name}`}
                onClick={() => onChoose(l.key)}
              >
                <Chip mono>{l.layer.profile.name}</Chip>
              </button>
            ))}
          </Flex>
        ) : (
          row && <RowAccount row={row} />
        )}
      </Box>
      <Scroll pb="8px">
        <RuleGroup id="records" summary={sum('records')}>
          {chosen.length > 1 && <Accounts />}
          <WhereRule />
          <Objects />
          <Duplicates />
          <TargetLayer />
        </RuleGroup>
        <RuleGroup id="geometry" summary={sum('geometry')}>
          <BlockRules />
          <TextRules />
          <FillRules />
          <Curves />
          <Simplify />
        </RuleGroup>
        <RuleGroup id="fields" summary={sum('fields')}>
          <Measures />
          <Constants />
          <JoinRule />
          <ValueRules />
        </RuleGroup>
        <RuleGroup id="symbology" summary={sum('symbology')}>
          {row && <DrawnAs row={row} />}
          {layer.profile.groups.length > 0 && layer.profile.extent !== null ? (
            <StyleRules />
          ) : (
            <Muted textStyle="small">Nothing of it is drawn.</Muted>
          )}
        </RuleGroup>
      </Scroll>
    </>
  );
}

/** What becomes of the records of one layer, in a sentence, and what of them cannot cross. */
function RowAccount({ row }: { row: ForecastRow }) {
  const out = excludedOf(row);
  return (
    <>
      <Muted textStyle="small" display="block" mt="3px">
        {plural(row.records, 'record')}: {grouped(row.unchanged)} unchanged, {grouped(row.changed)} changed,{' '}
        {[out > 0 && `${grouped(out)} left out by you`, row.left > out ? `${grouped(row.left - out)} not carried` : 'none lost']
          .filter(Boolean)
          .join(', ')}
        .
      </Muted>
      {row.effects
        .filter((e) => e.effect === 'left' && e.by !== 'you')
        .map((e) => (
          <Note key={e.code + e.message} tone="wrong" mt="7px">
            {e.message}
          </Note>
        ))}
    </>
  );
}

/** How many records of each of several layers cross, and how many do not. */
function Accounts() {
  const { chosen, forecast } = useShaping();
  return (
    <table aria-label="Records of the chosen layers">
      <thead>
        <tr>
          <th>Layer</th>
          <th className="number">cross</th>
          <th className="number">left out</th>
          <th className="number" style={{ paddingRight: 0 }}>
            not carried
          </th>
        </tr>
      </thead>
      <tbody>
        {chosen.map((l) => {
          const row = rowOf(forecast, l);
          const out = row ? excludedOf(row) : 0;
          return (
            <tr key={l.key}>
              <td>
                <Mono>{l.layer.profile.name}</Mono>
              </td>
              <td className="number">{grouped(row ? row.unchanged + row.changed : 0)}</td>
              <td className="number">
                <Muted>{grouped(row ? out : l.layer.profile.count)}</Muted>
              </td>
              <td className="number" style={{ paddingRight: 0 }}>
                {row && <Muted {...(row.left > out ? { color: 'madderInk', fontWeight: 600 } : {})}>{grouped(row.left - out)}</Muted>}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What the rules of a folded group come to, in a line. */
function summary(id: RuleGroupId, { chosen, layer, rule, differs, forecast, row }: Shaping): string {
  const names: readonly (keyof LayerRule)[] = RULE_GROUPS.find((g) => g.id === id)!.rules;
  const own = Object.fromEntries(names.map((n) => [n, rule[n]])) as LayerRule;
  const said = sentencesOf(layer.profile.name, { [layer.profile.name]: own });
  if (names.some((n) => differs.has(n))) said.push(`rules that differ among the ${chosen.length}`);
  if (id === 'records' && rule.leftOut && rule.leftOut.length > 0)
    said.unshift(plural(rule.leftOut.length, 'kind of object', 'kinds of objects') + ' left out');
  if (id === 'fields') {
    const fields = chosen.flatMap((l) => setsOf(forecast, l)).flatMap((s) => s.fields);
    const renamed = fields.filter((f) => f.changes.some((c) => c.code === 'renamed')).length;
    said.unshift(`${plural(fields.length, 'field')}${renamed > 0 ? `, ${renamed} renamed` : ''}`);
  }
  if (id === 'symbology') {
    if (rule.label) said.unshift(`labelled by ${rule.label.field}`);
    if (row && row.symbology.length > 0) said.unshift(row.symbologyHow);
  }
  return said.length === 0 ? 'As in the file.' : `${said.join('; ')}.`;
}
