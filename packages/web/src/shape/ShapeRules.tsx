import { FILLS } from '@pontrel/core/operations/fills';
import { BLOCK_TREATMENTS, type BlockTreatment } from '@pontrel/core/operations/blocks';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { MapPin, MousePointerClick, Plus, X } from 'lucide-react';
import { Link } from 'react-router';
import type { SourceLayer, SourceState } from '@pontrel/contract/crossing';
import { type LayerReport } from '@pontrel/core/operations/apply';
import { fieldText, valueText } from '@pontrel/core/filter/expected';
import { joinFields } from '@pontrel/core/content/features/profile';
import { tellsApart } from '@pontrel/core/operations/target-layer';
import { parseTemplate } from '@pontrel/core/filter/template';
import { deviation, grouped, plural } from '../components/numbers';
import { Choice, ICON, Mono, Muted, Section, Select, Tick } from '../components/parts';
import { FilterInput } from '../components/FilterInput';
import { recordsOf } from '../records/address';
import { TypedLength, TypedText } from '../components/Typed';

type Edit = (label: string, how: (rule: LayerRule) => void) => void;

const WAY_NAMES: Record<BlockTreatment, string> = {
  point: 'as a point with its data',
  apart: 'taken apart',
  outline: 'as the outline around it',
};

/** Which layer the records go into, and what they all have in common there. */
export function TargetLayer({
  name,
  rule,
  edit,
  others,
  told,
}: {
  name: string;
  rule: LayerRule;
  edit: Edit;
  others: readonly string[];
  told: string | undefined;
}) {
  const shared = rule.to !== undefined ? others.filter((o) => o.toLowerCase() === rule.to!.toLowerCase()).length : 0;
  const constants = rule.constants ?? [];
  const change = (k: number, part: { name?: string; value?: string }): void =>
    edit(`constant of ${name}`, (r) => {
      r.constants = constants.map((c, n) => (n === k ? { ...c, ...part } : c)).filter((c) => c.name !== '');
    });
  return (
    <Section title="Goes into">
      <TypedText
        label={`Layer that ${name} goes into`}
        value={rule.to ?? name}
        maxLength={120}
        fault={layerFault}
        onChange={(text) =>
          edit(`layer of ${name}`, (r) => {
            if (text.trim() === name) delete r.to;
            else r.to = text.trim();
          })
        }
      />
      {tellsApart(rule) && (
        <Muted textStyle="small" display="block" mt="4px">
          {told ?? 'a layer for each value'}
        </Muted>
      )}
      {shared > 0 && (
        <Muted textStyle="small" display="block" mt="4px">
          together with {plural(shared, 'other layer')}
        </Muted>
      )}
      {constants.map((c, k) => (
        <Grid key={k} templateColumns="1fr 1fr 24px" gap="5px" mt="6px" alignItems="center">
          <TypedText
            label={`Name of constant ${k + 1}`}
            value={c.name}
            maxLength={64}
            onChange={(text) => change(k, { name: text.trim() })}
          />
          <TypedText
            label={`Value of constant ${k + 1}`}
            value={String(c.value)}
            maxLength={254}
            onChange={(text) => change(k, { value: text })}
          />
          <Button
            size="sm"
            variant="ghost"
            px="0"
            minW="24px"
            h="24px"
            aria-label={`Remove constant ${c.name}`}
            onClick={() =>
              edit(`remove constant ${c.name}`, (r) => {
                r.constants = constants.filter((_, n) => n !== k);
                if (r.constants.length === 0) delete r.constants;
              })
            }
          >
            <X {...ICON} size={13} />
          </Button>
        </Grid>
      ))}
      <Button
        size="sm"
        variant="ghost"
        mt="5px"
        px="4px"
        h="24px"
        color="verdigrisInk"
        onClick={() =>
          edit(`add a constant to ${name}`, (r) => {
            r.constants = [...constants, { name: freeName(constants.map((c) => c.name)), value: name.toLowerCase() }];
          })
        }
      >
        <Plus {...ICON} size={13} />
        Same value on every record
      </Button>
    </Section>
  );
}

/** A name, or a text with fields in braces that gives each record the name of its layer. */
function layerFault(text: string): string | null {
  if (text.trim() === '') return 'A layer needs a name. {FIELD} makes one for each value of a field.';
  const parsed = parseTemplate(text);
  return typeof parsed === 'string' ? parsed : null;
}

function freeName(taken: readonly string[]): string {
  if (!taken.includes('kind')) return 'kind';
  for (let n = 2; ; n++) if (!taken.includes(`kind_${n}`)) return `kind_${n}`;
}

/** Which records of a layer cross: by what is in their fields, where they lie, or because somebody picked them. */
export function WhereRule({
  crossing,
  source,
  layer,
  rule,
  placed,
  edit,
  report,
}: {
  crossing: string;
  source: SourceState;
  layer: SourceLayer;
  rule: LayerRule;
  placed: boolean;
  edit: Edit;
  report: LayerReport | null;
}) {
  const { name } = layer.profile;
  const fields = joinFields(layer.profile.groups);
  const first = fields.find((f) => f.samples.length > 0);
  const example = first?.samples[0];
  const kept = rule.selections ?? [];
  const set = (text: string): void =>
    edit(text === '' ? `all records of ${name}` : `filter of ${name}`, (r) => {
      if (text === '') delete r.where;
      else r.where = text;
    });
  return (
    <Section title="Only where" aside={rule.where !== undefined && report ? `${grouped(report.where?.filtered ?? 0)} stay behind` : ''}>
      <FilterInput
        label={`Only records of ${name} where`}
        value={rule.where ?? ''}
        hint={first && example !== null && example !== undefined ? `${fieldText(first.name)} = ${valueText(example)}` : 'all'}
        of={{ crossing, source: source.id, layer: name, fields, placed }}
        onChange={set}
      />
      <Flex mt="6px" gap="6px" align="center">
        {kept.length > 0 && (
          <Select
            label={`Kept selections of ${name}`}
            width="132px"
            value={kept.find((s) => s.where === rule.where)?.name ?? ''}
            options={[
              { value: '', label: rule.where === undefined ? 'all records' : 'as written' },
              ...kept.map((s) => ({ value: s.name, label: s.name })),
            ]}
            onChange={(chosen) => set(kept.find((s) => s.name === chosen)?.where ?? '')}
          />
        )}
        <Button asChild size="sm" variant="ghost" px="4px" color="verdigrisInk">
          <Link to={recordsOf(crossing, source.name, name)}>
            <MousePointerClick {...ICON} size={13} />
            Pick records
          </Link>
        </Button>
      </Flex>
    </Section>
  );
}

/** How each block of a layer crosses. */
export function BlockRules({ layer, rule, edit, report }: { layer: SourceLayer; rule: LayerRule; edit: Edit; report: LayerReport | null }) {
  const blocks = layer.blocks ?? [];
  if (blocks.length === 0) return null;
  return (
    <Section title="Blocks" aside={blocks.length > 1 ? plural(blocks.length, 'block') : ''}>
      <Flex direction="column" gap="8px">
        {blocks.map((b) => (
          <Box key={b.name}>
            <Flex justify="space-between" gap="8px">
              <Mono truncate title={b.name}>
                {b.name}
              </Mono>
              <Mono color="muted">{grouped(b.count)}</Mono>
            </Flex>
            <Select
              label={`How ${b.name} crosses`}
              width="100%"
              value={rule.blocks?.[b.name] ?? 'point'}
              options={BLOCK_TREATMENTS.filter((way) => way === 'point' || b.parts > 0).map((way) => ({
                value: way,
                label: way === 'apart' ? `in ${plural(b.parts, 'part')}, data on each` : WAY_NAMES[way],
              }))}
              onChange={(way) =>
                edit(`${b.name} ${WAY_NAMES[way]}`, (r) => {
                  r.blocks = { ...r.blocks, [b.name]: way };
                  if (way === 'point') delete r.blocks[b.name];
                  if (Object.keys(r.blocks).length === 0) delete r.blocks;
                })
              }
            />
          </Box>
        ))}
      </Flex>
      {report?.blocks && report.blocks.apart > 0 && (
        <Mono display="block" mt="6px">
          {plural(report.blocks.apart, 'block')} → {plural(report.blocks.parts, 'part')}
        </Mono>
      )}
    </Section>
  );
}

export function FillRules({ layer, rule, edit }: { layer: SourceLayer; rule: LayerRule; edit: Edit }) {
  if (!layer.profile.groups.some((g) => FILLS.has(g.entity) && g.kind === 'polygon')) return null;
  return (
    <Section title="Fills">
      <Choice
        small
        label="What becomes of fills"
        value={rule.fills ?? 'area'}
        options={[
          { value: 'area', label: 'Areas' },
          { value: 'outline', label: 'Outlines' },
          { value: 'both', label: 'Both' },
        ]}
        onChange={(fills) =>
          edit(`fills as ${fills}`, (r) => {
            if (fills === 'area') delete r.fills;
            else r.fills = fills;
          })
        }
      />
    </Section>
  );
}

/** Texts of a layer given to the objects of another one. */
export function TextRules({
  source,
  layer,
  rule,
  edit,
  report,
  onFind,
}: {
  source: SourceState;
  layer: SourceLayer;
  rule: LayerRule;
  edit: Edit;
  report: LayerReport | null;
  onFind(at: { x: number; y: number }): void;
}) {
  const [shown, setShown] = useState(false);
  if (!layer.profile.groups.some((g) => g.kind === 'text')) return null;
  const { name } = layer.profile;
  const areas = source.layers.filter((l) => l.profile.name !== name && l.profile.groups.some((g) => g.kind === 'polygon'));
  const objects = source.layers.filter((l) => l.profile.name !== name && l.profile.groups.some((g) => g.kind !== 'text'));
  const transfer = rule.textTransfer;
  const texts = report?.textTransfer;
  const first = areas[0] ?? objects[0];
  const set = (label: string, part: Partial<NonNullable<LayerRule['textTransfer']>>): void =>
    edit(label, (r) => {
      if (r.textTransfer) Object.assign(r.textTransfer, part);
    });
  return (
    <Section title="Texts" aside={transfer && report ? `${grouped(report.textTransfer?.transferred ?? 0)} given` : ''}>
      <Select
        label={`What becomes of the texts of ${name}`}
        width="100%"
        value={transfer?.how ?? 'own'}
        options={[
          { value: 'own', label: 'stay points of their own' },
          ...(areas.length > 0 ? [{ value: 'in', label: 'go to the area they stand in' }] : []),
          ...(first ? [{ value: 'near', label: 'go to the nearest object' }] : []),
        ]}
        onChange={(how) =>
          edit(`texts of ${name}`, (r) => {
            if (how === 'own') delete r.textTransfer;
            else
              r.textTransfer = {
                layer: r.textTransfer?.layer ?? (how === 'in' ? areas[0]! : first!).profile.name,
                field: r.textTransfer?.field ?? 'text',
                within_m: r.textTransfer?.within_m ?? 5,
                how: how as 'in' | 'near',
              };
          })
        }
      />
      {transfer && (
        <Grid templateColumns="66px minmax(0, 1fr)" gap="6px" mt="7px" alignItems="center">
          <Muted>of layer</Muted>
          <Select
            label="Layer that the texts go to"
            width="100%"
            value={transfer.layer}
            options={(transfer.how === 'in' ? areas : objects).map((l) => ({ value: l.profile.name, label: l.profile.name }))}
            onChange={(to) => set(`texts go to ${to}`, { layer: to })}
          />
          <Muted>as field</Muted>
          <TypedText
            label="Field that the texts become"
            value={transfer.field}
            maxLength={64}
            fault={(text) => (text.trim() === '' ? 'A field needs a name.' : null)}
            onChange={(text) => set(`field ${text}`, { field: text.trim() })}
          />
          {transfer.how === 'near' && (
            <>
              <Muted>within</Muted>
              <TypedLength
                label="Largest distance of a text from its object"
                metres={transfer.within_m}
                bare="m"
                onChange={(m) => {
                  if (m !== null) set('reach of texts', { within_m: m });
                }}
              />
            </>
          )}
        </Grid>
      )}
      {transfer && texts && (
        <Box mt="8px">
          {texts.matched.slice(0, 1).map((t) => (
            <Muted key={t.text} display="block" textStyle="small" truncate>
              “{t.text.replaceAll('\n', ' ↵ ')}” → {transfer.field} of {transfer.layer}
            </Muted>
          ))}
          {texts.unmatchedCount === 0 ? (
            <Muted textStyle="small">Every text found its object.</Muted>
          ) : (
            <Button size="sm" variant="ghost" px="0" h="24px" color="amberInk" aria-expanded={shown} onClick={() => setShown(!shown)}>
              {plural(texts.unmatchedCount, 'text')} found no object
            </Button>
          )}
          {shown && (
            <Box as="ul" listStyleType="none" maxH="132px" overflowY="auto">
              {texts.unmatched.map((t, k) => (
                <li key={k}>
                  <Button
                    size="sm"
                    variant="ghost"
                    w="100%"
                    h="24px"
                    px="2px"
                    justifyContent="flex-start"
                    title="Find it on the map"
                    onClick={() => onFind(t)}
                  >
                    <MapPin {...ICON} size={12} />
                    <Text truncate>{t.text.replaceAll('\n', ' ↵ ')}</Text>
                  </Button>
                </li>
              ))}
            </Box>
          )}
        </Box>
      )}
    </Section>
  );
}

/** Duplicates dropped and lines simplified. */
export function Tidying({ layer, rule, edit, report }: { layer: SourceLayer; rule: LayerRule; edit: Edit; report: LayerReport | null }) {
  const { name } = layer.profile;
  const lines = layer.profile.groups.some((g) => g.kind === 'line' || g.kind === 'polygon');
  return (
    <Section title="Tidying">
      <Flex align="center" gap="8px" h="25px">
        <Tick
          label={`Drop duplicates of ${name}`}
          checked={rule.dropDuplicates === true}
          onChange={(on) =>
            edit(`${on ? 'drop' : 'keep'} duplicates of ${name}`, (r) => {
              if (on) r.dropDuplicates = true;
              else delete r.dropDuplicates;
            })
          }
        />
        <Text flex="1">Drop what lies twice</Text>
        {report?.dropDuplicates && <Mono color="muted">{grouped(report.dropDuplicates.dropped)}</Mono>}
      </Flex>
      {lines && (
        <>
          <Grid templateColumns="1fr 92px" alignItems="center" gap="8px" mt="3px">
            <Muted>Simplify lines by at most</Muted>
            <TypedLength
              label={`Tolerance for simplifying ${name}`}
              metres={rule.simplify_m ?? null}
              bare="mm"
              hint="not at all"
              onChange={(m) =>
                edit(`simplifying ${name}`, (r) => {
                  if (m === null) delete r.simplify_m;
                  else r.simplify_m = m;
                })
              }
            />
          </Grid>
          {report?.simplify_m && (
            <Mono display="block" mt="5px">
              {grouped(report.simplify_m.before)} → {plural(report.simplify_m.after, 'vertex', 'vertices')},{' '}
              {report.simplify_m.shift_m === 0 ? 'nothing moved' : `at most ${deviation(report.simplify_m.shift_m)} off`}
            </Mono>
          )}
        </>
      )}
    </Section>
  );
}
