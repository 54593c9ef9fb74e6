import { Box, Flex, Text } from '@chakra-ui/react';
import { File, Folder, Image } from 'lucide-react';
import type { Card, PictureSizes } from '@pontrel/contract/pictures';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import { cardChecks, type CardCheck, cardStem } from '@pontrel/core/crossing/card';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { bytes } from '../components/numbers';
import { ICON, Mono, Muted, Section, Select, ToneIcon } from '../components/parts';
import { useCardsQuery } from '../state/api';
import { useEditDeliverable } from './DeliverableHead';
import { PLAIN } from './plain-image';

/** What the chosen card asks for, and whether the image meets it; empty while no card is chosen. */
export const checksFor = (
  card: Card | undefined,
  { crs }: Deliverable,
  forecast: ImageForecast,
  sizes: PictureSizes | undefined,
): CardCheck[] => (card ? cardChecks(card.profile, forecast, crs, sizes?.bytes ?? null) : []);

/** The card of a field controller that an image is put on: its folders, and what its device asks for. */
export function CardSection({
  deliverable: d,
  forecast,
  sizes,
}: {
  deliverable: Deliverable;
  forecast: ImageForecast;
  sizes: PictureSizes | undefined;
}) {
  const { data: cards = [] } = useCardsQuery(undefined, { pollingInterval: 5000 });
  const edit = useEditDeliverable(d);
  const chosen = d.image?.card;
  const card = cards.find((c) => c.name === chosen);
  if (cards.length === 0 && chosen === undefined) return null;
  const choose = (name: string): void =>
    edit(name === '' ? `no card for ${d.name}` : `card ${name} for ${d.name}`, (x) => {
      x.image ??= { ...PLAIN };
      const to = cards.find((c) => c.name === name);
      if (!to) {
        delete x.image.card;
        delete x.stem;
        return;
      }
      x.image.card = name;
      x.stem = cardStem(to.profile, x.name, x.crs);
    });
  const checks = checksFor(card, d, forecast, sizes);
  return (
    <Section
      title="Card"
      aside={
        <Select
          label="Card of a field controller"
          value={chosen ?? ''}
          width="176px"
          onChange={choose}
          options={[
            { value: '', label: 'none' },
            ...cards.map((c) => ({ value: c.name, label: c.profile.model })),
            ...(chosen !== undefined && !card ? [{ value: chosen, label: `${chosen} (not in)` }] : []),
          ]}
        />
      }
    >
      {chosen !== undefined && !card && <Muted>The card {chosen} is not in the reader. Put it in to write to it.</Muted>}
      {card && (
        <>
          <Row icon={<Folder {...ICON} size={14} />} name={`${card.name}/`} depth={0} />
          <Row icon={<Folder {...ICON} size={14} />} name={`${card.profile.folder}/`} depth={1} />
          {forecast.files
            .filter((f) => f.endsWith(card.profile.extension) || /w$/.test(f))
            .map((f) => (
              <Row
                key={f}
                icon={/w$/.test(f) ? <File {...ICON} size={14} /> : <Image {...ICON} size={14} />}
                name={f}
                depth={2}
                own
                figure={/w$/.test(f) ? '' : sizes ? bytes(sizes.bytes) : '…'}
              />
            ))}
          <Box mt="6px" borderTopWidth="1px" borderColor="hairline" pt="4px">
            {checks.map((c) => (
              <Box key={c.says} py="1.5px">
                <Flex align="center" gap="8px">
                  <ToneIcon tone={c.how === null ? 'good' : 'wrong'} size={14} />
                  <Text flex="1" minW="0">
                    {c.says}
                  </Text>
                  <Mono fontSize="11.5px">{c.has}</Mono>
                </Flex>
                {c.how !== null && (
                  <Text textStyle="small" color="madderInk" pl="22px">
                    {c.how}
                  </Text>
                )}
              </Box>
            ))}
          </Box>
        </>
      )}
    </Section>
  );
}

function Row({ icon, name, depth, own, figure }: { icon: React.ReactNode; name: string; depth: number; own?: boolean; figure?: string }) {
  return (
    <Flex align="center" gap="7px" pl={`${16 * depth}px`} h="20px" color={own ? 'verdigrisInk' : 'muted'}>
      {icon}
      <Mono flex="1" fontSize="11.5px" truncate fontWeight={own ? 600 : 400}>
        {name}
      </Mono>
      {figure && <Mono fontSize="11.5px">{figure}</Mono>}
    </Flex>
  );
}
