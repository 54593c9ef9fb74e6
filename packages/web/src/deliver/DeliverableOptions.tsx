import { Box, Grid } from '@chakra-ui/react';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { formatById } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { useCrossing } from '../crossing/use-crossing';
import { Choice, Muted, Select } from '../components/parts';
import { AreaChoice } from './AreaChoice';
import { setArea, DeliverableName, TargetSystem, useEditDeliverable } from './DeliverableHead';
import { FormatOptions } from './FormatOptions';
import { LayerChoice } from './LayerChoice';
import { ImagesBelow } from './ImagesBelow';

/** Name, target system and grouping of a deliverable. */
export function DeliverableOptions({
  deliverable: d,
  picture,
  problem,
  onDraw,
}: {
  deliverable: Deliverable;
  /** What becomes of the images below its records, and what stands in their way. */
  picture: ImageForecast | undefined;
  problem: string | undefined;
  onDraw(): void;
}) {
  const crossing = useCrossing();
  const format = formatById(d.format);
  const hosts = crossing.sources.filter((s) => s.format === d.format).map((s) => s.name);
  const edit = useEditDeliverable(d);
  return (
    <Box
      px="16px"
      pt="10px"
      pb="12px"
      borderBottomWidth="1px"
      borderColor="hairline"
      flex="0 1 auto"
      maxH="50%"
      overflowY="auto"
      scrollbarWidth="thin"
    >
      <DeliverableName deliverable={d} edit={edit} />
      <Grid templateColumns="110px minmax(0, 1fr)" rowGap="6px" alignItems="center">
        <TargetSystem deliverable={d} edit={edit} />
        {crossing.sources.some((s) => s.layers.length > 0) && (
          <>
            <Muted alignSelf="start" lineHeight="24px">
              Layers
            </Muted>
            <LayerChoice deliverable={d} edit={edit} />
          </>
        )}
        <Muted>Area</Muted>
        <AreaChoice
          crossing={crossing}
          sources={crossing.sources.filter((s) => !s.images)}
          area={d.area}
          onDraw={onDraw}
          onChange={setArea(d, edit)}
        />
        {format?.features.write?.showsPictures && <ImagesBelow deliverable={d} edit={edit} forecast={picture} problem={problem} />}
        {format?.features.write?.adds && (hosts.length > 0 || d.into !== undefined) && (
          <>
            <Muted>Added to</Muted>
            <Box>
              <Select
                label="File that it is added to"
                value={d.into ?? ''}
                width="320px"
                options={[
                  { value: '', label: 'a file of its own' },
                  ...[...new Set([...hosts, ...(d.into === undefined ? [] : [d.into])])].map((h) => ({
                    value: h,
                    label: `a copy of ${h}`,
                  })),
                ]}
                onChange={(into) =>
                  edit(into === '' ? 'a file of its own' : `added to ${into}`, (x) => {
                    if (into === '') delete x.into;
                    else x.into = into;
                  })
                }
              />
            </Box>
          </>
        )}
        {!format?.features.carries.oneFile && (
          <>
            <Muted>Sets</Muted>
            <Box>
              <Choice
                small
                label="Sets"
                value={d.grouping}
                onChange={(grouping) => edit('sets', (x) => void (x.grouping = grouping))}
                options={[
                  { value: 'layer', label: 'One a layer' },
                  { value: 'kind', label: 'All points, all lines, all areas' },
                ]}
              />
            </Box>
          </>
        )}
      </Grid>
      <FormatOptions
        deliverable={d}
        onChange={(id, label, value) =>
          edit(label, (x) => {
            x.options = { ...x.options, [id]: value };
            x.crs = (format && prescribedCrs(format, x.options)) ?? x.crs;
          })
        }
      />
    </Box>
  );
}
