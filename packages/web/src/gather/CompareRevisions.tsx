import { useEffect } from 'react';
import { Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { CompareRequest, type SourceState } from '@pontrel/contract/crossing';
import { fieldsOfAll, USUAL_TOLERANCE_M } from '@pontrel/core/crossing/compare-sources';
import { useCrossing } from '../crossing/use-crossing';
import { parseLength } from '@pontrel/core/io/length-text';
import { day, clock } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { Muted, NativeSelect, Note } from '../components/parts';
import { messageOfError, useCompareMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { jobsKnown } from '../state/ui';

/** What is asked for, as it is typed: the length with its unit. */
const Asked = CompareRequest.omit({ key: true }).extend({
  key: z.string().transform((text) => (text === '' ? null : text)),
  tolerance_m: z.string().transform((text, context) => {
    const metres = parseLength(text, 'mm');
    if (metres !== null && metres > 0) return metres;
    context.addIssue('A length is wanted, such as 1 mm, 0.02 m or 0.1 ft.');
    return z.NEVER;
  }),
});

/** A revision that can be chosen. */
interface Choosable {
  id: string;
  name: string;
  fields: readonly string[];
}

const choosable = (source: SourceState): Choosable => ({
  id: source.id,
  name: source.name,
  fields: fieldsOfAll(source.layers.map((l) => l.profile)),
});

/** The one with the most fields in common: likely the same data of another day. */
function likest(next: Choosable, all: readonly Choosable[]): Choosable | undefined {
  const common = (r: Choosable): number => r.fields.filter((f) => next.fields.includes(f)).length;
  return all.filter((r) => r.id !== next.id).sort((a, b) => common(b) - common(a))[0];
}

/** The revisions that a source can be compared with, those it took the place of first. */
export function useRevisions(): Choosable[] {
  const { sources, revisions } = useCrossing();
  return [
    ...sources.filter((s) => !s.images && !s.compared).map(choosable),
    ...revisions.map(({ id, name, binned, fields }) => ({
      id,
      name: `${name} (in the bin since ${day(binned)}, ${clock(binned)})`,
      fields,
    })),
  ];
}

/** Asks which two revisions are to be compared, and how. @param next the newer one; null while the dialog is shut */
export function CompareRevisions({ next, onClose, onBegun }: { next: SourceState | null; onClose(): void; onBegun(source: string): void }) {
  return (
    <PaperDialog open={next !== null} onClose={onClose} title="Compare two revisions" width="560px">
      {next && <CompareForm next={next} onClose={onClose} onBegun={onBegun} />}
    </PaperDialog>
  );
}

function CompareForm({ next, onClose, onBegun }: { next: SourceState; onClose(): void; onBegun(source: string): void }) {
  const { id, revisions } = useCrossing();
  const all = useRevisions();
  const [compare] = useCompareMutation();
  const dispatch = useAppDispatch();
  const replaced = revisions.filter((r) => r.by === next.name).sort((a, b) => b.binned.localeCompare(a.binned))[0];
  const {
    register,
    handleSubmit,
    watch,
    setValue,
    setError,
    formState: { errors, isSubmitting },
  } = useForm<z.input<typeof Asked>, unknown, z.output<typeof Asked>>({
    resolver: zodResolver(Asked),
    defaultValues: {
      old: replaced?.id ?? likest(choosable(next), all)?.id ?? '',
      next: next.id,
      key: '',
      tolerance_m: `${USUAL_TOLERANCE_M * 1000} mm`,
    },
  });
  const [old, newer, key] = watch(['old', 'next', 'key']);
  const fieldsOfOne = (one: string): readonly string[] => all.find((r) => r.id === one)?.fields ?? [];
  const shared = fieldsOfOne(old).filter((f) => fieldsOfOne(newer).includes(f));
  // a key that the chosen two do not share is none
  useEffect(() => {
    if (key !== '' && !shared.includes(key)) setValue('key', '');
  });
  const submit = handleSubmit(async (asked) => {
    try {
      const job = await compare({ id, ...asked }).unwrap();
      dispatch(jobsKnown([job]));
      onBegun(job.subject);
      onClose();
    } catch (error) {
      setError('root', { message: messageOfError(error) });
    }
  });
  return (
    <form onSubmit={(e) => void submit(e)} noValidate>
      <Muted display="block" mb="12px">
        What was added, removed, moved and changed becomes a source of its own: on the map, as records, and to be delivered.
      </Muted>
      <Grid templateColumns="150px minmax(0, 1fr)" gap="8px 12px" alignItems="center">
        <Text as="label" color="muted" id="compare-old">
          Older
        </Text>
        <NativeSelect aria-labelledby="compare-old" {...register('old')}>
          {all.map((r) => (
            <option key={r.id} value={r.id} disabled={r.id === newer}>
              {r.name}
            </option>
          ))}
        </NativeSelect>
        <Text color="muted" id="compare-next">
          Newer
        </Text>
        <NativeSelect aria-labelledby="compare-next" {...register('next')}>
          {all.map((r) => (
            <option key={r.id} value={r.id} disabled={r.id === old}>
              {r.name}
            </option>
          ))}
        </NativeSelect>
        <Text color="muted" id="compare-key">
          A record is known by
        </Text>
        <NativeSelect aria-labelledby="compare-key" {...register('key')}>
          <option value="">where it lies</option>
          {shared.map((f) => (
            <option key={f} value={f}>
              {f}
            </option>
          ))}
        </NativeSelect>
        <Text color="muted" id="compare-tolerance">
          Has not moved within
        </Text>
        <Input
          aria-labelledby="compare-tolerance"
          aria-invalid={errors.tolerance_m !== undefined}
          size="sm"
          h="28px"
          w="110px"
          fontFamily="mono"
          {...register('tolerance_m')}
        />
      </Grid>
      {(errors.tolerance_m?.message ?? errors.root?.message) !== undefined && (
        <Note tone="wrong" mt="10px">
          {errors.tolerance_m?.message ?? errors.root?.message}
        </Note>
      )}
      <Muted display="block" mt="10px" textStyle="small">
        {key === ''
          ? 'Of records that lie elsewhere, those are one whose values are the same, and the same as those of no other.'
          : `Records with the same ${key} are one, wherever they lie.`}
      </Muted>
      <Flex justify="flex-end" gap="8px" mt="14px">
        <Button type="button" onClick={onClose}>
          Cancel
        </Button>
        <Button type="submit" variant="solid" disabled={isSubmitting || old === newer || old === ''}>
          Compare
        </Button>
      </Flex>
    </form>
  );
}
