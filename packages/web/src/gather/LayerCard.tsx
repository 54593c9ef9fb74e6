import { Flex, Text } from '@chakra-ui/react';
import { grouped, plural } from '../components/numbers';
import { Mono, Muted } from '../components/parts';
import { ThumbnailView } from '../components/SmallPlanView';
import { type LayerAt, worst } from './layer-at';
import { groupNames } from './entity-names';
import { realSize } from './real-size';
import type { ChooseHow } from '../components/choosing';
import { SheetCard } from './SheetCard';

/** A layer on the contact sheet. */
export function LayerCard({
  at,
  small,
  current,
  onSelect,
  onTake,
}: {
  at: LayerAt;
  /** Its size and its objects are left to its tooltip. */
  small: boolean;
  current: boolean;
  onSelect(how: ChooseHow): void;
  onTake(taken: boolean): void;
}) {
  const { profile, plan } = at.layer;
  const groups = groupNames(profile.groups);
  return (
    <SheetCard
      name={profile.name}
      says={plural(profile.count, 'record')}
      picture={<ThumbnailView plan={plan} dim={!at.taken} />}
      grave={worst(at)}
      taken={at.taken}
      current={current}
      onSelect={onSelect}
      onTake={onTake}
    >
      <Text
        textStyle="small"
        mt="3px"
        truncate
        color={at.taken ? 'ink' : 'muted'}
        title={groups.map((g) => `${grouped(g.count)} ${g.name}`).join(' · ')}
      >
        {groups
          .slice(0, small ? 1 : 2)
          .map((g) => `${grouped(g.count)} ${g.name}`)
          .join(' · ')}
        {groups.length > (small ? 1 : 2) ? ' …' : ''}
      </Text>
      {!small && (
        <Flex justify="space-between" gap="6px">
          <Mono fontSize="11px" lineHeight="15px" color="muted">
            {realSize(at.source, profile.extent)}
          </Mono>
          {at.layer.states && at.layer.states.length > 0 && (
            <Muted fontSize="11px" lineHeight="15px" truncate title={`The drawing says of this layer: ${at.layer.states.join(', ')}`}>
              {at.layer.states.join(', ')}
            </Muted>
          )}
        </Flex>
      )}
    </SheetCard>
  );
}
