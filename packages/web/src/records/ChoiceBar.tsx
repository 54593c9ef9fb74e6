import { useState } from 'react';
import { Button, Flex, Input, Text } from '@chakra-ui/react';
import { Bookmark, Check, Filter, X } from 'lucide-react';
import { grouped, plural } from '../components/numbers';
import { ICON, Muted, Select } from '../components/parts';
import { BY_NUMBER } from './choose';

interface Props {
  picked: number;
  /** Records that have what the picked ones are known by; null while that is not in question. */
  takes: number | null;
  /** Records that the filter of the table takes; null where there is none. */
  filtered: number | null;
  total: number;
  /** The same filter is the rule of the layer already. */
  isRule: boolean;
  /** What the filter, or the picked records, are kept as already. */
  keptAs: string | null;
  by: string;
  fields: readonly string[];
  onBy(field: string): void;
  onShow(): void;
  onCross(): void;
  onKeep(name: string): void;
  onForget(): void;
  onClear(): void;
}

/** What can be done with the records that are picked, or that a filter takes. */
export function ChoiceBar({
  picked,
  takes,
  filtered,
  total,
  isRule,
  keptAs,
  by,
  fields,
  onBy,
  onShow,
  onCross,
  onKeep,
  onForget,
  onClear,
}: Props) {
  const [name, setName] = useState<string | null>(null);
  const keep = (): void => {
    if (name !== null && name.trim() !== '') onKeep(name.trim());
    setName(null);
  };
  const chosen = picked > 0 || filtered !== null;
  return (
    <Flex
      align="center"
      gap="9px"
      h="42px"
      px="16px"
      flex="none"
      borderTopWidth="1px"
      borderColor="line"
      bg={chosen ? 'verdigrisTint' : 'surface'}
      role="region"
      aria-label="Chosen records"
    >
      {!chosen ? (
        <Muted>
          Tick rows, or pick, box or outline records on the map. What is chosen can be all that crosses, or be kept under a name.
        </Muted>
      ) : (
        <>
          <Text fontWeight={650} whiteSpace="nowrap">
            {picked > 0 ? `${plural(picked, 'record')} picked` : `${grouped(filtered!)} of ${plural(total, 'record')}`}
          </Text>
          {picked > 0 && (
            <>
              <Muted whiteSpace="nowrap">known by</Muted>
              <Select
                label="What the picked records are known by"
                width="150px"
                value={by}
                options={[{ value: BY_NUMBER, label: 'their number' }, ...fields.map((f) => ({ value: f, label: f }))]}
                onChange={onBy}
              />
            </>
          )}
          {takes !== null && takes > picked && (
            <Text color="amberInk" fontWeight={550} whiteSpace="nowrap">
              {grouped(takes)} records have it
            </Text>
          )}
          {picked > 0 && (
            <Button size="sm" onClick={onShow}>
              <Filter {...ICON} size={13} />
              Show only these
            </Button>
          )}
          <Button size="sm" variant={isRule ? 'outline' : 'solid'} disabled={isRule} onClick={onCross}>
            {isRule ? (
              <>
                <Check {...ICON} size={13} />
                Only these cross
              </>
            ) : (
              'Let only these cross'
            )}
          </Button>
          {keptAs !== null ? (
            <Button size="sm" onClick={onForget}>
              <X {...ICON} size={13} />
              Forget “{keptAs}”
            </Button>
          ) : name === null ? (
            <Button size="sm" onClick={() => setName('')}>
              <Bookmark {...ICON} size={13} />
              Keep
            </Button>
          ) : (
            <>
              <Input
                size="sm"
                w="170px"
                autoFocus
                aria-label="Name of the selection"
                placeholder="its name"
                maxLength={80}
                value={name}
                onChange={(e) => setName(e.target.value)}
                onKeyDown={(e) => {
                  if (e.key === 'Enter') keep();
                  if (e.key === 'Escape') {
                    e.stopPropagation();
                    setName(null);
                  }
                }}
              />
              <Button size="sm" disabled={name.trim() === ''} onClick={keep}>
                Keep
              </Button>
            </>
          )}
          <Flex flex="1" />
          <Button size="sm" variant="ghost" onClick={onClear}>
            {picked > 0 ? 'Pick none' : 'All records'}
          </Button>
        </>
      )}
    </Flex>
  );
}
