import { useState } from 'react';
import { Box, Button, Grid } from '@chakra-ui/react';
import type { SourceLayer } from '@pontrel/contract/crossing';
import { joinFields } from '@pontrel/core/content/features/profile';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, plural } from '../components/numbers';
import { Mono, Muted, Select } from '../components/parts';
import { Rule } from './Rule';
import { useShaping } from './shaping';

const DIFFER = '\n';

const fieldsOf = (layer: SourceLayer): string[] => joinFields(layer.profile.groups).map((f) => f.name);

/** A table whose fields go to the records of the layer, by a key; keys that found nothing on either side are listed. */
export function JoinRule() {
  const { sources } = useCrossing();
  const { name, layer, chosen, rule, differs, edit, report } = useShaping();
  const tables = sources.flatMap((s) =>
    s.layers.filter((l) => !chosen.some((c) => c.layer === l)).map((l) => ({ source: s, layer: l, id: `${s.name}\n${l.profile.name}` })),
  );
  if (tables.length === 0) return null;
  const { join } = rule;
  const at = join && tables.find((t) => t.source.name === join.source && t.layer.profile.name === join.layer);
  // tables of rows are what is mostly joined
  const listed = [...tables].sort((a, b) => Number(b.layer.profile.extent === null) - Number(a.layer.profile.extent === null));
  const own = fieldsOf(layer);
  return (
    <Rule
      title="Table joined"
      of={['join']}
      aside={join && report?.join ? `${grouped(report.join.joined)} of ${grouped(report.join.joined + report.join.unmatched)}` : ''}
    >
      <Select
        label={`Table joined to ${name}`}
        width="100%"
        value={differs.has('join') ? DIFFER : (at?.id ?? '')}
        options={[
          ...(differs.has('join') ? [{ value: DIFFER, label: `differ among the ${chosen.length}` }] : []),
          { value: '', label: 'none' },
          ...listed.map((t) => ({
            value: t.id,
            label: t.source.layers.length > 1 ? `${t.layer.profile.name} of ${t.source.name}` : t.source.name,
          })),
        ]}
        onChange={(id) => {
          if (id === DIFFER) return;
          const to = tables.find((t) => t.id === id);
          edit(to ? `join ${to.layer.profile.name} to ${name}` : `join nothing to ${name}`, (r) => {
            if (!to) delete r.join;
            else {
              const theirs = fieldsOf(to.layer);
              const same = own.find((f) => theirs.some((t) => t.toLowerCase() === f.toLowerCase()));
              r.join = {
                source: to.source.name,
                layer: to.layer.profile.name,
                key: same ?? own[0] ?? '',
                to: theirs.find((t) => t.toLowerCase() === same?.toLowerCase()) ?? theirs[0] ?? '',
              };
            }
          });
        }}
      />
      {join && at && (
        <Grid templateColumns="66px minmax(0, 1fr)" gap="6px" mt="7px" alignItems="center">
          <Muted>where its</Muted>
          <Select
            label="Key in the table"
            width="100%"
            value={join.to}
            options={fieldsOf(at.layer).map((f) => ({ value: f, label: f }))}
            onChange={(to) => edit(`key ${to}`, (r) => void (r.join!.to = to))}
          />
          <Muted>is the</Muted>
          <Select
            label={`Key in ${name}`}
            width="100%"
            value={join.key}
            options={own.map((f) => ({ value: f, label: f }))}
            onChange={(key) => edit(`key ${key}`, (r) => void (r.join!.key = key))}
          />
        </Grid>
      )}
      {join && !at && (
        <Muted color="madderInk">
          {join.layer} of {join.source} is not here any more.
        </Muted>
      )}
      {join && report?.join && (
        <Box mt="7px">
          <Keys
            label={`${plural(report.join.unmatched, 'record')} found no row`}
            count={report.join.unmatched}
            keys={report.join.unmatchedKeys}
          />
          <Keys label={`${plural(report.join.unused, 'row')} found no record`} count={report.join.unused} keys={report.join.unusedKeys} />
          {report.join.doubles > 0 && (
            <Muted display="block" textStyle="small">
              {plural(report.join.doubles, 'row has', 'rows have')} a key that stood before: the first one counts.
            </Muted>
          )}
          {report.join.unmatched + report.join.unused === 0 && (
            <Muted textStyle="small">Every record found its row, and every row a record.</Muted>
          )}
        </Box>
      )}
    </Rule>
  );
}

function Keys({ label, count, keys }: { label: string; count: number; keys: readonly string[] }) {
  const [open, setOpen] = useState(false);
  if (count === 0) return null;
  return (
    <>
      <Button size="sm" variant="ghost" px="0" h="24px" color="amberInk" aria-expanded={open} onClick={() => setOpen(!open)}>
        {label}
      </Button>
      {open && (
        <Mono display="block" fontSize="11.5px" maxH="110px" overflowY="auto" overflowWrap="anywhere">
          {keys.join(', ')}
          {count > keys.length ? ` and ${grouped(count - keys.length)} more` : ''}
        </Mono>
      )}
    </>
  );
}
