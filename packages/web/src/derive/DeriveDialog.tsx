import { useState } from 'react';
import { Box, Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { type CrossingState, DeriveRequest, type SourceState } from '@pontrel/contract/crossing';
import type { Derivation, Role } from '@pontrel/core/content/derived/derivation';
import { derivationById, DERIVATIONS } from '@pontrel/core/content/derived/derivations';
import { joinFields } from '@pontrel/core/content/features/profile';
import { settingsOf } from '@pontrel/core/crossing/derive-records';
import { useCrossing } from '../crossing/use-crossing';
import { OptionRow } from '../components/OptionRow';
import { grouped } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { Mono, Muted, Note, Scroll, Tick } from '../components/parts';
import { messageOfError, useDeriveMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { jobsKnown } from '../state/ui';
import { type ShapedLayer, shapedLayers } from '../shape/shaped-layers';

/** What comes of these lies where its layers lie. */
const PLACED = DERIVATIONS.filter((d) => !d.ownPlane);

/** What a dialog begins with. */
export interface DeriveStart {
  operation: string | null;
  /** Layers that are chosen; those that fit get the roles. */
  chosen: readonly ShapedLayer[];
  /** The source that is made again, in whose place the new one is put. */
  again?: SourceState;
}

/** Asks what is to be worked out of which layers, and how. @param start null while the dialog is shut */
export function DeriveDialog({ start, onClose, onBegun }: { start: DeriveStart | null; onClose(): void; onBegun(source: string): void }) {
  const title = start?.again ? `Work out ${start.again.derived!.name} again` : 'Work out of layers';
  return (
    <PaperDialog open={start !== null} onClose={onClose} title={title} width="900px">
      {start && <DeriveForm start={start} onClose={onClose} onBegun={onBegun} />}
    </PaperDialog>
  );
}

/** What can have a role: a layer of records, or an elevation model, which is a layer of its own. */
interface Choosable {
  source: string;
  layer: string;
  count: number;
  kinds: ReadonlySet<string>;
  fields: readonly string[];
  lies: boolean;
  elevation: boolean;
}

const keyOf = ({ source, layer }: Pick<Choosable, 'source' | 'layer'>): string => `${source}\n${layer}`;

function choosables(crossing: CrossingState): Choosable[] {
  const layers = shapedLayers(crossing).map(({ source, layer: { profile } }): Choosable => ({
    source: source.name,
    layer: profile.name,
    count: profile.count,
    kinds: new Set(profile.groups.map((g) => g.kind)),
    fields: joinFields(profile.groups).map((f) => f.name),
    lies: profile.extent !== null,
    elevation: false,
  }));
  const models = crossing.sources.flatMap(({ name, images }): Choosable[] => {
    const members = images?.members ?? [];
    // a grey photograph has one band as well, of eight bits
    const heights = members.every(
      ({ info }) =>
        info.bands - (info.alpha ? 1 : 0) === 1 && info.sampleType !== 'uint8' && info.colour !== 'rgb' && info.colour !== 'palette',
    );
    const count = members.reduce((n, { info }) => n + info.width * info.height, 0);
    return members.length > 0 && heights
      ? [{ source: name, layer: name, count, kinds: new Set(), fields: [], lies: true, elevation: true }]
      : [];
  });
  return [...layers, ...models];
}

const holds = ({ kinds, elevation }: Choosable, role: Role): boolean =>
  elevation ? role.elevation === true : role.kinds.some((k) => kinds.has(k));

/** The layers that get each role at first: those that are chosen and fit; for a role without one, the only one that fits. */
function firstRoles({ roles }: Derivation, all: readonly Choosable[], chosen: ReadonlySet<string>): DeriveRequest['roles'] {
  const out: DeriveRequest['roles'] = {};
  const known = new Set<Choosable>();
  for (const role of roles) {
    const any = all.filter((l) => !known.has(l) && holds(l, role));
    const own = any.filter((l) => chosen.has(keyOf(l)));
    const got = own.length > 0 ? own : roles.length > 1 && any.length === 1 ? any : [];
    for (const l of got) known.add(l);
    out[role.id] = got.map(({ source, layer }) => ({ source, layer }));
  }
  return out;
}

function DeriveForm({ start, onClose, onBegun }: { start: DeriveStart; onClose(): void; onBegun(source: string): void }) {
  const crossing = useCrossing();
  const again = start.again?.derived ?? null;
  const [derive] = useDeriveMutation();
  const dispatch = useAppDispatch();
  // what was worked out of it cannot be its own beginning
  const all = choosables(crossing).filter((l) => l.source !== start.again?.name);
  const chosen = new Set(start.chosen.map((l) => l.key));
  const first = derivationById(again?.operation ?? start.operation ?? '') ?? PLACED[0]!;
  const {
    register,
    handleSubmit,
    watch,
    setValue,
    setError,
    formState: { errors, isSubmitting },
  } = useForm<DeriveRequest>({
    resolver: zodResolver(DeriveRequest),
    defaultValues: {
      operation: first.id,
      name: again?.name ?? first.title,
      roles: again?.roles ?? firstRoles(first, all, chosen),
      settings: settingsOf(first, again?.settings ?? {}),
      ...(start.again ? { again: start.again.id } : {}),
    },
  });
  const [operation, roles, settings] = watch(['operation', 'roles', 'settings']);
  const derivation = derivationById(operation)!;
  const turnTo = (next: Derivation): void => {
    setValue('operation', next.id);
    setValue('name', next.title);
    setValue('roles', firstRoles(next, all, chosen));
    setValue('settings', settingsOf(next, {}));
  };
  const missing = derivation.roles.find((r) => !r.optional && !roles[r.id]?.length);
  const used = all.filter((l) => Object.values(roles).some((own) => own.some((o) => keyOf(o) === keyOf(l))));
  const fields = [...new Set(used.flatMap((l) => l.fields))];
  const submit = handleSubmit(async (asked) => {
    try {
      const job = await derive({ id: crossing.id, ...asked }).unwrap();
      dispatch(jobsKnown([job]));
      onBegun(job.subject);
      onClose();
    } catch (error) {
      setError('root', { message: messageOfError(error) });
    }
  });
  return (
    <form onSubmit={(e) => void submit(e)} noValidate>
      <Grid templateColumns={again ? 'minmax(0, 1fr)' : '190px minmax(0, 1fr)'} gap="18px" alignItems="start">
        {!again && (
          <Flex direction="column" role="radiogroup" aria-label="What is worked out" gap="1px">
            {PLACED.map((d) => (
              <Operation key={d.id} derivation={d} on={d.id === operation} onChoose={() => turnTo(d)} />
            ))}
          </Flex>
        )}
        <Box minW="0">
          <Muted display="block" mb="10px">
            {derivation.says}
          </Muted>
          <Grid
            templateColumns={derivation.roles.length > 1 ? `repeat(${Math.min(2, derivation.roles.length)}, minmax(0, 1fr))` : '1fr'}
            gap="10px"
          >
            {derivation.roles.map((role) => (
              <Layers
                key={role.id}
                role={role}
                all={all}
                chosen={roles[role.id] ?? []}
                onChange={(own) => setValue(`roles.${role.id}`, own, { shouldDirty: true })}
              />
            ))}
          </Grid>
          <Grid
            templateColumns="repeat(auto-fit, minmax(min(262px, 100%), 1fr))"
            gap="6px 14px"
            mt="12px"
            maxH="250px"
            overflowY="auto"
            scrollbarWidth="thin"
            tabIndex={0}
            role="group"
            aria-label="Settings"
          >
            {derivation.settings
              .filter((o) => o.when?.(settings) ?? true)
              .map((o) => (
                <OptionRow
                  key={`${derivation.id} ${o.id}`}
                  option={o}
                  nameWidth="142px"
                  fields={fields}
                  value={settings[o.id] ?? ''}
                  onChange={(value) => setValue(`settings.${o.id}`, value)}
                />
              ))}
          </Grid>
          <Grid templateColumns="142px minmax(0, 1fr)" alignItems="center" mt="12px">
            <Text as="label" color="muted" id="derive-name">
              Called
            </Text>
            <Input
              aria-labelledby="derive-name"
              aria-invalid={errors.name !== undefined}
              size="sm"
              h="28px"
              readOnly={again !== null}
              {...register('name')}
            />
          </Grid>
        </Box>
      </Grid>
      {(errors.name?.message ?? errors.root?.message) !== undefined && (
        <Note tone="wrong" mt="10px">
          {errors.root?.message ?? 'Give it a name of up to 60 letters.'}
        </Note>
      )}
      <Flex justify="flex-end" align="center" gap="8px" mt="14px">
        <Muted textStyle="small" flex="1">
          {missing ? `${missing.title}: tick the layers.` : 'It becomes a source of its own. The layers stay as they are.'}
        </Muted>
        <Button type="button" onClick={onClose}>
          Cancel
        </Button>
        <Button type="submit" variant="solid" disabled={isSubmitting || missing !== undefined}>
          {again ? 'Work out again' : 'Work out'}
        </Button>
      </Flex>
    </form>
  );
}

function Operation({ derivation, on, onChoose }: { derivation: Derivation; on: boolean; onChoose(): void }) {
  return (
    <Flex
      as="label"
      align="center"
      position="relative"
      h="30px"
      px="10px"
      borderRadius="chip"
      cursor="pointer"
      bg={on ? 'verdigrisTint' : undefined}
      boxShadow={on ? 'inset 3px 0 0 {colors.verdigris}' : undefined}
      fontWeight={on ? 600 : 400}
      _hover={{ bg: on ? 'verdigrisTint' : 'sunk' }}
      _focusWithin={{ outline: '2px solid', outlineColor: 'verdigris', outlineOffset: '-2px' }}
    >
      <input
        type="radio"
        name="operation"
        checked={on}
        onChange={onChoose}
        style={{ position: 'absolute', opacity: 0, inset: 0, width: '100%', height: '100%', cursor: 'pointer' }}
      />
      {derivation.title}
    </Flex>
  );
}

type LayerOf = DeriveRequest['roles'][string][number];

/** The layers that can have a role, to be ticked: those that have such records first. */
function Layers({
  role,
  all,
  chosen,
  onChange,
}: {
  role: Role;
  all: readonly Choosable[];
  chosen: readonly LayerOf[];
  onChange(chosen: LayerOf[]): void;
}) {
  const [text, setText] = useState('');
  const fit = role.kinds.length === 0 ? all.filter((l) => l.lies && (!l.elevation || holds(l, role))) : all.filter((l) => holds(l, role));
  const wanted = text.trim().toLowerCase();
  const listed = fit.filter((l) => `${l.layer} ${l.source}`.toLowerCase().includes(wanted));
  const isChosen = (l: Choosable): boolean => chosen.some((c) => keyOf(c) === keyOf(l));
  const several = new Set(fit.map((l) => l.source)).size > 1;
  return (
    <Flex direction="column" borderWidth="1px" borderColor="line" borderRadius="sheet" minW="0" role="group" aria-label={role.title}>
      <Flex align="center" gap="8px" px="9px" h="32px" borderBottomWidth="1px" borderColor="hairline">
        <Text fontWeight={600} whiteSpace="nowrap">
          {role.title}
        </Text>
        {role.optional && <Muted textStyle="small">if any</Muted>}
        <Input
          size="sm"
          h="24px"
          type="search"
          variant="flushed"
          aria-label={`Find a layer for ${role.title}`}
          placeholder="Find"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Mono color="muted">{chosen.length}</Mono>
      </Flex>
      <Scroll h="150px" flex="none" py="3px" tabIndex={0} role="region" aria-label={`Layers for ${role.title}`}>
        {listed.map((l) => (
          <Flex as="label" key={keyOf(l)} align="center" gap="8px" px="9px" minH="24px" cursor="pointer" _hover={{ bg: 'sunk' }}>
            <Tick
              label={`${l.layer} of ${l.source} as ${role.title}`}
              checked={isChosen(l)}
              onChange={(on) =>
                onChange(on ? [...chosen, { source: l.source, layer: l.layer }] : chosen.filter((c) => keyOf(c) !== keyOf(l)))
              }
            />
            <Mono truncate flex="0 1 auto">
              {l.layer}
            </Mono>
            {several && (
              <Muted textStyle="small" truncate flex="1 1 0" minW="0">
                {l.elevation ? 'elevation model' : l.source}
              </Muted>
            )}
            <Box flex={several ? 'none' : '1'} />
            <Mono color="muted" flex="none">
              {grouped(l.count)}
            </Mono>
          </Flex>
        ))}
        {listed.length === 0 && (
          <Muted display="block" px="9px" py="6px" textStyle="small">
            {fit.length === 0 ? `No layer has such records (${role.kinds.join(', ')}).` : 'No layer is called that.'}
          </Muted>
        )}
      </Scroll>
    </Flex>
  );
}
