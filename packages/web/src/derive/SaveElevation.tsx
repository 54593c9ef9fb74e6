import { useState } from 'react';
import { Button, Flex } from '@chakra-ui/react';
import { Download } from 'lucide-react';
import type { SourceState } from '@pontrel/contract/crossing';
import { niceStep } from '@pontrel/core/geometry/nice-step';
import { useCrossing } from '../crossing/use-crossing';
import { ICON, Select } from '../components/parts';

/** Sizes of pixels beside the usual one. */
const TIMES = [0.1, 0.2, 0.5, 1, 2, 5] as const;

/** Hands a ground out as an elevation model, with pixels of a size in the unit of the frame. */
export function SaveElevation({ source }: { source: SourceState }) {
  const { id, frame } = useCrossing();
  const { area_m2 = 0, points = 0 } = source.derived!.figures;
  const unit_m = frame?.unit_m ?? 1;
  const usual = area_m2 > 0 && points > 0 ? niceStep(Math.sqrt(area_m2 / points) / 2 / unit_m) : 1;
  const sizes = [...new Set(TIMES.map((k) => Number(niceStep(usual * k).toPrecision(2))))];
  const [pixel, setPixel] = useState(String(usual));
  return (
    <Flex px="14px" pt="8px" gap="8px" flex="none">
      <Select
        label="Pixels of the elevation model"
        value={sizes.includes(Number(pixel)) ? pixel : String(usual)}
        width="118px"
        options={sizes.map((s) => ({ value: String(s), label: `pixels ${s} ${frame?.unit ?? ''}` }))}
        onChange={setPixel}
      />
      <Button asChild size="sm" flex="1">
        <a
          href={`/api/crossings/${id}/sources/${source.id}/elevation.tif?pixel=${pixel}`}
          download={`${source.derived!.name}.tif`}
          title="Save the ground as an elevation model: heights as numbers, proved against the triangles"
        >
          <Download {...ICON} />
          GeoTIFF
        </a>
      </Button>
    </Flex>
  );
}
