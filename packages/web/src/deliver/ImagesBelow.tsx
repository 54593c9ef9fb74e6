import { Flex } from '@chakra-ui/react';
import type { Deliverable, ImageSettings } from '@pontrel/core/crossing/recipe';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import { grouped } from '../components/numbers';
import { Muted, Note, Select } from '../components/parts';
import { useCrossing } from '../crossing/use-crossing';
import { useCrsQuery } from '../state/api';
import type { useEditDeliverable } from './DeliverableHead';
import { ImageSources } from './ImageSources';
import { PixelSize, setPixelSize } from './PixelSize';
import { QualityInput } from './QualityInput';

const PACKINGS: { value: NonNullable<ImageSettings['packed']>; label: string }[] = [
  { value: 'jpeg', label: 'JPEG' },
  { value: 'png', label: 'PNG' },
  { value: 'tiff', label: 'TIFF' },
];

/** The images that lie below the records of a drawing, how large their pixels are and how they are packed. */
export function ImagesBelow({
  deliverable: d,
  edit,
  forecast,
  problem,
}: {
  deliverable: Deliverable;
  edit: ReturnType<typeof useEditDeliverable>;
  forecast: ImageForecast | undefined;
  problem: string | undefined;
}) {
  const crossing = useCrossing();
  const { data: crs } = useCrsQuery(d.crs);
  const names = crossing.sources.filter((s) => s.images).map((s) => s.name);
  const { image } = d;
  const set = (label: string, how: (settings: ImageSettings) => void): void => edit(label, (x) => how(x.image!));
  if (names.length === 0 && !image) return null;
  const blocked = [...(problem === undefined ? [] : [problem]), ...(forecast?.blocked ?? [])];
  return (
    <>
      <Muted>Images below</Muted>
      <ImageSources
        label="Images below the drawing"
        each="Below it"
        names={names}
        chosen={image?.sources ?? []}
        onChange={(sources) =>
          edit(`images below ${d.name}`, (x) => {
            if (sources.length === 0) delete x.image;
            else x.image = { resampling: 'bilinear', aligned: true, ...x.image, sources };
          })
        }
      />
      {image && (
        <>
          <Muted>Pixel</Muted>
          <Flex align="center" gap="10px" wrap="wrap">
            <PixelSize
              key={d.id}
              size={image.pixelSize}
              crs={crs}
              native={forecast?.pixelSize}
              onChange={(size) => set(`pixel size of ${d.name}`, (x) => setPixelSize(x, size))}
            />
            {forecast && forecast.blocked.length === 0 && (
              <Muted>
                {grouped(forecast.info.width)} × {grouped(forecast.info.height)} px
              </Muted>
            )}
          </Flex>
          <Muted>Packed as</Muted>
          <Flex align="center" gap="10px">
            <Select
              label="How the image is packed"
              width="84px"
              value={image.packed ?? 'jpeg'}
              options={PACKINGS}
              onChange={(packed) => set(`packing of the image of ${d.name}`, (x) => void (x.packed = packed))}
            />
            {(image.packed ?? 'jpeg') === 'jpeg' && (
              <Flex align="center" gap="6px">
                <Muted>quality</Muted>
                <QualityInput
                  label="Quality of the image"
                  quality={image.quality ?? 85}
                  width="52px"
                  onChange={(quality) => set(`quality of the image of ${d.name}`, (x) => void (x.quality = quality))}
                />
              </Flex>
            )}
          </Flex>
          {blocked.length > 0 && (
            <>
              <span />
              <Note tone="wrong">{blocked.join(' ')}</Note>
            </>
          )}
        </>
      )}
    </>
  );
}
