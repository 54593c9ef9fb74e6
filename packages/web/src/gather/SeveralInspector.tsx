import { Button, Flex, Grid, Text } from '@chakra-ui/react';
import { ArrowRight } from 'lucide-react';
import { Link } from 'react-router';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, plural } from '../components/numbers';
import { ICON, Mono, Muted, Scroll, Section, ToneIcon } from '../components/parts';
import { keyOf, type LayerAt, worst } from './layer-at';

/** What several layers hold together, to be taken or left at once, or shaped by one rule. */
export function SeveralInspector({ layers, onTake }: { layers: readonly LayerAt[]; onTake(on: boolean): void }) {
  const { id } = useCrossing();
  const taken = layers.filter((at) => at.taken).length;
  const records = layers.reduce((n, at) => n + at.layer.profile.count, 0);
  return (
    <>
      <Section>
        <Text as="h2" textStyle="title">
          {plural(layers.length, 'layer')}
        </Text>
        <Muted textStyle="small">
          {plural(records, 'record')}, {taken === layers.length ? 'all taken' : taken === 0 ? 'all left' : `${taken} taken`}
        </Muted>
        <Flex gap="6px" mt="9px">
          <Button size="sm" disabled={taken === layers.length} onClick={() => onTake(true)}>
            Take all
          </Button>
          <Button size="sm" disabled={taken === 0} onClick={() => onTake(false)}>
            Leave all
          </Button>
          <Button asChild size="sm">
            <Link to={`/crossings/${id}/shape`} state={{ layers: layers.map(keyOf) }}>
              Shape
              <ArrowRight {...ICON} size={14} />
            </Link>
          </Button>
        </Flex>
      </Section>
      <Scroll borderTopWidth="1px" borderColor="hairline" px="14px" py="8px">
        {layers.map((at) => {
          const grave = worst(at);
          return (
            <Grid key={keyOf(at)} templateColumns="minmax(0, 1fr) 16px auto" gap="8px" h="24px" alignItems="center">
              <Mono truncate color={at.taken ? 'ink' : 'muted'} title={`${at.layer.profile.name} of ${at.source.name}`}>
                {at.layer.profile.name}
              </Mono>
              <span>{grave && <ToneIcon tone={grave} size={13} />}</span>
              <Mono color="muted">{grouped(at.layer.profile.count)}</Mono>
            </Grid>
          );
        })}
      </Scroll>
    </>
  );
}
