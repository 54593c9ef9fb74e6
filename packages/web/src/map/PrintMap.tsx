import { Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { zodResolver } from '@hookform/resolvers/zod';
import { Printer } from 'lucide-react';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { PrintRequest } from '@pontrel/contract/crossing';
import { readScale } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { ICON, Muted, NativeSelect, Note } from '../components/parts';
import { useCrossing } from '../crossing/use-crossing';
import type { MapLayers } from './use-map-layers';

/** What is asked for, as it is typed. */
const Asked = PrintRequest.pick({ title: true, paper: true }).extend({
  way: z.enum(['across', 'upright']),
  scale: z.string().transform((text, context) => {
    const scale = readScale(text);
    if (scale !== null && scale <= 1e9) return scale;
    context.addIssue('A scale is wanted, such as 1:2500 or 2500.');
    return z.NEVER;
  }),
});

/** The scales of maps: what is near to one is printed in it. */
const ROUND = [1, 1.25, 2, 2.5, 5, 7.5, 10];

/** The next scale of maps that shows no less than this one. */
export function roundScale(scale: number): number {
  const power = 10 ** Math.floor(Math.log10(scale));
  return Math.round((ROUND.find((k) => k * power >= scale * 0.999) ?? 10) * power);
}

/** Asks how a map is to be printed, and opens it as a PDF. @param at the middle of the map and its scale; null while the dialog is shut */
export function PrintMap({
  at,
  shown,
  onClose,
}: {
  at: { middle: [number, number]; scale: number } | null;
  shown: MapLayers;
  onClose(): void;
}) {
  return (
    <PaperDialog open={at !== null} onClose={onClose} title="Print the map" width="440px">
      {at && <PrintForm at={at} shown={shown} onClose={onClose} />}
    </PaperDialog>
  );
}

function PrintForm({ at, shown, onClose }: { at: { middle: [number, number]; scale: number }; shown: MapLayers; onClose(): void }) {
  const { id, name, sources } = useCrossing();
  const {
    register,
    handleSubmit,
    setError,
    formState: { errors, isSubmitting },
  } = useForm<z.input<typeof Asked>, unknown, z.output<typeof Asked>>({
    resolver: zodResolver(Asked),
    defaultValues: { title: name, paper: 'a4', way: 'across', scale: `1:${roundScale(at.scale)}` },
  });
  const submit = handleSubmit(async ({ way, ...asked }) => {
    const body: PrintRequest = {
      ...asked,
      upright: way === 'upright',
      middle: at.middle,
      without: Object.fromEntries(
        sources.map((s) => [s.name, s.layers.map((l) => l.profile.name).filter((layer) => shown.isHidden(s.name, layer))]),
      ),
    };
    const response = await fetch(`/api/crossings/${id}/map.pdf`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    if (!response.ok) {
      const { error } = (await response.json()) as { error?: { message: string } };
      setError('root', { message: error?.message ?? 'The map could not be drawn.' });
      return;
    }
    const address = URL.createObjectURL(await response.blob());
    const link = document.createElement('a');
    link.href = address;
    link.download = `${asked.title.replace(/[\\/:*?"<>|]+/g, '_') || 'map'}.pdf`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(address), 60_000);
    onClose();
  });
  const wrong = errors.scale?.message ?? errors.title?.message ?? errors.root?.message;
  return (
    <form onSubmit={(e) => void submit(e)} noValidate>
      <Grid templateColumns="96px minmax(0, 1fr)" gap="8px 12px" alignItems="center">
        <Text color="muted" id="print-title">
          Title
        </Text>
        <Input size="sm" h="28px" aria-labelledby="print-title" {...register('title')} />
        <Text color="muted" id="print-paper">
          Paper
        </Text>
        <Flex gap="8px">
          <NativeSelect aria-labelledby="print-paper" {...register('paper')}>
            <option value="a4">A4</option>
            <option value="a3">A3</option>
          </NativeSelect>
          <NativeSelect aria-label="Which way the paper lies" {...register('way')}>
            <option value="across">across</option>
            <option value="upright">upright</option>
          </NativeSelect>
        </Flex>
        <Text color="muted" id="print-scale">
          Scale
        </Text>
        <Input
          size="sm"
          h="28px"
          w="130px"
          fontFamily="mono"
          aria-labelledby="print-scale"
          aria-invalid={errors.scale !== undefined}
          {...register('scale')}
        />
      </Grid>
      <Muted display="block" mt="10px" textStyle="small">
        Around the middle of what is in sight, with neatline, ticks, scale, north arrow and legend. Layers that are switched off, and images
        that are hidden, are not printed.
      </Muted>
      {wrong !== undefined && (
        <Note tone="wrong" mt="10px">
          {wrong}
        </Note>
      )}
      <Flex justify="flex-end" gap="8px" mt="14px">
        <Button type="button" onClick={onClose}>
          Cancel
        </Button>
        <Button type="submit" variant="solid" disabled={isSubmitting}>
          <Printer {...ICON} />
          {isSubmitting ? 'Drawing' : 'Make the PDF'}
        </Button>
      </Flex>
    </form>
  );
}
