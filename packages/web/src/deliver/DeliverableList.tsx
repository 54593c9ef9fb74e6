import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { ChevronDown, ChevronRight, FileDown, Play, Plus, X } from 'lucide-react';
import type { DeliverableForecast, RunSummary } from '@pontrel/contract/crossing';
import { fromTemplate } from '@pontrel/core/crossing/deliverable-template';
import { fileStem } from '@pontrel/core/content/features/plan';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { withSlots } from '@pontrel/core/crossing/slots';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import type { Format } from '@pontrel/core/formats/format';
import { useKeys } from '../app/keys';
import { isLive, useJobs } from '../app/JobRow';
import { fillersOf } from '../crossing/slot-fillers';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { crsLabel } from '../components/crs-label';
import { grouped, pixelsText, plural } from '../components/numbers';
import { FateBar, ICON, Mono, Muted, Scroll, Tick, ToneIcon } from '../components/parts';
import { Side } from '../components/Side';
import { useForecastsQuery, useForgetTemplateMutation, useTemplatesQuery } from '../state/api';
import { useKept } from '../state/kept';
import { excludedIn } from './fates';
import { newDeliverable, offeredFormats, spoken } from './offered-formats';
import { useRun } from './use-run';

/** Hands the rules over as a file. */
function saveRecipe(name: string, recipe: Recipe): void {
  const address = URL.createObjectURL(new Blob([JSON.stringify(recipe, null, 2)], { type: 'application/json' }));
  const link = document.createElement('a');
  link.href = address;
  link.download = `${fileStem(name)}.recipe.json`;
  link.click();
  URL.revokeObjectURL(address);
}

/** Whether something stands in the way of a deliverable, as far as its forecast is known. */
const isBlocked = (forecast: DeliverableForecast | undefined): boolean =>
  forecast?.problem !== undefined || (forecast?.forecast?.blocked.length ?? 0) > 0 || (forecast?.picture?.blocked.length ?? 0) > 0;

/** The deliverables of a crossing: which one is looked at, which take part when all are run, and others to add. */
export function DeliverableList({ current, onChoose }: { current: Deliverable | undefined; onChoose(id: string): void }) {
  const crossing = useCrossing();
  const change = useChange();
  const run = useRun();
  const { data: forecasts } = useForecastsQuery(crossing.id);
  const { deliverables, frame } = crossing.recipe;
  const [waiting, setWaiting] = useKept<string[]>(`deliver.${crossing.id}.waiting`, []);
  const jobs = useJobs(crossing.id, 'run').filter(isLive);
  const forecastOf = (d: Deliverable): DeliverableForecast | undefined => forecasts?.find((f) => f.deliverable === d.id);
  const runOf = (d: Deliverable): RunSummary | undefined => crossing.runs.find((r) => r.deliverable === d.id);
  const wanted = deliverables.filter((d) => !waiting.includes(d.id));
  const able = wanted.filter((d) => !isBlocked(forecastOf(d)));
  const allCurrent = able.every((d) => runOf(d)?.current === true);
  const running = jobs.length > 0;
  const runAll = (): void => {
    if (able.length > 0 && !running) void run(able.map((d) => d.id));
  };
  useKeys({ 'ctrl+enter': runAll });
  return (
    <Side side="left" width="260px" label="Deliverables">
      <Flex justify="space-between" align="baseline" px="14px" pt="12px" pb="8px">
        <Text as="h1" textStyle="title">
          Deliverables
        </Text>
        <Muted textStyle="small">
          {deliverables.length < 2 ? deliverables.length : `${wanted.length} of ${deliverables.length} to run`}
        </Muted>
      </Flex>
      <Scroll px="14px">
        <Flex direction="column" gap="8px" pb="10px">
          {deliverables.map((d) => (
            <Card
              key={d.id}
              deliverable={d}
              forecast={forecastOf(d)}
              run={runOf(d)}
              chosen={d === current}
              wanted={deliverables.length < 2 ? null : !waiting.includes(d.id)}
              onWant={(on) => setWaiting(on ? waiting.filter((id) => id !== d.id) : [...waiting, d.id])}
              onChoose={() => onChoose(d.id)}
            />
          ))}
          <Offered
            any={deliverables.length > 0}
            onAdd={(format) => {
              const made = newDeliverable(crossing, format, frame!.crs);
              change(`add ${made.name}`, (draft) => void draft.deliverables.push(made));
              onChoose(made.id);
            }}
            onTemplate={(template) => {
              const made = fromTemplate(
                template,
                Math.random().toString(36).slice(2, 10),
                deliverables.map((d) => d.name),
              );
              change(`add ${made.name}`, (draft) => void draft.deliverables.push(made));
              onChoose(made.id);
            }}
          />
        </Flex>
      </Scroll>
      <Box px="14px" py="10px" borderTopWidth="1px" borderColor="hairline">
        {deliverables.length > 1 && (
          <Button
            w="100%"
            mb="4px"
            variant={allCurrent ? 'outline' : 'solid'}
            disabled={able.length === 0 || running}
            aria-keyshortcuts="Control+Enter"
            title={
              able.length < wanted.length
                ? `${plural(wanted.length - able.length, 'deliverable')} cannot run yet: the reason stands in its forecast`
                : 'Ctrl+Enter'
            }
            onClick={runAll}
          >
            <Play {...ICON} />
            {running
              ? 'Running'
              : able.length === deliverables.length
                ? `Run all ${able.length}`
                : `Run ${able.length} of ${deliverables.length}`}
          </Button>
        )}
        <Button
          size="sm"
          variant="ghost"
          w="100%"
          justifyContent="flex-start"
          px="4px"
          title="The rules of this crossing as one file, to be run again: pontrel convert FILES FOLDER --recipe FILE"
          onClick={() => saveRecipe(crossing.name, withSlots(crossing.recipe, fillersOf(crossing.sources)))}
        >
          <FileDown {...ICON} size={14} />
          Save the rules as a recipe
        </Button>
      </Box>
    </Side>
  );
}

/** What it is handed over as: a name, a format, a system, and what becomes of everything. */
function Card({
  deliverable: d,
  forecast: known,
  run,
  chosen,
  wanted,
  onWant,
  onChoose,
}: {
  deliverable: Deliverable;
  forecast: DeliverableForecast | undefined;
  run: RunSummary | undefined;
  chosen: boolean;
  /** Whether it takes part when all are run; null where it is the only one. */
  wanted: boolean | null;
  onWant(on: boolean): void;
  onChoose(): void;
}) {
  const f = known?.forecast;
  const format = anyFormatById(d.format);
  const out = f ? excludedIn(f) : 0,
    lost = f ? f.totals.left - out : 0;
  return (
    <Flex
      gap="9px"
      px="11px"
      py="9px"
      borderWidth="1px"
      borderRadius="sheet"
      borderColor={chosen ? 'verdigris' : 'hairline'}
      bg={chosen ? 'verdigrisTint' : 'surface'}
      _hover={{ borderColor: 'verdigrisLine' }}
    >
      {wanted !== null && (
        <Box pt="2px">
          <Tick label={`Run ${d.name} with the others`} checked={wanted} onChange={onWant} />
        </Box>
      )}
      <Box asChild flex="1" minW="0" textAlign="left" cursor="pointer">
        <button type="button" aria-pressed={chosen} onClick={onChoose}>
          <Flex justify="space-between" gap="6px">
            <Text fontWeight={650} truncate>
              {d.name}
            </Text>
            {isBlocked(known) ? (
              <ToneIcon tone="wrong" />
            ) : (
              run && <ToneIcon tone={!run.current || run.status !== 'match' ? 'caution' : 'good'} />
            )}
          </Flex>
          <Flex justify="space-between" gap="8px" mb="6px">
            <Muted textStyle="small" truncate>
              {format?.name}
              {f ? `, ${plural(f.sets.length, format?.features?.carries.oneFile ? 'layer' : 'set')}` : ''}
            </Muted>
            <Mono fontSize="11.5px" color="muted" flex="none">
              {crsLabel(d.crs)}
            </Mono>
          </Flex>
          {f && <FateBar {...f.totals} excluded={out} left={lost} height={6} />}
          <Flex gap="10px" mt={f ? '4px' : '0'} textStyle="small">
            {f && <Muted>{grouped(f.totals.records - f.totals.left)} cross</Muted>}
            {out > 0 && <Muted>{grouped(out)} left out</Muted>}
            {known?.picture && !f && <Muted>{pixelsText(known.picture.info.width * known.picture.info.height)}</Muted>}
            {lost > 0 && (
              <Text ml="auto" color="madderInk" fontWeight={600}>
                {grouped(lost)} not carried
              </Text>
            )}
          </Flex>
        </button>
      </Box>
    </Flex>
  );
}

/** Formats to hand over in. */
function Offered({ any, onAdd, onTemplate }: { any: boolean; onAdd(format: Format): void; onTemplate(template: Deliverable): void }) {
  const offered = offeredFormats(useCrossing());
  const [open, setOpen] = useKept('deliver.maps', false);
  return (
    <>
      <Muted textStyle="small" mt={any ? '4px' : '0'}>
        {any ? 'Add another one' : 'What is it handed over as?'}
      </Muted>
      {offered.map(({ of, formats, folds }) => {
        const Chevron = open ? ChevronDown : ChevronRight;
        return (
          <Box key={of}>
            {folds ? (
              <Button size="sm" variant="ghost" px="0" h="24px" fontWeight={650} aria-expanded={open} onClick={() => setOpen(!open)}>
                <Chevron {...ICON} size={14} />
                {of}
              </Button>
            ) : (
              offered.length > 1 && (
                <Text textStyle="small" fontWeight={650} mb="4px">
                  {of}
                </Text>
              )
            )}
            {(!folds || open) && (
              <Grid templateColumns="1fr 1fr" gap="6px" mt={folds ? '4px' : '0'}>
                {formats.map((format) => (
                  <Button
                    key={format.id}
                    size="sm"
                    px="8px"
                    justifyContent="flex-start"
                    aria-label={`Add ${spoken(format)}`}
                    title={format.name}
                    onClick={() => onAdd(format)}
                  >
                    <Plus {...ICON} size={14} />
                    {format.brief ?? format.name}
                  </Button>
                ))}
              </Grid>
            )}
          </Box>
        );
      })}
      <Templates onTemplate={onTemplate} />
    </>
  );
}

/** Deliverables that were kept under a name, of this crossing or of another one. */
function Templates({ onTemplate }: { onTemplate(template: Deliverable): void }) {
  const { data: templates = [] } = useTemplatesQuery();
  const [forget] = useForgetTemplateMutation();
  const known = templates.filter((t) => anyFormatById(t.format));
  if (known.length === 0) return null;
  return (
    <Box>
      <Text textStyle="small" fontWeight={650} mb="4px">
        Templates
      </Text>
      {known.map((t) => (
        <Flex key={t.name} gap="2px" mb="4px">
          <Button
            size="sm"
            px="8px"
            flex="1"
            minW="0"
            justifyContent="flex-start"
            aria-label={`Add by the template ${t.name}`}
            title={`${t.name}: ${anyFormatById(t.format)!.name} in ${crsLabel(t.crs)}`}
            onClick={() => onTemplate(t)}
          >
            <Plus {...ICON} size={14} />
            <Text as="span" truncate>
              {t.name}
            </Text>
          </Button>
          <Button
            size="sm"
            variant="ghost"
            px="0"
            color="muted"
            aria-label={`Forget the template ${t.name}`}
            onClick={() => void forget(t.name)}
          >
            <X {...ICON} size={13} />
          </Button>
        </Flex>
      ))}
    </Box>
  );
}
