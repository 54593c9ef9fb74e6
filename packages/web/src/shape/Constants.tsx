import { Button, Grid } from '@chakra-ui/react';
import { Plus, X } from 'lucide-react';
import { ICON } from '../components/parts';
import { TypedText } from '../components/Typed';
import { Rule } from './Rule';
import { useShaping } from './shaping';

/** Fields with the same value on every record. */
export function Constants() {
  const { name, rule, edit } = useShaping();
  const constants = rule.constants ?? [];
  const change = (k: number, part: { name?: string; value?: string }): void =>
    edit(`constant of ${name}`, (r) => {
      r.constants = constants.map((c, n) => (n === k ? { ...c, ...part } : c)).filter((c) => c.name !== '');
    });
  return (
    <Rule title="Same value on every record" of={['constants']}>
      {constants.map((c, k) => (
        <Grid key={k} templateColumns="1fr 1fr 24px" gap="5px" mb="6px" alignItems="center">
          <TypedText
            label={`Name of constant ${k + 1}`}
            value={c.name}
            maxLength={64}
            onChange={(text) => change(k, { name: text.trim() })}
          />
          <TypedText
            label={`Value of constant ${k + 1}`}
            value={String(c.value)}
            maxLength={254}
            onChange={(text) => change(k, { value: text })}
          />
          <Button
            size="sm"
            variant="ghost"
            px="0"
            minW="24px"
            h="24px"
            aria-label={`Remove constant ${c.name}`}
            onClick={() =>
              edit(`remove constant ${c.name}`, (r) => {
                r.constants = constants.filter((_, n) => n !== k);
                if (r.constants.length === 0) delete r.constants;
              })
            }
          >
            <X {...ICON} size={13} />
          </Button>
        </Grid>
      ))}
      <Button
        size="sm"
        variant="ghost"
        px="4px"
        ml="-4px"
        h="24px"
        color="verdigrisInk"
        onClick={() =>
          edit(`add a constant to ${name}`, (r) => {
            r.constants = [...constants, { name: freeName(constants.map((c) => c.name)), value: name.toLowerCase() }];
          })
        }
      >
        <Plus {...ICON} size={13} />
        Add a field
      </Button>
    </Rule>
  );
}

function freeName(taken: readonly string[]): string {
  if (!taken.includes('kind')) return 'kind';
  for (let n = 2; ; n++) if (!taken.includes(`kind_${n}`)) return `kind_${n}`;
}
