import { Box, Flex, Text } from '@chakra-ui/react';
import type { SourceState } from '@pontrel/contract/crossing';
import { joinFields } from '@pontrel/core/content/features/profile';
import { renameLayer } from '@pontrel/core/crossing/rename-source';
import { recipeFaults } from '@pontrel/core/crossing/validate-recipe';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { layerRules, sourceRules, useChange, useCrossing } from '../crossing/use-crossing';
import { Mono, Muted, Select, ToneIcon } from '../components/parts';

/** What of the rules no longer fits a source that took another one's place, and a way to match it by hand. */
export function RecipeFaults({ source }: { source: SourceState }) {
  const { recipe, sources } = useCrossing();
  const change = useChange();
  const faults = recipeFaults(
    recipe,
    sources.map((s) => ({
      name: s.name,
      layers: s.layers.map((l) => l.profile),
      ...(s === source ? { stated: { crs: s.crs, unit: s.unit } } : {}),
    })),
  ).filter((f) => f.source === source.name);
  if (faults.length === 0) return null;
  const rules = recipe.sources[source.name]?.layers ?? {};
  const layers = source.layers.map((l) => l.profile.name);
  // what can be matched with something else, and what is only told
  const gone = faults.filter(({ finding }) => finding.code === 'recipe-layer').map((f) => f.layer!);
  const fieldsGone = faults.flatMap(({ layer, field }) => (layer !== undefined && field !== undefined ? [{ layer, field }] : []));
  const others = faults.filter(({ finding, field }) => finding.code !== 'recipe-layer' && field === undefined);
  const unruled = (layer: string): string[] => {
    const { profile } = source.layers.find((l) => l.profile.name === layer)!;
    return joinFields(profile.groups)
      .map((f) => f.name)
      .filter((name) => !(name in (rules[layer]?.fields ?? {})));
  };
  return (
    <Box
      role="group"
      aria-label={`What no longer fits ${source.name}`}
      position="relative"
      mt="8px"
      pt="6px"
      borderTopWidth="1px"
      borderColor="hairline"
    >
      {gone.map((layer) => (
        <Match
          key={layer}
          label={`The rules of ${layer} are for`}
          options={layers.filter((name) => saysNothing(rules[name]))}
          forget="no layer: forget them"
          onChoose={(to) =>
            change(to === null ? `forget the rules of ${layer}` : `rules of ${layer} for ${to}`, (draft) => {
              const own = sourceRules(draft, source.name).layers;
              if (to === null) delete own[layer];
              else {
                // it says nothing, and the rules that come in its place say all
                delete own[to];
                Object.assign(draft, renameLayer(draft, source.name, layer, to));
              }
            })
          }
        >
          No layer <Mono>{layer}</Mono> any more; its rules are kept.
        </Match>
      ))}
      {fieldsGone.map(({ layer, field }) => (
        <Match
          key={`${layer}\n${field}`}
          label={`The rule of ${field} is for`}
          options={unruled(layer)}
          forget="no field: forget it"
          onChoose={(to) =>
            change(to === null ? `forget the rule of ${field}` : `rule of ${field} for ${to}`, (draft) => {
              const rule = layerRules(draft, source.name, layer);
              const { [field]: moved, ...kept } = rule.fields!;
              if (to !== null) kept[to] = moved!;
              if (Object.keys(kept).length > 0) rule.fields = kept;
              else delete rule.fields;
            })
          }
        >
          In <Mono>{layer}</Mono> a rule is about a field <Mono>{field}</Mono>, which no record has.
        </Match>
      ))}
      {others.map(({ finding: f }, k) => (
        <Flex key={k} gap="7px" py="3px" align="flex-start">
          <Box pt="1px">
            <ToneIcon tone={f.severity === 'info' ? 'good' : 'caution'} size={13} />
          </Box>
          <Muted textStyle="small" minW="0" overflowWrap="anywhere">
            {f.location !== source.name && <Mono>{f.location!.slice(source.name.length + 2)} </Mono>}
            {f.message}
          </Muted>
        </Flex>
      ))}
    </Box>
  );
}

/** One fault with what it may be matched with. */
function Match({
  label,
  options,
  forget,
  onChoose,
  children,
}: {
  label: string;
  options: readonly string[];
  forget: string;
  onChoose(to: string | null): void;
  children: React.ReactNode;
}) {
  return (
    <Flex gap="7px" py="4px" align="flex-start">
      <Box pt="1px">
        <ToneIcon tone="caution" size={13} />
      </Box>
      <Box minW="0" flex="1">
        <Text textStyle="small" mb="3px" overflowWrap="anywhere">
          {children}
        </Text>
        <Select
          label={label}
          value=""
          width="100%"
          onChange={(to) => onChoose(to === FORGET ? null : to)}
          options={[
            { value: '', label: 'match with …' },
            ...options.map((name) => ({ value: name, label: name })),
            { value: FORGET, label: forget },
          ]}
        />
      </Box>
    </Flex>
  );
}

/** The choice that drops a rule; no layer and no field is called so. */
const FORGET = '\n';

const saysNothing = (rule: LayerRule | undefined): boolean => !rule || Object.keys(rule).length === 0;
